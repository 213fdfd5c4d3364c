import styled from 'styled-components';
import { colour } from './theme.js';

/** The edge of a heading, to be dragged. @param onResize told the width that the column is to have */
export function ColumnEdge({
  onResize,
}: {
  readonly onResize: (widthPx: number) => void;
}): React.JSX.Element {
  return <Edge aria-hidden onPointerDown={(event) => followEdge(event, onResize)} />;
}

/** Drags the edge of a heading until the pointer is let go. */
function followEdge(event: React.PointerEvent<HTMLElement>, tell: (widthPx: number) => void): void {
  event.preventDefault();
  const edge = event.currentTarget;
  const left = edge.parentElement?.getBoundingClientRect().left ?? 0;
  edge.setPointerCapture(event.pointerId);
  const move = ({ clientX }: PointerEvent): void => tell(Math.max(MIN_WIDTH, Math.round(clientX - left)));
  edge.addEventListener('pointermove', move);
  edge.addEventListener('lostpointercapture', () => edge.removeEventListener('pointermove', move), {
    once: true,
  });
}

const MIN_WIDTH = 48;

const Edge = styled.span`
  position: absolute;
  right: 0;
  top: 6px;
  bottom: 6px;
  width: 7px;
  border-right: 1px solid ${colour.line};
  cursor: col-resize;
  touch-action: none;
  &:hover {
    border-right: 2px solid ${colour.petrol};
  }
`;
