/** What was clicked at, as it is measured and said. */
import type { SceneAnswer } from '@stem-trace/contract';
import {
  between,
  edgeDatum,
  edgesOf,
  middleOf,
  placedEdge,
  placedSurface,
  surfaceDatum,
  surfaceOf,
  type Datum,
  type Edge,
  type Point,
  type Surface,
} from '@stem-trace/core/look';
import type { Showing } from '../../../ui/showing.js';
import type { LookMesh } from './look-mesh.js';
import type { Picked } from './look-stage.js';

/** What a click measures at: the face that was clicked, or what of its edge is nearest. */
export const MEASURED_AT = ['faces', 'edges', 'points'] as const;
export type MeasuredAt = (typeof MEASURED_AT)[number];

export type Spot =
  | { readonly kind: 'face'; readonly surface: Surface | undefined }
  | { readonly kind: 'edge'; readonly edge: Edge }
  | { readonly kind: 'point'; readonly what: 'corner' | 'middle' | 'centre' };

export type Measured = Spot & {
  readonly number: string;
  /** Where it is, in the frame of the item. */
  readonly point: Point;
};

export interface MeasureOptions {
  readonly scene: SceneAnswer;
  readonly own: LookMesh | undefined;
  readonly at: MeasuredAt;
  /** How far a point is from where was clicked, as it is seen. */
  readonly far: (point: Point) => number;
}

/** What is at the triangle that was clicked at; the face without its kind where the mesh does not say its faces. */
export function measured(picked: Picked, { scene, own, at, far }: MeasureOptions): Measured {
  const { node, mesh, place, triangle, point } = picked;
  const number = scene.nodes[node]?.number ?? '';
  const stands = scene.meshes[mesh]?.at[place];
  const shape = own?.shape;
  const index = shape?.faces.findIndex(({ first, last }) => triangle >= first && triangle <= last) ?? -1;
  const face = shape?.faces[index];
  if (!own || !shape || !face || !stands) return { kind: 'face', surface: undefined, number, point };
  if (at === 'faces') {
    const surface = placedSurface(surfaceOf(shape, face), stands);
    return { kind: 'face', surface, number, point };
  }
  own.edges ??= edgesOf(shape);
  const around = own.edges
    .filter(({ faces }) => faces.includes(index))
    .map((edge) => placedEdge(edge, stands));
  const spots = around.flatMap((edge) => (at === 'edges' ? edgeSpots(edge) : pointSpots(edge)));
  const nearest = spots.reduce<(typeof spots)[number] | undefined>(
    (best, spot) => (best && far(best.point) <= far(spot.point) ? best : spot),
    undefined,
  );
  return nearest ? { ...nearest, number } : { kind: 'face', surface: undefined, number, point };
}

function edgeSpots(edge: Edge): (Spot & { readonly point: Point })[] {
  // A long line has its ends far away; what is between them is near as well.
  const steps = edge.kind === 'line' ? 24 : 1;
  return edge.points.flatMap((from, at) => {
    const to = edge.points[at + 1] ?? (edge.isClosed ? edge.points[0] : undefined) ?? from;
    return Array.from({ length: steps }, (_, step) => ({
      ...{ kind: 'edge' as const, edge },
      point: lerp(from, to, step / steps),
    }));
  });
}

function pointSpots(edge: Edge): (Spot & { readonly point: Point })[] {
  const point = (what: 'corner' | 'middle' | 'centre', at: Point | undefined) =>
    at ? [{ kind: 'point' as const, what, point: at }] : [];
  return [
    ...(edge.isClosed ? [] : [...point('corner', edge.points[0]), ...point('corner', edge.points.at(-1))]),
    ...(edge.isClosed ? [] : point('middle', middleOf(edge))),
    ...(edge.kind === 'arc' ? point('centre', edge.centre) : []),
  ];
}

function lerp(from: Point, to: Point, share: number): Point {
  const at = (axis: 0 | 1 | 2): number => from[axis] + (to[axis] - from[axis]) * share;
  return [at(0), at(1), at(2)];
}

/** What something that was picked stands for; a point for itself. */
function datumOf(one: Measured): Datum | undefined {
  switch (one.kind) {
    case 'face':
      return one.surface && surfaceDatum(one.surface);
    case 'edge':
      return edgeDatum(one.edge);
    case 'point':
      return { kind: 'point', at: one.point, toleranceMm: LEAST_MM / 2 };
  }
}

const MM_PER_INCH = 25.4;

export function sayLength(mm: number, unit: Showing['length']): string {
  return `${Number((unit === 'in' ? mm / MM_PER_INCH : mm).toPrecision(5))} ${unit}`;
}

/** Single precision of coordinates leaves no less. */
const LEAST_MM = 0.001;

export function sayTolerance(mm: number, unit: Showing['length']): string {
  const said = Math.max(mm, LEAST_MM);
  return `± ${Number((unit === 'in' ? said / MM_PER_INCH : said).toPrecision(1))} ${unit}`;
}

function sayPoint(point: Point, unit: Showing['length']): string {
  const [x, y, z] = point.map((mm) => Number((unit === 'in' ? mm / MM_PER_INCH : mm).toFixed(3)) + 0);
  return `x ${x}, y ${y}, z ${z} ${unit}`;
}

/** What is fitted to triangles is said with ≈ and how far off it may be. */
function sayOne(one: Measured, unit: Showing['length']): string {
  switch (one.kind) {
    case 'face':
      return one.surface ? `${one.number}: ${sayFace(one.surface, unit)}` : one.number;
    case 'edge':
      return `${one.number}: ${sayEdge(one.edge, unit)}`;
    case 'point':
      return `${one.number}: ${WHAT[one.what]} at ${sayPoint(one.point, unit)}`;
  }
}

const WHAT = { corner: 'corner', middle: 'middle of an edge', centre: 'centre' } as const;

function sayEdge(edge: Edge, unit: Showing['length']): string {
  const long = `${edge.kind === 'line' ? '' : '≈ '}${sayLength(edge.lengthMm, unit)} long (${sayTolerance(edge.toleranceMm, unit)})`;
  switch (edge.kind) {
    case 'line':
      return `edge ${long}`;
    case 'arc':
      return `${edge.isClosed ? 'circle' : 'arc'} ⌀ ≈ ${sayLength(edge.radiusMm * 2, unit)}, radius ≈ ${sayLength(edge.radiusMm, unit)}, ${long}`;
    case 'curve':
      return `curved edge ${long}`;
  }
}

function sayFace(surface: Surface, unit: Showing['length']): string {
  const area = unit === 'in' ? surface.areaMm2 / MM_PER_INCH ** 2 : surface.areaMm2;
  const size = `${Number(area.toPrecision(5))} ${unit}²`;
  const round = (radiusMm: number, toleranceMm: number): string =>
    `⌀ ≈ ${sayLength(radiusMm * 2, unit)} (${sayTolerance(toleranceMm * 2, unit)}), ${size}`;
  switch (surface.kind) {
    case 'plane':
      return `plane face, ${size}`;
    case 'cylinder':
      return `${surface.isHollow ? 'hole' : 'cylinder'} ${round(surface.radiusMm, surface.toleranceMm)}`;
    case 'sphere':
      return `sphere ${round(surface.radiusMm, surface.toleranceMm)}`;
    case 'free':
      return `curved face, ${size}`;
  }
}

/** One thing that was picked, or two and what is between them. */
export function sayMeasured(picked: readonly Measured[], unit: Showing['length']): string {
  const [one, other] = picked;
  if (!one) return '';
  if (!other) return sayOne(one, unit);
  return `${sayOne(one, unit)} — ${sayOne(other, unit)}: ${sayBetween(one, other, unit)}`;
}

function sayBetween(one: Measured, other: Measured, unit: Showing['length']): string {
  const [first, second] = [datumOf(one), datumOf(other)];
  const found = first && second ? between(first, second) : undefined;
  const straight = Math.hypot(...one.point.map((value, axis) => value - (other.point[axis] ?? 0)));
  const isBetweenPoints = one.kind === 'point' && other.kind === 'point';
  const parts = [
    found?.distanceMm === undefined
      ? ''
      : `distance ${isBetweenPoints ? '' : '≈ '}${sayLength(found.distanceMm, unit)} (${sayTolerance(found.toleranceMm, unit)})`,
    isBetweenPoints ? sayAlong(one.point, other.point, unit) : '',
    found?.angleDegrees === undefined ? '' : `angle ≈ ${Number(found.angleDegrees.toFixed(2))}°`,
    isBetweenPoints ? '' : `between the points ${sayLength(straight, unit)}`,
  ];
  return parts.filter((part) => part !== '').join(', ');
}

function sayAlong(one: Point, other: Point, unit: Showing['length']): string {
  const along = one.map((value, axis) => sayLength(Math.abs((other[axis] ?? 0) - value), unit));
  return `along x ${along[0]}, y ${along[1]}, z ${along[2]}`;
}

/** What is written beside its line in the picture. */
export function sayShort(picked: readonly Measured[], unit: Showing['length']): string {
  const [one, other] = picked;
  if (!one) return '';
  if (other) {
    const [first, second] = [datumOf(one), datumOf(other)];
    const found = first && second ? between(first, second) : undefined;
    if (found?.distanceMm !== undefined) return sayLength(found.distanceMm, unit);
    if (found?.angleDegrees !== undefined) return `${Number(found.angleDegrees.toFixed(2))}°`;
    return sayLength(Math.hypot(...one.point.map((value, axis) => value - (other.point[axis] ?? 0))), unit);
  }
  if (one.kind === 'edge') return sayLength(one.edge.lengthMm, unit);
  if (one.kind === 'face' && one.surface && 'radiusMm' in one.surface)
    return `⌀ ${sayLength(one.surface.radiusMm * 2, unit)}`;
  return '';
}
