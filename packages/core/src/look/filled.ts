/** What closes the bodies that a section cuts: its outlines, filled. */
import { ShapeUtils, Vector2 } from 'three';
import type { Outline, SectionPoint } from './section.js';

/** Ready to be drawn, in the frame of the section, millimetres. */
export interface FilledSection {
  /** Two numbers a corner. */
  readonly corners: Float32Array<ArrayBuffer>;
  /** Of each corner, the place of its body in the list that was cut. */
  readonly of: Uint32Array<ArrayBuffer>;
  /** Three corners a triangle. */
  readonly triangles: Uint32Array<ArrayBuffer>;
  /** Four numbers a line, from here to there. */
  readonly lines: Float32Array<ArrayBuffer>;
}

export interface NestedRing {
  readonly contour: readonly SectionPoint[];
  readonly holes: readonly (readonly SectionPoint[])[];
}

/** `O(points × log points)` for each contour with its holes */
export function filledOf(outlines: readonly Outline[]): FilledSection {
  const corners: number[] = [];
  const of: number[] = [];
  const triangles: number[] = [];
  const lines: number[] = [];
  for (const { of: body, rings, open } of outlines) {
    for (const { contour, holes } of nestedRings(rings)) {
      const first = of.length;
      for (const each of ShapeUtils.triangulateShape(flat(contour), holes.map(flat)))
        for (const corner of each) triangles.push(first + corner);
      for (const [x, y] of [contour, ...holes].flat()) {
        corners.push(x, y);
        of.push(body);
      }
    }
    for (const ring of rings) addLines(lines, [...ring, ...ring.slice(0, 1)]);
    for (const chain of open) addLines(lines, chain);
  }
  return {
    ...{ corners: new Float32Array(corners), of: new Uint32Array(of) },
    ...{ triangles: new Uint32Array(triangles), lines: new Float32Array(lines) },
  };
}

/** Holes with the ring that they lie in, the smallest of those. */
export function nestedRings(rings: readonly (readonly SectionPoint[])[]): NestedRing[] {
  const sized = rings.map((ring) => ({ ring, area: ShapeUtils.area(flat(ring)) }));
  const outer = sized
    .filter(({ area }) => area > 0)
    .sort((a, b) => a.area - b.area)
    .map(({ ring: contour }) => ({ contour, holes: [] as (readonly SectionPoint[])[] }));
  for (const { ring, area } of sized) {
    const [point] = ring;
    if (area < 0 && point) outer.find(({ contour }) => isIn(point, contour))?.holes.push(ring);
  }
  return outer;
}

function addLines(lines: number[], chain: readonly SectionPoint[]): void {
  for (let at = 1; at < chain.length; at++) lines.push(...(chain[at - 1] ?? []), ...(chain[at] ?? []));
}

function flat(ring: readonly SectionPoint[]): Vector2[] {
  return ring.map(([x, y]) => new Vector2(x, y));
}

/** By the crossings of a ray to the right. */
function isIn([x, y]: SectionPoint, ring: readonly SectionPoint[]): boolean {
  return ring.reduce((isInside, [ax, ay], at) => {
    const [bx, by] = ring[(at + 1) % ring.length] ?? [ax, ay];
    const isCrossed = ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax;
    return isCrossed ? !isInside : isInside;
  }, false);
}
