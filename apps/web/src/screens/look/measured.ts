/** What was clicked at, as it is measured and said. */
import type { SceneAnswer } from '@stem-trace/contract';
import { betweenSurfaces, placedSurface, surfaceOf, type Body, type Surface } from '@stem-trace/core/look';
import type { Vector3 } from 'three';
import { saySize, type Showing } from '../../ui/showing.js';
import type { Picked } from './look-stage.js';

export interface MeasuredFace {
  readonly number: string;
  readonly surface: Surface | undefined;
  readonly point: Picked['point'];
}

/** The face around the triangle that was clicked at; none where the mesh does not say its faces. */
export function measured(
  { node, mesh, place, triangle, point }: Picked,
  { scene, shape }: { readonly scene: SceneAnswer; readonly shape: Body | undefined },
): MeasuredFace {
  const face = shape?.faces.find(({ first, last }) => triangle >= first && triangle <= last);
  const at = scene.meshes[mesh]?.at[place];
  return {
    number: scene.nodes[node]?.number ?? '',
    surface: shape && face && at ? placedSurface(surfaceOf(shape, face), at) : undefined,
    point,
  };
}

const MM_PER_INCH = 25.4;

function sayLength(mm: number, unit: Showing['length']): string {
  return `${Number((unit === 'in' ? mm / MM_PER_INCH : mm).toPrecision(5))} ${unit}`;
}

/** Single precision of coordinates leaves no less. */
const LEAST_MM = 0.001;

function sayTolerance(mm: number, unit: Showing['length']): string {
  const said = Math.max(mm, LEAST_MM);
  return `${Number((unit === 'in' ? said / MM_PER_INCH : said).toPrecision(1))} ${unit}`;
}

/** What is fitted to triangles is said with ≈ and how far off it may be. */
function sayFace({ number, surface }: MeasuredFace, unit: Showing['length']): string {
  if (!surface) return number;
  const area = unit === 'in' ? surface.areaMm2 / MM_PER_INCH ** 2 : surface.areaMm2;
  const size = `${Number(area.toPrecision(5))} ${unit}²`;
  switch (surface.kind) {
    case 'plane':
      return `${number}: plane face, ${size}`;
    case 'cylinder':
      return `${number}: ${surface.isHollow ? 'hole' : 'cylinder'} ⌀ ≈ ${sayLength(surface.radiusMm * 2, unit)} (± ${sayTolerance(surface.toleranceMm * 2, unit)}), ${size}`;
    case 'sphere':
      return `${number}: sphere ⌀ ≈ ${sayLength(surface.radiusMm * 2, unit)} (± ${sayTolerance(surface.toleranceMm * 2, unit)}), ${size}`;
    case 'free':
      return `${number}: curved face, ${size}`;
  }
}

/** @param box of what is selected, or of all that is shown */
export function sayMeasured(
  faces: readonly MeasuredFace[],
  box: { readonly min: Vector3; readonly max: Vector3 } | undefined,
  unit: Showing['length'],
): string {
  const [one, other] = faces;
  if (one && other) return `${sayFace(one, unit)} — ${sayFace(other, unit)}: ${sayBetween(one, other, unit)}`;
  const size = box ? `box ${saySize(box.max.clone().sub(box.min).toArray(), unit)}` : '';
  return [one ? sayFace(one, unit) : '', size].filter((part) => part !== '').join(' · ');
}

function sayBetween(one: MeasuredFace, other: MeasuredFace, unit: Showing['length']): string {
  const between = one.surface && other.surface ? betweenSurfaces(one.surface, other.surface) : undefined;
  const straight = Math.hypot(...one.point.map((value, axis) => value - (other.point[axis] ?? 0)));
  const parts = [
    between?.distanceMm === undefined
      ? ''
      : `distance ≈ ${sayLength(between.distanceMm, unit)} (± ${sayTolerance(between.toleranceMm, unit)})`,
    between?.angleDegrees === undefined ? '' : `angle ≈ ${Number(between.angleDegrees.toFixed(2))}°`,
    `between the points ${sayLength(straight, unit)}`,
  ];
  return parts.filter((part) => part !== '').join(', ');
}
