/** Distances between two spots of a flat picture, with what the pointer catches. */
import { flat, snapAt, type Mark, type Snap, type Spot } from '@stem-trace/core/sheet';
import { useMemo, useState } from 'react';
import type { BoardTool } from '../../../pictures/board/board.js';
import { toScreen, type View } from '../../../pictures/board/view.js';
import { colour } from '../../../ui/theme.js';

export interface Measuring {
  readonly tool: BoardTool;
  readonly over: (view: View) => React.ReactNode;
  readonly says: string;
  /** What the pointer catches at a spot, or the spot itself. */
  readonly caught: (spot: Spot) => Snap;
  readonly clear: () => void;
}

export interface MeasuringOptions {
  readonly marks: readonly Mark[];
  /** How far the pointer reaches, in units of the picture, at the view that is shown. */
  readonly reach: () => number;
  readonly sayLength: (units: number) => string;
}

export function useMeasuring({ marks, reach, sayLength }: MeasuringOptions): Measuring {
  const [ends, setEnds] = useState<readonly Snap[]>([]);
  const [near, setNear] = useState<Snap>();
  const plain = useMemo(() => [...flat(marks)], [marks]);
  const caught = (spot: Spot): Snap => snapAt(plain, spot, reach()) ?? { at: spot, what: 'on the line' };
  const [from, to] = ends;
  const end = to ?? (from && near);
  return {
    tool: {
      cursor: 'crosshair',
      move: (spot) => setNear(snapAt(plain, spot, reach())),
      down: (spot) => setEnds(ends.length === 1 ? [...ends, caught(spot)] : [caught(spot)]),
    },
    over: (view) => (
      <>
        {near ? <Catch at={toScreen(view, near.at)} what={near.what} /> : null}
        {from ? <Catch at={toScreen(view, from.at)} what={from.what} /> : null}
        {from && end ? <Span from={toScreen(view, from.at)} to={toScreen(view, end.at)} /> : null}
      </>
    ),
    says: sayMeasure(from, end, near, sayLength),
    caught,
    clear: () => setEnds([]),
  };
}

function sayMeasure(
  from: Snap | undefined,
  to: Snap | undefined,
  near: Snap | undefined,
  say: (units: number) => string,
): string {
  if (!from)
    return near?.arc ? `${near.what}: ${sayCircle(near.arc, say)}` : 'Point at where to measure from.';
  if (!to) return from.arc ? `${from.what}: ${sayCircle(from.arc, say)}` : 'Point at where to measure to.';
  const [across, up] = [to.at[0] - from.at[0], to.at[1] - from.at[1]];
  const both = [from, to].map(({ arc, what }) => (arc ? `${what} of ${sayCircle(arc, say)}` : what));
  return `${say(Math.hypot(across, up))} from ${both.join(' to ')}; across ${say(Math.abs(across))}, up ${say(Math.abs(up))}`;
}

function sayCircle({ radius }: { readonly radius: number }, say: (units: number) => string): string {
  return `⌀ ${say(2 * radius)}`;
}

/** An end is a square, a centre a ring with a cross, a middle a triangle: told apart without colour. */
function Catch({ at: [x, y], what }: { readonly at: Spot; readonly what: Snap['what'] }): React.JSX.Element {
  const line = { fill: 'none', stroke: colour.copper, strokeWidth: 1.6 };
  if (what === 'end') return <rect x={x - 5} y={y - 5} width={10} height={10} {...line} />;
  if (what === 'middle') return <path d={`M${x} ${y - 6}L${x + 6} ${y + 5}H${x - 6}Z`} {...line} />;
  if (what === 'centre')
    return (
      <path
        d={`M${x - 6} ${y}a6 6 0 1 0 12 0a6 6 0 1 0 -12 0M${x - 9} ${y}H${x + 9}M${x} ${y - 9}V${y + 9}`}
        {...line}
      />
    );
  if (what === 'quarter')
    return <path d={`M${x} ${y - 6}L${x + 6} ${y}L${x} ${y + 6}L${x - 6} ${y}Z`} {...line} />;
  return <circle cx={x} cy={y} r={4} {...line} />;
}

function Span({ from, to }: { readonly from: Spot; readonly to: Spot }): React.JSX.Element {
  return (
    <line
      {...{ x1: from[0], y1: from[1], x2: to[0], y2: to[1] }}
      stroke={colour.copper}
      strokeWidth={1.6}
      strokeDasharray="6 3"
    />
  );
}
