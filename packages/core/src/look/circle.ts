/** Circles through points. */
import { Matrix, solve } from 'ml-matrix';
import { Vector3 } from 'three';

export interface FlatCircle {
  readonly x: number;
  readonly y: number;
  readonly radiusMm: number;
  /** How far the furthest point lies off. */
  readonly toleranceMm: number;
}

export interface FittedCircle {
  readonly centre: Vector3;
  readonly axis: Vector3;
  readonly radiusMm: number;
  readonly toleranceMm: number;
}

/** How far corners may lie off what they lie on, as a share of its size. */
const NOISE = 2e-5;
/** What single precision leaves of a coordinate, by its size: half a step, on both axes across. */
const PRECISION = 2 ** -23;

/** How far points may lie off a line, a circle or a plane of some size, millimetres. */
export function noiseOf(points: readonly Vector3[], size: number): number {
  let far = 0;
  for (const { x, y, z } of points) far = Math.max(far, Math.abs(x), Math.abs(y), Math.abs(z));
  return size * NOISE + far * PRECISION;
}

/** The circle of least algebraic error through points (Kåsa 1976). @returns undefined where there is none */
export function flatCircle(points: readonly (readonly [number, number])[]): FlatCircle | undefined {
  if (points.length < 3) return undefined;
  const left = new Matrix(points.map(([x, y]) => [2 * x, 2 * y, 1]));
  const right = Matrix.columnVector(points.map(([x, y]) => x * x + y * y));
  const [x = NaN, y = NaN, rest = NaN] = solve(left, right, true).to1DArray();
  const radiusMm = Math.sqrt(rest + x * x + y * y);
  if (!Number.isFinite(radiusMm)) return undefined;
  const toleranceMm = Math.max(...points.map(([px, py]) => Math.abs(Math.hypot(px - x, py - y) - radiusMm)));
  return { x, y, radiusMm, toleranceMm };
}

/**
 * The same in space, for points in order along it: of the plane that they lie in. What lies off that counts, too.
 *
 * Three points always lie on a circle and prove nothing, so four are wanted. `O(points)`
 */
export function fitCircle(points: readonly Vector3[]): FittedCircle | undefined {
  if (points.length < 4) return undefined;
  const middle = points.reduce((sum, point) => sum.add(point), new Vector3()).divideScalar(points.length);
  // By Newell's rule, which asks for no three points that are well apart.
  const axis = new Vector3();
  points.forEach((point, at) => {
    const next = points[(at + 1) % points.length] ?? point;
    axis.add(point.clone().sub(middle).cross(next.clone().sub(middle)));
  });
  if (axis.length() === 0) return undefined;
  axis.normalize();
  const across = new Vector3(Math.abs(axis.x) < 0.6 ? 1 : 0, Math.abs(axis.x) < 0.6 ? 0 : 1, 0)
    .cross(axis)
    .normalize();
  const upwards = axis.clone().cross(across);
  const from = points.map((point) => point.clone().sub(middle));
  const flat = flatCircle(from.map((point) => [point.dot(across), point.dot(upwards)] as const));
  if (!flat) return undefined;
  const off = Math.max(...from.map((point) => Math.abs(point.dot(axis))));
  return {
    ...{ axis, radiusMm: flat.radiusMm, toleranceMm: Math.max(off, flat.toleranceMm) },
    centre: middle.addScaledVector(across, flat.x).addScaledVector(upwards, flat.y),
  };
}
