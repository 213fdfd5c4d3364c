/** How far one shape lies from another, where both are the same part in two states. */
import { Vector3 } from 'three';
import type { SolidBody } from './body.js';
import type { Point } from './near.js';

export interface Deviation {
  /** Of each corner of the one, its distance from the surface of the other, millimetres. */
  readonly ofCorners: Float32Array;
  readonly mostMm: number;
  /** Where it is most, on the one. */
  readonly at: Point;
  /** Below this nothing is told apart: what the triangles of both may lie off. */
  readonly toleranceMm: number;
}

/**
 * From each corner and each middle of a triangle of the one to the nearest point of the other. A place between them may lie
 * further off by no more than the triangle is large. `O(triangles of the one × log triangles of the other)`
 */
export function deviationOf(one: SolidBody, other: SolidBody): Deviation {
  const ofCorners = new Float32Array(one.positions.length / 3);
  let mostMm = 0;
  let at: Point = [0, 0, 0];
  const point = new Vector3();
  const target = { point: new Vector3(), distance: 0, faceIndex: 0 };
  const measure = (): number => {
    const { distance = 0 } = other.tree.closestPointToPoint(point, target) ?? {};
    if (distance > mostMm) {
      mostMm = distance;
      at = [point.x, point.y, point.z];
    }
    return distance;
  };
  for (let corner = 0; corner < ofCorners.length; corner++) {
    point.fromArray(one.positions, corner * 3);
    ofCorners[corner] = measure();
  }
  const [b, c] = [new Vector3(), new Vector3()];
  for (let first = 0; first + 2 < one.indices.length; first += 3) {
    point.fromArray(one.positions, (one.indices[first] ?? 0) * 3);
    b.fromArray(one.positions, (one.indices[first + 1] ?? 0) * 3);
    c.fromArray(one.positions, (one.indices[first + 2] ?? 0) * 3);
    point.add(b).add(c).divideScalar(3);
    measure();
  }
  return { ofCorners, mostMm, at, toleranceMm: one.deflectionMm + other.deflectionMm };
}
