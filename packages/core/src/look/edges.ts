/** Edges of bodies: where faces meet, told by their triangles. */
import { Vector3 } from 'three';
import type { Placement } from '../model/link.js';
import { matrixOf, type Body } from './body.js';
import { fitCircle, noiseOf } from './circle.js';
import type { Point } from './near.js';

/** A line or curve along which two faces meet, or at which a face ends. */
export type Edge = {
  /** From one end to the other; a closed one does not say its first point again. */
  readonly points: readonly Point[];
  readonly isClosed: boolean;
  readonly lengthMm: number;
  /** How far the length may be off. */
  readonly toleranceMm: number;
  /** Places of the faces in the body's list. */
  readonly faces: readonly number[];
} & (
  | { readonly kind: 'line' }
  | { readonly kind: 'arc'; readonly centre: Point; readonly axis: Point; readonly radiusMm: number }
  | { readonly kind: 'curve' }
);

/** Corners nearer to each other are one, as a share of the body's size: what single precision leaves of coordinates. */
const SAME = 1e-6;
/** All edges of a body. `O(triangles)` */
export function edgesOf(body: Body): Edge[] {
  const { corners, places } = weld(body);
  return chains(borders(body, corners), places).map(({ way, isClosed, faces }) =>
    shaped(
      way.map((corner) => places[corner] ?? [0, 0, 0]),
      { isClosed, faces, deflectionMm: body.deflectionMm },
    ),
  );
}

/** Corners that lie at the same place are one: each face has its own. */
function weld({ positions, indices }: Body): {
  readonly corners: Uint32Array;
  readonly places: readonly Point[];
} {
  let size = 0;
  for (const value of positions) size = Math.max(size, Math.abs(value));
  const step = size * SAME || 1;
  const known = new Map<string, number>();
  const places: Point[] = [];
  const corners = new Uint32Array(indices.length);
  const named = new Int32Array(positions.length / 3).fill(-1);
  indices.forEach((index, at) => {
    let corner = named[index] ?? -1;
    if (corner < 0) {
      const place: Point = [
        positions[index * 3] ?? 0,
        positions[index * 3 + 1] ?? 0,
        positions[index * 3 + 2] ?? 0,
      ];
      const key = place.map((value) => Math.round(value / step)).join(' ');
      corner = known.get(key) ?? places.push(place) - 1;
      known.set(key, corner);
      named[index] = corner;
    }
    corners[at] = corner;
  });
  return { corners, places };
}

interface Border {
  readonly from: number;
  readonly to: number;
  /** Those that meet here, in order, as a word. */
  readonly between: string;
}

/** Sides of triangles at which another face begins, or none. */
function borders({ indices, faces }: Body, corners: Uint32Array): Border[] {
  const sides = new Map<number, { readonly from: number; readonly to: number; readonly faces: number[] }>();
  const faceOf = new Int32Array(indices.length / 3).fill(-1);
  faces.forEach(({ first, last }, face) => faceOf.fill(face, first, last + 1));
  const most = corners.reduce((high, corner) => Math.max(high, corner), 0) + 1;
  for (let at = 0; at < corners.length; at++) {
    const [from, to] = [corners[at] ?? 0, corners[at % 3 === 2 ? at - 2 : at + 1] ?? 0];
    if (from === to) continue;
    const [low, high] = from < to ? [from, to] : [to, from];
    const side = sides.get(low * most + high) ?? { from: low, to: high, faces: [] };
    sides.set(low * most + high, side);
    side.faces.push(faceOf[Math.floor(at / 3)] ?? -1);
  }
  return [...sides.values()].flatMap(({ from, to, faces: met }) => {
    const different = [...new Set(met)].sort((a, b) => a - b);
    return different.length > 1 || met.length === 1 ? { from, to, between: different.join(' ') } : [];
  });
}

interface Chain {
  readonly way: readonly number[];
  readonly isClosed: boolean;
  readonly faces: readonly number[];
}

/** Where a face ends at nothing, only a sharp turn tells that one edge follows another; curves turn by less a step. */
const SHARP = (30 * Math.PI) / 180;

/** Goes along sides between the same faces, from corner to corner of the body; what has no corner is closed. */
function chains(sides: readonly Border[], places: readonly Point[]): Chain[] {
  const around = new Map<number, Border[]>();
  for (const side of sides)
    for (const corner of [side.from, side.to]) {
      const known = around.get(corner);
      if (known) known.push(side);
      else around.set(corner, [side]);
    }
  const isEnd = (corner: number): boolean => {
    const met = around.get(corner) ?? [];
    const [one, other] = met;
    if (met.length !== 2 || !one || !other || one.between !== other.between) return true;
    return !one.between.includes(' ') && turnAt(corner, one, other) > SHARP;
  };
  const turnAt = (corner: number, one: Border, other: Border): number => {
    const to = (side: Border): Vector3 =>
      new Vector3(...(places[side.from === corner ? side.to : side.from] ?? [0, 0, 0]));
    const at = new Vector3(...(places[corner] ?? [0, 0, 0]));
    return at.clone().sub(to(one)).angleTo(to(other).sub(at));
  };
  const used = new Set<Border>();
  const goFrom = (start: number, first: Border): Chain => {
    const way = [start];
    let side: Border | undefined = first;
    let at = start;
    while (side) {
      used.add(side);
      at = side.from === at ? side.to : side.from;
      if (at === start) break;
      way.push(at);
      side = isEnd(at) ? undefined : around.get(at)?.find((next) => !used.has(next));
    }
    const faces = first.between.split(' ').map(Number);
    return { way, isClosed: at === start, faces: faces.filter((face) => face >= 0) };
  };
  const found: Chain[] = [];
  for (const [corner, met] of around)
    if (isEnd(corner)) for (const side of met) if (!used.has(side)) found.push(goFrom(corner, side));
  for (const side of sides) if (!used.has(side)) found.push(goFrom(side.from, side));
  return found;
}

interface ShapeOptions {
  readonly isClosed: boolean;
  readonly faces: readonly number[];
  readonly deflectionMm: number;
}

function shaped(points: readonly Point[], { isClosed, faces, deflectionMm }: ShapeOptions): Edge {
  const base = { points, isClosed, faces };
  const vectors = points.map((point) => new Vector3(...point));
  const along = lengthOf(vectors, isClosed);
  const [first, last] = [vectors[0] ?? new Vector3(), vectors.at(-1) ?? new Vector3()];
  const noise = noiseOf(vectors, along);
  if (!isClosed && vectors.every((point) => offLine(point, first, last) <= noise))
    return { ...base, kind: 'line', lengthMm: first.distanceTo(last), toleranceMm: noiseOf(vectors, 0) };
  const circle = fitCircle(vectors);
  if (circle && circle.toleranceMm <= noiseOf(vectors, circle.radiusMm)) {
    const { centre, axis, radiusMm, toleranceMm } = circle;
    const turn = isClosed ? 2 * Math.PI : turned(vectors, circle);
    return {
      ...base,
      ...{ kind: 'arc', centre: pointOf(centre), axis: pointOf(axis), radiusMm },
      ...{ lengthMm: radiusMm * turn, toleranceMm: toleranceMm * turn },
    };
  }
  // A chord is shorter than its curve by at most 8/3 of the square of what it lies off, by its length.
  const short = vectors.length > 1 ? ((8 / 3) * deflectionMm ** 2 * (vectors.length - 1) ** 2) / along : 0;
  return { ...base, kind: 'curve', lengthMm: along, toleranceMm: Math.min(short, along) };
}

function lengthOf(points: readonly Vector3[], isClosed: boolean): number {
  const next = isClosed ? [...points.slice(1), ...points.slice(0, 1)] : points.slice(1);
  return next.reduce((sum, point, at) => sum + point.distanceTo(points[at] ?? point), 0);
}

function offLine(point: Vector3, from: Vector3, to: Vector3): number {
  const along = to.clone().sub(from).normalize();
  const reach = point.clone().sub(from);
  return reach.addScaledVector(along, -reach.dot(along)).length();
}

/** Sum of the angles from point to point, seen from the centre. */
function turned(points: readonly Vector3[], { centre }: { readonly centre: Vector3 }): number {
  return points.slice(1).reduce((sum, point, at) => {
    const before = (points[at] ?? point).clone().sub(centre);
    return sum + before.angleTo(point.clone().sub(centre));
  }, 0);
}

function pointOf({ x, y, z }: Vector3): Point {
  return [x, y, z];
}

/** Halfway along an edge; on its circle where it is an arc. */
export function middleOf({ points, isClosed, lengthMm, ...edge }: Edge): Point {
  const vectors = (isClosed ? [...points, ...points.slice(0, 1)] : points).map(
    (each) => new Vector3(...each),
  );
  let left = lengthOf(vectors, false) / 2;
  for (const [at, point] of vectors.slice(1).entries()) {
    const before = vectors[at] ?? point;
    const step = before.distanceTo(point);
    if (step >= left && step > 0) {
      const middle = before.clone().lerp(point, left / step);
      if (edge.kind !== 'arc') return pointOf(middle);
      const centre = new Vector3(...edge.centre);
      return pointOf(middle.sub(centre).setLength(edge.radiusMm).add(centre));
    }
    left -= step;
  }
  return points[0] ?? [0, 0, 0];
}

/** An edge of a body, in the frame that the body is placed in. */
export function placedEdge(edge: Edge, at: Placement): Edge {
  const matrix = matrixOf(at);
  const put = (of: Point): Point => pointOf(new Vector3(...of).applyMatrix4(matrix));
  const points = edge.points.map(put);
  if (edge.kind !== 'arc') return { ...edge, points };
  const axis = pointOf(new Vector3(...edge.axis).transformDirection(matrix));
  return { ...edge, points, centre: put(edge.centre), axis };
}
