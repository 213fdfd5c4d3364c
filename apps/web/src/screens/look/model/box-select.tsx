/** Lies over the picture while a box selects: what stands wholly in it. */
import { useState } from 'react';
import styled from 'styled-components';
import { colour } from '../../../ui/theme.js';
import type { LookStage } from './look-stage.js';

interface Drag {
  readonly x: number;
  readonly y: number;
  readonly toX: number;
  readonly toY: number;
}

export function BoxSelect({
  stage,
  onSelect,
}: {
  readonly stage: LookStage;
  readonly onSelect: (nodes: readonly number[], adds: boolean) => void;
}): React.JSX.Element {
  const [drag, setDrag] = useState<Drag>();
  const [origin, setOrigin] = useState<readonly [number, number]>([0, 0]);
  const box = drag && {
    left: Math.min(drag.x, drag.toX),
    right: Math.max(drag.x, drag.toX),
    top: Math.min(drag.y, drag.toY),
    bottom: Math.max(drag.y, drag.toY),
  };
  return (
    <Pane
      aria-hidden
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        const { left, top } = event.currentTarget.getBoundingClientRect();
        setOrigin([left, top]);
        setDrag({ x: event.clientX, y: event.clientY, toX: event.clientX, toY: event.clientY });
      }}
      onPointerMove={({ clientX, clientY }) =>
        setDrag((known) => known && { ...known, toX: clientX, toY: clientY })
      }
      onPointerUp={({ shiftKey }) => {
        if (box) onSelect(stage.inside(box), shiftKey);
        setDrag(undefined);
      }}
      onPointerCancel={() => setDrag(undefined)}
    >
      {box ? (
        <Frame
          style={{
            left: box.left - origin[0],
            top: box.top - origin[1],
            width: box.right - box.left,
            height: box.bottom - box.top,
          }}
        />
      ) : null}
    </Pane>
  );
}

const Pane = styled.div`
  position: absolute;
  inset: 0;
  z-index: 1;
  cursor: crosshair;
  touch-action: none;
`;
const Frame = styled.div`
  position: absolute;
  border: 1.5px dashed ${colour.petrol};
  background: color-mix(in srgb, ${colour.petrol} 12%, transparent);
`;
