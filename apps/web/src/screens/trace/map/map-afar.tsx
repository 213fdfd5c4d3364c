/** A map seen from afar: all of it in a few shapes, since nothing could be read, and in the overview. */
import type { MiniMapNodeProps, Node } from '@xyflow/react';
import { createContext, memo, useContext, useMemo } from 'react';
import { colour } from '../../../ui/theme.js';
import { boxesOf, outlineOf, wayBetween, type DrawnLine, type Drawing } from './drawing.js';

/** Id of the node that shows the whole map. */
export const FAR = 'far';
export type FarNode = Node<Record<string, never>, 'far'>;

/** What is drawn, and whether it is seen from afar. */
export const Seen = createContext<{ readonly drawing: Drawing | undefined; readonly isFar: boolean }>({
  drawing: undefined,
  isFar: false,
});

/** All of the map, in place of everything else. */
export const MapFar = memo(function MapFar(): React.JSX.Element | null {
  const { drawing, isFar } = useContext(Seen);
  return isFar && drawing ? <Afar drawing={drawing} /> : null;
});

function Afar({ drawing }: { readonly drawing: Drawing }): React.JSX.Element {
  const { x, y, widthPx, heightPx } = drawing.bounds;
  const { plates, focus } = useShapes(drawing);
  const ways = useMemo(() => {
    const boxes = boxesOf(drawing);
    const all = (lines: readonly DrawnLine[]): string =>
      lines
        .map(({ from, to }) => {
          const [a, b] = [boxes.get(from), boxes.get(to)];
          return a && b ? wayBetween(a, b) : '';
        })
        .join('');
    return {
      current: all(drawing.lines.filter(({ isBehind }) => !isBehind)),
      behind: all(drawing.lines.filter(({ isBehind }) => isBehind)),
      frames: outlineOf(drawing.frames),
    };
  }, [drawing]);
  return (
    <svg width={widthPx} height={heightPx} viewBox={`${x} ${y} ${widthPx} ${heightPx}`} aria-hidden>
      <path d={ways.frames} fill="none" stroke={colour.line} strokeWidth={2} />
      <path d={ways.current} fill="none" stroke={colour.lineStrong} />
      <path d={ways.behind} fill="none" stroke={colour.copper} />
      <path d={plates} fill={colour.raised} stroke={colour.lineStrong} strokeWidth={3} />
      <path d={focus} fill={colour.petrol} />
    </svg>
  );
}

/** In the overview all plates are one shape, which stands in for the node of the whole map. */
export function Overview({ id }: MiniMapNodeProps): React.JSX.Element | null {
  const { drawing } = useContext(Seen);
  return id === FAR && drawing ? <AllPlates drawing={drawing} /> : null;
}

function AllPlates({ drawing }: { readonly drawing: Drawing }): React.JSX.Element {
  const { plates, focus } = useShapes(drawing);
  // Outlined so that they can be seen, however small the overview makes them.
  const dotPx = Math.max(drawing.bounds.widthPx, drawing.bounds.heightPx) / 300;
  return (
    <>
      <path d={plates} fill={colour.lineStrong} stroke={colour.lineStrong} strokeWidth={dotPx} />
      <path d={focus} fill={colour.petrol} stroke={colour.petrol} strokeWidth={4 * dotPx} />
    </>
  );
}

function useShapes({ plates }: Drawing): { readonly plates: string; readonly focus: string } {
  return useMemo(
    () => ({
      plates: outlineOf(plates.filter(({ node }) => node.role !== 'focus')),
      focus: outlineOf(plates.filter(({ node }) => node.role === 'focus')),
    }),
    [plates],
  );
}
