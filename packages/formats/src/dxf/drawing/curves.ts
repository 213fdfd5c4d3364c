/** Curves as spots along them. */
import type { Triple } from '../entities.js';

const TURN = 2 * Math.PI;
/** Pieces of a full turn. */
const PIECES = 180;
/** Of a spline between two knots. */
const PER_SPAN = 10;
const MOST_SPOTS = 20_000;

/** Piece of an ellipse in its own plane; `from` and `sweep` in radians of its parameter. */
export function ellipseSpots(
  centre: Triple,
  major: Triple,
  minor: Triple,
  { from, sweep }: { readonly from: number; readonly sweep: number },
): Triple[] {
  const pieces = Math.max(2, Math.ceil((Math.abs(sweep) / TURN) * PIECES));
  return Array.from({ length: pieces + 1 }, (_, at) => {
    const angle = from + (sweep * at) / pieces;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    return [
      centre[0] + cos * major[0] + sin * minor[0],
      centre[1] + cos * major[1] + sin * minor[1],
      centre[2] + cos * major[2] + sin * minor[2],
    ];
  });
}

/** Radians from one angle to another against the clock, above 0 and at most a full turn. */
export function sweepOf(from: number, to: number): number {
  const sweep = (((to - from) % TURN) + TURN) % TURN;
  return sweep < 1e-12 ? TURN : sweep;
}

/** The arc between two spots that bulges by the tangent of a quarter of its angle (DXF reference, LWPOLYLINE group 42). */
export function bulgeArc(
  from: Triple,
  to: Triple,
  bulge: number,
): { readonly centre: Triple; readonly radius: number; readonly from: number; readonly sweep: number } {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  // Distance of the centre from the chord's middle, by the chord.
  const away = (1 - bulge * bulge) / (4 * bulge);
  const centre: Triple = [(from[0] + to[0]) / 2 - dy * away, (from[1] + to[1]) / 2 + dx * away, from[2]];
  const radius = Math.hypot(from[0] - centre[0], from[1] - centre[1]);
  const sweep = 4 * Math.atan(bulge);
  const begin = bulge > 0 ? from : to;
  return {
    centre,
    radius,
    from: Math.atan2(begin[1] - centre[1], begin[0] - centre[0]),
    sweep: Math.abs(sweep),
  };
}

export interface Spline {
  readonly degree: number;
  readonly knots: readonly number[];
  readonly control: readonly Triple[];
  /** One for each control point, or none. */
  readonly weights: readonly number[];
}

/** By de Boor's algorithm; undefined where knots and control points do not belong together. */
export function splineSpots({ degree, knots, control, weights }: Spline): Triple[] | undefined {
  if (degree < 1 || degree > 15 || control.length <= degree || knots.length !== control.length + degree + 1)
    return undefined;
  if (knots.some((knot, at) => at > 0 && knot < (knots[at - 1] ?? 0))) return undefined;
  const homogeneous = control.map(([x, y, z], at) => {
    const weight = weights[at] ?? 1;
    return [x * weight, y * weight, z * weight, weight];
  });
  const spots: Triple[] = [];
  const per = Math.max(1, Math.min(PER_SPAN, Math.floor(MOST_SPOTS / control.length)));
  for (let span = degree; span < control.length; span++) {
    const [low, high] = [knots[span] ?? 0, knots[span + 1] ?? 0];
    if (high <= low) continue;
    for (let at = spots.length === 0 ? 0 : 1; at <= per; at++)
      spots.push(deBoor(homogeneous, knots, degree, span, low + ((high - low) * at) / per));
  }
  return spots.length > 1 ? spots : undefined;
}

function deBoor(
  control: readonly (readonly number[])[],
  knots: readonly number[],
  degree: number,
  span: number,
  at: number,
): Triple {
  const points = control.slice(span - degree, span + 1).map((point) => [...point]);
  for (let round = 1; round <= degree; round++)
    for (let each = degree; each >= round; each--) {
      const low = knots[each + span - degree] ?? 0;
      const high = knots[each + 1 + span - round] ?? 0;
      const part = high > low ? (at - low) / (high - low) : 0;
      const [before, own] = [points[each - 1], points[each]];
      if (before && own)
        for (let axis = 0; axis < 4; axis++)
          own[axis] = (1 - part) * (before[axis] ?? 0) + part * (own[axis] ?? 0);
    }
  const [x = 0, y = 0, z = 0, weight = 1] = points[degree] ?? [];
  return [x / weight, y / weight, z / weight];
}

/**
 * A smooth line through points that are all that is known of it: a cubic spline, its parameter the length of chords, without
 * bend at its ends. Others draw it with other bends, so it is near what was meant and no more.
 */
export function throughSpots(points: readonly Triple[], isClosed: boolean): Triple[] {
  // Around once more at both ends, so that the bends meet.
  const around = isClosed ? [...points.slice(-3), ...points, ...points.slice(0, 4)] : points;
  const spots = around.filter((point, at) => at === 0 || chord(point, around[at - 1] ?? point) > 0);
  if (spots.length < 3) return spots;
  const lengths = spots.slice(1).map((point, at) => chord(point, spots[at] ?? point));
  const bends = ([0, 1, 2] as const).map((axis) =>
    bendsOf(
      spots.map((spot) => spot[axis]),
      lengths,
    ),
  );
  const per = Math.max(1, Math.min(PER_SPAN, Math.floor(MOST_SPOTS / spots.length)));
  const [first, last] = isClosed ? [3, 3 + points.length] : [0, lengths.length];
  const line: Triple[] = [];
  for (let piece = first; piece < Math.min(last, lengths.length); piece++) {
    const [from, to, length] = [spots[piece], spots[piece + 1], lengths[piece]];
    if (!from || !to || length === undefined) continue;
    for (let step = line.length === 0 ? 0 : 1; step <= per; step++) {
      const [x, y, z] = ([0, 1, 2] as const).map((axis) => {
        const b = step / per;
        const a = 1 - b;
        const [before = 0, after = 0] = bends[axis]?.slice(piece, piece + 2) ?? [];
        return (
          a * from[axis] + b * to[axis] + (((a ** 3 - a) * before + (b ** 3 - b) * after) * length ** 2) / 6
        );
      });
      line.push([x ?? 0, y ?? 0, z ?? 0]);
    }
  }
  return line;
}

function chord(a: Triple, b: Triple): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

/** Second derivatives of the natural cubic spline at its points, by elimination. */
function bendsOf(values: readonly number[], lengths: readonly number[]): number[] {
  const count = values.length;
  const bends = new Array<number>(count).fill(0);
  const factors = new Array<number>(count).fill(0);
  const at = (list: readonly number[], index: number): number => list[index] ?? 0;
  for (let i = 1; i < count - 1; i++) {
    const [before, after] = [at(lengths, i - 1), at(lengths, i)];
    const slope = (at(values, i + 1) - at(values, i)) / after - (at(values, i) - at(values, i - 1)) / before;
    const pivot = 2 * (before + after) - before * at(factors, i - 1);
    factors[i] = after / pivot;
    bends[i] = (6 * slope - before * at(bends, i - 1)) / pivot;
  }
  for (let i = count - 2; i > 0; i--) bends[i] = at(bends, i) - at(factors, i) * at(bends, i + 1);
  return bends;
}
