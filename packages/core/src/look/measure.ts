/** What two things that were picked are to each other. */
import { Vector3 } from 'three';
import type { Edge } from './edges.js';
import type { Point } from './near.js';
import type { Surface } from './surface.js';

/** What is measured from: the point, axis or plane that a face, an edge or a corner stands for. */
export type Datum = { readonly toleranceMm: number; readonly at: Point } & (
  | { readonly kind: 'point' }
  | { readonly kind: 'axis'; readonly direction: Point }
  | { readonly kind: 'plane'; readonly direction: Point }
);

/** Absent where it means nothing: the distance of planes that meet. */
export interface Between {
  /** Of planes or axes side by side, of an axis along a plane, of axes that pass each other, of points from each of these. */
  readonly distanceMm?: number;
  /** Between 0 and 90; of normals, of axes, or of an axis and a plane. */
  readonly angleDegrees?: number;
  /** How far the distance may be off. */
  readonly toleranceMm: number;
}

/** As directions: what lies apart by less is side by side. */
const PARALLEL_DEGREES = 0.02;

/** A sphere stands for its centre. @returns undefined for a surface that was not understood */
export function surfaceDatum(surface: Surface): Datum | undefined {
  switch (surface.kind) {
    case 'plane': {
      const { middle: at, normal: direction, toleranceMm } = surface;
      return { kind: 'plane', at, direction, toleranceMm };
    }
    case 'cylinder': {
      const { centre: at, axis: direction, toleranceMm } = surface;
      return { kind: 'axis', at, direction, toleranceMm };
    }
    case 'sphere':
      return { kind: 'point', at: surface.centre, toleranceMm: surface.toleranceMm };
    case 'free':
      return undefined;
  }
}

/** A line stands for itself, an arc for its centre. @returns undefined for any other curve */
export function edgeDatum(edge: Edge): Datum | undefined {
  if (edge.kind === 'curve') return undefined;
  const { toleranceMm } = edge;
  if (edge.kind === 'arc') return { kind: 'point', at: edge.centre, toleranceMm };
  const [from = [0, 0, 0], to = from] = [edge.points[0], edge.points.at(-1)];
  const direction = new Vector3(...to).sub(new Vector3(...from)).normalize();
  return { kind: 'axis', at: from, direction: direction.toArray(), toleranceMm };
}

/** `O(1)` */
export function between(one: Datum, other: Datum): Between {
  const toleranceMm = one.toleranceMm + other.toleranceMm;
  const from = new Vector3(...other.at).sub(new Vector3(...one.at));
  if (one.kind === 'point') return { distanceMm: fromPoint(from, other), toleranceMm };
  if (other.kind === 'point') return { distanceMm: fromPoint(from, one), toleranceMm };
  const [first, second] = [new Vector3(...one.direction), new Vector3(...other.direction)];
  const apart = (Math.acos(Math.min(1, Math.abs(first.dot(second)))) * 180) / Math.PI;
  if (one.kind === other.kind) {
    if (apart <= PARALLEL_DEGREES) {
      const distanceMm = one.kind === 'plane' ? Math.abs(from.dot(first)) : across(from, first);
      return { distanceMm, angleDegrees: 0, toleranceMm };
    }
    if (one.kind === 'plane') return { angleDegrees: apart, toleranceMm };
    const normal = first.clone().cross(second).normalize();
    return { distanceMm: Math.abs(from.dot(normal)), angleDegrees: apart, toleranceMm };
  }
  // An axis and a plane: the angle between them is what is left to a right one.
  const angleDegrees = 90 - apart;
  if (angleDegrees > PARALLEL_DEGREES) return { angleDegrees, toleranceMm };
  const normal = one.kind === 'plane' ? first : second;
  return { distanceMm: Math.abs(from.dot(normal)), angleDegrees: 0, toleranceMm };
}

function fromPoint(from: Vector3, to: Datum): number {
  if (to.kind === 'point') return from.length();
  const direction = new Vector3(...to.direction);
  return to.kind === 'plane' ? Math.abs(from.dot(direction)) : across(from, direction);
}

function across(from: Vector3, axis: Vector3): number {
  return from.clone().addScaledVector(axis, -from.dot(axis)).length();
}
