/** Views of solids as lines on paper: visible and hidden edges, seen along an axis. */
import {
  cast,
  drawProjection,
  getOC,
  makeCompound,
  type AnyShape,
  type Curve2D,
  type Shape3D,
} from 'replicad';
import type { Placement } from '@stem-trace/core';

export type Polyline = readonly (readonly [number, number])[];

export interface View {
  readonly visible: readonly Polyline[];
  readonly hidden: readonly Polyline[];
  readonly width: number;
  readonly height: number;
}

export type Side = 'front' | 'top' | 'right';

export type Detail = 'full' | 'coarse';

/** Pieces that a curve is drawn with. */
const CURVE_PIECES: Readonly<Record<Detail, number>> = { full: 24, coarse: 8 };

/** A view with its lower left corner at the origin; a coarse one leaves out what is hidden. */
export function viewOf(shape: AnyShape, side: Side, detail: Detail): View {
  const { visible, hidden } = drawProjection(shape, side);
  const pieces = CURVE_PIECES[detail];
  const lines = {
    visible: polylines(visible, pieces),
    hidden: detail === 'full' ? polylines(hidden, pieces) : [],
  };
  const points = [...lines.visible, ...lines.hidden].flat();
  const [minX, maxX] = range(points.map(([x]) => x));
  const [minY, maxY] = range(points.map(([, y]) => y));
  const move = (line: Polyline): Polyline => line.map(([x, y]) => [x - minX, y - minY]);
  return {
    visible: lines.visible.map(move),
    hidden: lines.hidden.map(move),
    width: maxX - minX,
    height: maxY - minY,
  };
}

/** One shape of many, each where it stands. */
export function placed(shapes: readonly { readonly shape: Shape3D; readonly at: Placement }[]): AnyShape {
  const kernel = getOC();
  return makeCompound(
    shapes.map(({ shape, at }) => {
      const [a = 1, b = 0, c = 0, x = 0, d = 0, e = 1, f = 0, y = 0, g = 0, h = 0, i = 1, z = 0] = at;
      const move = new kernel.gp_Trsf();
      move.SetValues(a, b, c, x, d, e, f, y, g, h, i, z);
      const moved = new kernel.BRepBuilderAPI_Transform(shape.wrapped, move, true);
      return cast(moved.Shape());
    }),
  );
}

/** Whatever curves a projection is made of, however deeply they are grouped. */
function polylines(drawn: object, pieces: number): Polyline[] {
  if ('innerShape' in drawn && drawn.innerShape) return polylines(drawn.innerShape, pieces);
  if ('blueprints' in drawn)
    return (drawn.blueprints as object[]).flatMap((blueprint) => polylines(blueprint, pieces));
  if ('curves' in drawn) return joined((drawn.curves as Curve2D[]).map((curve) => polyline(curve, pieces)));
  return [];
}

function polyline(curve: Curve2D, most: number): Polyline {
  const { firstParameter: from, lastParameter: to } = curve;
  const pieces = curve.geomType === 'LINE' ? 1 : most;
  return Array.from({ length: pieces + 1 }, (_, index) => {
    const [x, y] = curve.value(from + ((to - from) * index) / pieces);
    return [round(x), round(y)] as const;
  });
}

/** Lines that go on where the one before ends become one. */
function joined(lines: readonly Polyline[]): Polyline[] {
  const out: (readonly [number, number])[][] = [];
  for (const line of lines) {
    const before = out.at(-1)?.at(-1);
    const [first] = line;
    if (before && first && before[0] === first[0] && before[1] === first[1])
      out.at(-1)?.push(...line.slice(1));
    else out.push([...line]);
  }
  return out;
}

function range(values: readonly number[]): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const value of values) {
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  return low > high ? [0, 0] : [low, high];
}

function round(value: number): number {
  return Math.round(value * 1000) / 1000;
}
