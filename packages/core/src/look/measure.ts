/** What two faces are to each other. */
import { Vector3 } from 'three';
import type { Point } from './near.js';
import type { Surface } from './surface.js';

/** Absent where it means nothing: the distance of planes that meet. */
export interface Between {
  /** Of planes side by side, of axes side by side, of an axis along a plane, of centres. */
  readonly distanceMm?: number;
  /** Between 0 and 90; of normals, of axes, or of an axis and a plane. */
  readonly angleDegrees?: number;
  /** How far the distance may be off. */
  readonly toleranceMm: number;
}

/** As directions: what lies apart by less is side by side. */
const PARALLEL_DEGREES = 0.02;

/** @returns undefined where one of them is no surface that was understood */
export function betweenSurfaces(one: Surface, other: Surface): Between | undefined {
  if (one.kind === 'free' || other.kind === 'free') return undefined;
  const toleranceMm = one.toleranceMm + other.toleranceMm;
  const [first, second] = [directionOf(one), directionOf(other)];
  const from = new Vector3(...placeOf(other)).sub(new Vector3(...placeOf(one)));
  if (!first || !second) return { distanceMm: pointDistance(from, one, other), toleranceMm };
  const angle = (Math.acos(Math.min(1, Math.abs(first.dot(second)))) * 180) / Math.PI;
  if (one.kind === other.kind) {
    if (angle > PARALLEL_DEGREES) return { angleDegrees: angle, toleranceMm };
    const along = Math.abs(from.dot(first));
    const distanceMm = one.kind === 'plane' ? along : across(from, first);
    return { distanceMm, angleDegrees: 0, toleranceMm };
  }
  // An axis and a plane: the angle between them is what is left to a right one.
  const normal = one.kind === 'plane' ? first : second;
  if (90 - angle > PARALLEL_DEGREES) return { angleDegrees: 90 - angle, toleranceMm };
  return { distanceMm: Math.abs(from.dot(normal)), angleDegrees: 0, toleranceMm };
}

function directionOf(surface: Exclude<Surface, { kind: 'free' }>): Vector3 | undefined {
  if (surface.kind === 'plane') return new Vector3(...surface.normal);
  return surface.kind === 'cylinder' ? new Vector3(...surface.axis) : undefined;
}

function placeOf(surface: Exclude<Surface, { kind: 'free' }>): Point {
  return surface.kind === 'plane' ? surface.middle : surface.centre;
}

/** Of a sphere's centre to a plane, an axis or another centre. */
function pointDistance(
  from: Vector3,
  one: Exclude<Surface, { kind: 'free' }>,
  other: Exclude<Surface, { kind: 'free' }>,
): number {
  const flat = [one, other].find(({ kind }) => kind !== 'sphere');
  const direction = flat && directionOf(flat);
  if (!flat || !direction) return from.length();
  return flat.kind === 'plane' ? Math.abs(from.dot(direction)) : across(from, direction);
}

function across(from: Vector3, axis: Vector3): number {
  return from.clone().addScaledVector(axis, -from.dot(axis)).length();
}
