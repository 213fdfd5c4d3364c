/** What a face is, told by its triangles: a mesh has lost that it was a plane or a cylinder. */
import { EigenvalueDecomposition, Matrix, solve } from 'ml-matrix';
import { Vector3 } from 'three';
import type { Placement } from '../model/link.js';
import { matrixOf, type Body, type FaceRange } from './body.js';
import { flatCircle, noiseOf } from './circle.js';
import type { Point } from './near.js';

/** What was fitted to the corners of a face's triangles, which lie on the true surface. */
export type Surface = {
  readonly areaMm2: number;
  /** A point of the face: its middle. */
  readonly middle: Point;
} & (
  | { readonly kind: 'plane'; readonly normal: Point; readonly toleranceMm: number }
  | {
      readonly kind: 'cylinder';
      readonly axis: Point;
      /** On the axis, beside the middle. */
      readonly centre: Point;
      readonly radiusMm: number;
      /** Whether it is the inside of a hole. */
      readonly isHollow: boolean;
      readonly toleranceMm: number;
    }
  | {
      readonly kind: 'sphere';
      readonly centre: Point;
      readonly radiusMm: number;
      readonly toleranceMm: number;
    }
  /** Any other. */
  | { readonly kind: 'free' }
);

/** Fits a plane, a cylinder or a sphere, in this order. `O(triangles of the face)` */
export function surfaceOf(body: Body, face: FaceRange): Surface {
  const { corners, normals, areas } = trianglesOf(body, face);
  const areaMm2 = areas.reduce((sum, area) => sum + area, 0);
  const middle = weightedMiddle(body, face, areas, areaMm2);
  const size = Math.max(...corners.map((corner) => corner.distanceTo(middle)), 1e-9);
  const base = { areaMm2, middle: pointOf(middle) };
  return {
    ...base,
    ...(planeOf(corners, normals, areas, { middle, size }) ??
      cylinderOf(corners, normals, areas, { middle, size }) ??
      sphereOf(corners, size) ?? { kind: 'free' as const }),
  };
}

interface Triangles {
  readonly corners: readonly Vector3[];
  /** Of length one; zero for a triangle without area. */
  readonly normals: readonly Vector3[];
  readonly areas: readonly number[];
}

function cornersOf({ positions, indices }: Body, triangle: number): [Vector3, Vector3, Vector3] {
  const corner = (at: number): Vector3 =>
    new Vector3().fromArray(positions, (indices[triangle * 3 + at] ?? 0) * 3);
  return [corner(0), corner(1), corner(2)];
}

function trianglesOf(body: Body, { first, last }: FaceRange): Triangles {
  const corners = new Map<string, Vector3>();
  const normals: Vector3[] = [];
  const areas: number[] = [];
  for (let triangle = first; triangle <= last; triangle++) {
    const [a, b, c] = cornersOf(body, triangle);
    for (const corner of [a, b, c]) corners.set(`${corner.x} ${corner.y} ${corner.z}`, corner);
    const normal = b.clone().sub(a).cross(c.clone().sub(a));
    areas.push(normal.length() / 2);
    normals.push(normal.normalize());
  }
  return { corners: [...corners.values()], normals, areas };
}

function weightedMiddle(body: Body, { first }: FaceRange, areas: readonly number[], total: number): Vector3 {
  const middle = new Vector3();
  areas.forEach((area, at) => {
    const [a, b, c] = cornersOf(body, first + at);
    middle.addScaledVector(a.add(b).add(c), total > 0 ? area / total / 3 : 1 / areas.length / 3);
  });
  return middle;
}

interface Extent {
  readonly middle: Vector3;
  readonly size: number;
}

function planeOf(
  corners: readonly Vector3[],
  normals: readonly Vector3[],
  areas: readonly number[],
  { middle, size }: Extent,
): Extract<Surface, { kind: 'plane' }> | undefined {
  const normal = new Vector3();
  normals.forEach((each, at) => normal.addScaledVector(each, areas[at] ?? 0));
  if (normal.length() === 0) return undefined;
  normal.normalize();
  const toleranceMm = Math.max(...corners.map((corner) => Math.abs(corner.clone().sub(middle).dot(normal))));
  if (toleranceMm > noiseOf(corners, size)) return undefined;
  return { kind: 'plane', normal: pointOf(normal), toleranceMm } as Extract<Surface, { kind: 'plane' }>;
}

/** Normals of a cylinder lie across its axis: it is the direction in which they vary least. */
function cylinderOf(
  corners: readonly Vector3[],
  normals: readonly Vector3[],
  areas: readonly number[],
  { middle, size }: Extent,
): Extract<Surface, { kind: 'cylinder' }> | undefined {
  const spread = Matrix.zeros(3, 3);
  normals.forEach((normal, at) => {
    const parts = normal.toArray();
    for (let row = 0; row < 3; row++)
      for (let column = 0; column < 3; column++)
        spread.set(
          row,
          column,
          spread.get(row, column) + (areas[at] ?? 0) * (parts[row] ?? 0) * (parts[column] ?? 0),
        );
  });
  const { eigenvectorMatrix: vectors, realEigenvalues: values } = new EigenvalueDecomposition(spread, {
    assumeSymmetric: true,
  });
  const least = values.indexOf(Math.min(...values));
  const axis = new Vector3(...vectors.getColumn(least)).normalize();
  if (normals.some((normal) => Math.abs(normal.dot(axis)) > 1e-3)) return undefined;
  const across = new Vector3(...vectors.getColumn((least + 1) % 3)).cross(axis).normalize();
  const along = axis.clone().cross(across);
  const flat = corners.map((corner) => {
    const from = corner.clone().sub(middle);
    return [from.dot(across), from.dot(along)] as const;
  });
  const circle = flatCircle(flat);
  if (!circle || circle.toleranceMm > noiseOf(corners, size)) return undefined;
  const { x, y, radiusMm, toleranceMm } = circle;
  const centre = middle.clone().addScaledVector(across, x).addScaledVector(along, y);
  const outward = normals.reduce((sum, normal, at) => {
    const from = middle.clone().sub(centre);
    return sum + normal.dot(from.addScaledVector(axis, -from.dot(axis))) * (areas[at] ?? 0);
  }, 0);
  return {
    ...{ kind: 'cylinder', axis: pointOf(axis), centre: pointOf(centre), radiusMm, toleranceMm },
    // A whole turn has its middle on the axis; then a corner tells.
    isHollow:
      outward === 0 || isWhole(outward, radiusMm, areas) ? isHollowAt(corners, normals, centre) : outward < 0,
  } as Extract<Surface, { kind: 'cylinder' }>;
}

function isWhole(outward: number, radiusMm: number, areas: readonly number[]): boolean {
  return Math.abs(outward) < 1e-3 * radiusMm * areas.reduce((sum, area) => sum + area, 0);
}

function isHollowAt(corners: readonly Vector3[], normals: readonly Vector3[], centre: Vector3): boolean {
  const [corner] = corners;
  const [normal] = normals;
  return corner !== undefined && normal !== undefined && normal.dot(corner.clone().sub(centre)) < 0;
}

function sphereOf(
  corners: readonly Vector3[],
  size: number,
): Extract<Surface, { kind: 'sphere' }> | undefined {
  if (corners.length < 5) return undefined;
  const left = new Matrix(corners.map(({ x, y, z }) => [2 * x, 2 * y, 2 * z, 1]));
  const right = Matrix.columnVector(corners.map((corner) => corner.lengthSq()));
  const [x = NaN, y = NaN, z = NaN, rest = NaN] = solve(left, right, true).to1DArray();
  const centre = new Vector3(x, y, z);
  const radiusMm = Math.sqrt(rest + centre.lengthSq());
  if (!Number.isFinite(radiusMm)) return undefined;
  const toleranceMm = Math.max(...corners.map((corner) => Math.abs(corner.distanceTo(centre) - radiusMm)));
  if (toleranceMm > noiseOf(corners, 10 * size)) return undefined;
  return { kind: 'sphere', centre: pointOf(centre), radiusMm, toleranceMm } as Extract<
    Surface,
    { kind: 'sphere' }
  >;
}

function pointOf({ x, y, z }: Vector3): Point {
  return [x, y, z];
}

/** A surface of a body, in the frame that the body is placed in. */
export function placedSurface(surface: Surface, at: Placement): Surface {
  const matrix = matrixOf(at);
  const point = (of: Point): Point => pointOf(new Vector3(...of).applyMatrix4(matrix));
  const direction = (of: Point): Point => pointOf(new Vector3(...of).transformDirection(matrix));
  const middle = point(surface.middle);
  switch (surface.kind) {
    case 'plane':
      return { ...surface, middle, normal: direction(surface.normal) };
    case 'cylinder':
      return { ...surface, middle, axis: direction(surface.axis), centre: point(surface.centre) };
    case 'sphere':
      return { ...surface, middle, centre: point(surface.centre) };
    case 'free':
      return { ...surface, middle };
  }
}
