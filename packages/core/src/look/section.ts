/** Where a plane cuts bodies: closed outlines, for caps, for measuring and for export. */
import { Vector3, type Triangle } from 'three';
import { addTo } from '../collections.js';
import { matrixOf, type SolidBody } from './body.js';
import type { PlacedBody, Point } from './near.js';

export interface SectionPlane {
  readonly point: Point;
  /** What lies on its side is cut away. */
  readonly normal: Point;
}

/** Directions in which a section is drawn: to the right, and upwards. */
export interface SectionFrame {
  readonly right: Point;
  readonly up: Point;
}

/** Coordinates in the frame of the section, millimetres from the point of its plane. */
export type SectionPoint = readonly [x: number, y: number];

export interface Outline {
  /** Place in the list of bodies. */
  readonly of: number;
  /** Rings, counter-clockwise around material, clockwise around a hole; the last point is not the first again. */
  readonly rings: readonly (readonly SectionPoint[])[];
  /** What does not close, since the mesh does not. */
  readonly open: readonly (readonly SectionPoint[])[];
  /** Of the material that is cut, holes taken off. */
  readonly areaMm2: number;
}

/** The same for the same plane, upright where there is an up: z is up, or y where one looks along z. */
export function frameOf({ normal }: SectionPlane): SectionFrame {
  const n = new Vector3(...normal).normalize();
  const upwards = Math.abs(n.z) > 0.999 ? new Vector3(0, 1, 0) : new Vector3(0, 0, 1);
  const right = upwards.clone().cross(n).normalize();
  const up = n.clone().cross(right);
  return { right: right.toArray(), up: up.toArray() };
}

/** `O(triangles that are cut + log triangles)` a body; bodies that are not cut are left out. */
export function outlinesOf(bodies: readonly PlacedBody[], plane: SectionPlane): Outline[] {
  const frame = frameOf(plane);
  return bodies.flatMap((placed, of) => {
    const segments = segmentsOf(placed, plane, frame);
    if (segments.length === 0) return [];
    const { rings, open } = chained(segments);
    return [{ of, rings, open, areaMm2: rings.reduce((sum, ring) => sum + signedArea(ring), 0) }];
  });
}

type Segment = readonly [from: SectionPoint, to: SectionPoint];

function segmentsOf(
  { body, at }: PlacedBody,
  { point, normal }: SectionPlane,
  { right, up }: SectionFrame,
): Segment[] {
  // The plane in the frame of the body; the outline in that of the section.
  const toSection = matrixOf(at);
  const origin = new Vector3(...point);
  const n = new Vector3(...normal).normalize();
  const [x, y] = [new Vector3(...right), new Vector3(...up)];
  const back = toSection.clone().invert();
  const ownOrigin = origin.clone().applyMatrix4(back);
  const ownNormal = n.clone().transformDirection(back);
  const segments: Segment[] = [];
  const flat = (corner: Vector3): SectionPoint => {
    const from = corner.clone().applyMatrix4(toSection).sub(origin);
    return [from.dot(x), from.dot(y)];
  };
  forCut(body, ownOrigin, ownNormal, (triangle) => {
    const cut = cutOf(triangle, ownOrigin, ownNormal);
    if (cut) segments.push([flat(cut[0]), flat(cut[1])]);
  });
  return segments;
}

function forCut(
  { tree }: SolidBody,
  origin: Vector3,
  normal: Vector3,
  take: (triangle: Triangle) => void,
): void {
  const corner = new Vector3();
  tree.shapecast({
    intersectsBounds: ({ min, max }) => {
      let isAbove = false;
      let isBelow = false;
      for (let at = 0; at < 8; at++) {
        corner.set(at & 1 ? max.x : min.x, at & 2 ? max.y : min.y, at & 4 ? max.z : min.z);
        if (corner.sub(origin).dot(normal) >= 0) isAbove = true;
        else isBelow = true;
      }
      return isAbove && isBelow;
    },
    intersectsTriangle: (triangle) => {
      take(triangle);
      return false;
    },
  });
}

/** A corner that lies in the plane counts as above it, so that every ring closes: each triangle is cut in two points or in none. */
function cutOf(
  { a, b, c }: Triangle,
  origin: Vector3,
  normal: Vector3,
): readonly [Vector3, Vector3] | undefined {
  const corners = [a, b, c] as const;
  const heights = corners.map((corner) => corner.clone().sub(origin).dot(normal));
  const isAbove = heights.map((height) => height >= 0);
  const alone = [0, 1, 2].find(
    (at) => isAbove[at] !== isAbove[(at + 1) % 3] && isAbove[at] !== isAbove[(at + 2) % 3],
  );
  if (alone === undefined) return undefined;
  const cross = (from: number, to: number): Vector3 => {
    // Always from below to above, so that both triangles of an edge find the very same point.
    const [low, high] = isAbove[from] ? [to, from] : [from, to];
    const [below, above] = [heights[low] ?? 0, heights[high] ?? 0];
    return (corners[low] ?? a).clone().lerp(corners[high] ?? a, below / (below - above));
  };
  const [next, last] = [cross(alone, (alone + 1) % 3), cross(alone, (alone + 2) % 3)];
  return isAbove[alone] ? [next, last] : [last, next];
}

/** A ten-thousandth of a millimetre: points of one edge that differ by the last digit are one. */
const PER_MM = 1e4;
const keyOf = ([x, y]: SectionPoint): string => `${Math.round(x * PER_MM)} ${Math.round(y * PER_MM)}`;

function chained(segments: readonly Segment[]): Pick<Outline, 'rings' | 'open'> {
  const byStart = new Map<string, Segment[]>();
  for (const segment of segments)
    if (keyOf(segment[0]) !== keyOf(segment[1])) addTo(byStart, keyOf(segment[0]), segment);
  const rings: SectionPoint[][] = [];
  const open: SectionPoint[][] = [];
  // What nothing leads to begins what stays open; the rest are rings.
  const ends = new Set(segments.map(([, to]) => keyOf(to)));
  const starts = [...byStart.keys()];
  for (const start of [...starts.filter((key) => !ends.has(key)), ...starts]) {
    for (let segment = byStart.get(start)?.pop(); segment; segment = byStart.get(start)?.pop()) {
      const points: SectionPoint[] = [segment[0]];
      let to: SectionPoint = segment[1];
      while (keyOf(to) !== start) {
        points.push(to);
        const next = byStart.get(keyOf(to))?.pop();
        if (!next) break;
        to = next[1];
      }
      if (keyOf(to) === start) rings.push(points);
      else open.push(points);
    }
  }
  return { rings, open };
}

export function signedArea(ring: readonly SectionPoint[]): number {
  return ring.reduce((sum, [x, y], at) => {
    const [nextX, nextY] = ring[(at + 1) % ring.length] ?? [x, y];
    return sum + (x * nextY - nextX * y) / 2;
  }, 0);
}
