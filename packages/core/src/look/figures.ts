/** Volume, surface and centre of a body, as near to the true shape as its triangles and what they were made of can tell. */
import { Vector3 } from 'three';
import { massOf } from '../shape/mass.js';
import type { Body, FaceRange } from './body.js';
import type { Point } from './near.js';
import { surfaceOf, type Surface } from './surface.js';

export interface BodyFigures {
  readonly volumeMm3: number;
  readonly areaMm2: number;
  readonly centre: Point;
  /** How far the volume may be off: a layer as thick as the deflection on all faces that are neither plane nor round. */
  readonly toleranceMm3: number;
}

/**
 * Triangles cut the corners of what is round. Where a face is a cylinder, what each triangle cuts off is known, and is added:
 * the part of a circle between its arc and its chord, along the facet.
 *
 * `O(triangles)`
 */
export function bodyFigures(body: Body): BodyFigures {
  const { volumeMm3, areaMm2, centre } = massOf([body]);
  let [volume, area, toleranceMm3] = [volumeMm3, areaMm2, 0];
  for (const face of body.faces) {
    const surface = surfaceOf(body, face);
    if (surface.kind === 'cylinder') {
      const cut = cutOff(body, face, surface);
      volume += surface.isHollow ? -cut.volumeMm3 : cut.volumeMm3;
      area += cut.areaMm2;
    } else if (surface.kind !== 'plane') toleranceMm3 += surface.areaMm2 * body.deflectionMm;
  }
  return { volumeMm3: volume, areaMm2: area, centre, toleranceMm3 };
}

function cutOff(
  { positions, indices }: Body,
  { first, last }: FaceRange,
  { centre, radiusMm }: Extract<Surface, { kind: 'cylinder' }>,
): { readonly volumeMm3: number; readonly areaMm2: number } {
  const [a, b, c, axis] = [new Vector3(), new Vector3(), new Vector3(), new Vector3(...centre)];
  let [volumeMm3, areaMm2] = [0, 0];
  for (let triangle = first; triangle <= last; triangle++) {
    const corner = (at: number): number => (indices[triangle * 3 + at] ?? 0) * 3;
    a.fromArray(positions, corner(0));
    b.fromArray(positions, corner(1)).sub(a);
    c.fromArray(positions, corner(2)).sub(a);
    const normal = b.cross(c);
    const area = normal.length() / 2;
    if (area === 0) continue;
    const depth = Math.abs(normal.divideScalar(area * 2).dot(a.sub(axis)));
    const angle = 2 * Math.acos(Math.min(1, depth / radiusMm));
    const chord = 2 * radiusMm * Math.sin(angle / 2);
    if (chord < radiusMm * 1e-9) continue;
    volumeMm3 += ((radiusMm ** 2 / 2) * (angle - Math.sin(angle)) * area) / chord;
    areaMm2 += area * ((radiusMm * angle) / chord - 1);
  }
  return { volumeMm3, areaMm2 };
}
