/** The smallest distance of two bodies, as their triangles have it. */
import { Box3, Line3, Triangle, Vector3, type Matrix4 } from 'three';
import type { SolidBody } from './body.js';

export interface Closest {
  /** Zero where one goes through the other's surface. */
  readonly distanceMm: number;
  /** On the one and on the other, both in the frame of the one. */
  readonly points: readonly [Vector3, Vector3];
}

/**
 * Goes through both hierarchies at once, nearest boxes first. Of two triangles that do not meet, a corner or an edge is
 * nearest; whether they meet is told by edges that go through the other triangle, so that two that lie in one plane, but for
 * the last digits, are as far apart as they are. `O(log triangles)` for most.
 *
 * @param toOne from the frame of the other to that of the one; lengths stay what they are
 * @returns undefined where they are further apart than `mostMm`
 */
export function closestOf(
  one: SolidBody,
  other: SolidBody,
  toOne: Matrix4,
  mostMm: number,
): Closest | undefined {
  const toOther = toOne.clone().invert();
  const otherBox = (other.geometry.boundingBox ?? new Box3()).clone().applyMatrix4(toOne);
  const search = new Search(mostMm);
  one.tree.shapecast({
    boundsTraverseOrder: (box) => distanceOfBoxes(box, otherBox),
    intersectsBounds: (_box, _isLeaf, score = 0) => search.isWorth(score),
    intersectsTriangle: ({ a, b, c }) => {
      search.begin(a, b, c, toOther);
      other.tree.shapecast({
        boundsTraverseOrder: (box) => distanceOfBoxes(box, search.box),
        intersectsBounds: (_box, _isLeaf, score = 0) => search.isWorth(score),
        intersectsTriangle: (triangle) => search.compare(triangle),
      });
      return search.isOver;
    },
  });
  return search.found(toOne);
}

class Search {
  readonly box = new Box3();
  private readonly mine = new Triangle();
  private readonly theirBox = new Box3();
  private readonly points = [new Vector3(), new Vector3()] as const;
  private readonly tried = [new Vector3(), new Vector3()] as const;
  private isFound = false;

  /** @param nearest beyond which nothing is looked for; what was found so far, later */
  constructor(private nearest: number) {}

  get isOver(): boolean {
    return this.nearest === 0;
  }

  isWorth(distanceMm: number): boolean {
    return distanceMm <= this.nearest && !this.isOver;
  }

  /** With another triangle of the one, in the frame of the other from now on. */
  begin(a: Vector3, b: Vector3, c: Vector3, toOther: Matrix4): void {
    this.mine.a.copy(a).applyMatrix4(toOther);
    this.mine.b.copy(b).applyMatrix4(toOther);
    this.mine.c.copy(c).applyMatrix4(toOther);
    boxAround(this.mine, this.box);
  }

  /** @returns whether nothing can be nearer */
  compare(theirs: Triangle): boolean {
    if (!this.isWorth(distanceOfBoxes(boxAround(theirs, this.theirBox), this.box))) return false;
    const distance = distanceOfTriangles(this.mine, theirs, this.tried);
    if (distance < this.nearest || (distance === this.nearest && !this.isFound)) {
      this.nearest = distance;
      this.isFound = true;
      this.points[0].copy(this.tried[0]);
      this.points[1].copy(this.tried[1]);
    }
    return this.isOver;
  }

  found(toOne: Matrix4): Closest | undefined {
    if (!this.isFound) return undefined;
    const [mine, theirs] = this.points;
    return {
      distanceMm: this.nearest,
      points: [mine.clone().applyMatrix4(toOne), theirs.clone().applyMatrix4(toOne)],
    };
  }
}

type Pair = readonly [Vector3, Vector3];

/** @param points where they are nearest, on the one and on the other */
export function distanceOfTriangles(one: Triangle, other: Triangle, points: Pair): number {
  if (crossing(one, other, points[0]) || crossing(other, one, points[0])) {
    points[1].copy(points[0]);
    return 0;
  }
  let least = Infinity;
  const take = (from: Vector3, to: Vector3): void => {
    const squared = from.distanceToSquared(to);
    if (squared >= least) return;
    least = squared;
    points[0].copy(from);
    points[1].copy(to);
  };
  for (const corner of [one.a, one.b, one.c]) take(corner, other.closestPointToPoint(corner, spots[0]));
  for (const corner of [other.a, other.b, other.c]) take(one.closestPointToPoint(corner, spots[0]), corner);
  for (const [from, to] of edgesOf(one, mineEdges))
    for (const [start, end] of edgesOf(other, theirEdges)) {
      lines[0].set(from, to).distanceSqToLine3(lines[1].set(start, end), spots[0], spots[1]);
      take(spots[0], spots[1]);
    }
  return Math.sqrt(least);
}

// Used again for each pair of triangles, of which there are very many.
const spots = [new Vector3(), new Vector3()] as const;
const lines = [new Line3(), new Line3()] as const;
const mineEdges: [Vector3, Vector3][] = [];
const theirEdges: [Vector3, Vector3][] = [];
const normal = new Vector3();
const side = new Vector3();
const from = new Vector3();

function edgesOf({ a, b, c }: Triangle, edges: [Vector3, Vector3][]): [Vector3, Vector3][] {
  edges[0] = [a, b];
  edges[1] = [b, c];
  edges[2] = [c, a];
  return edges;
}

/** Whether an edge of the one goes through the other, and where. */
function crossing(one: Triangle, other: Triangle, at: Vector3): boolean {
  other.getNormal(normal);
  if (normal.lengthSq() === 0) return false;
  return edgesOf(one, mineEdges).some(([start, end]) => {
    const [before, after] = [height(start, other.a), height(end, other.a)];
    // Of very small numbers the product would be zero.
    if (Math.sign(before) * Math.sign(after) > 0 || before === after) return false;
    at.copy(start).lerp(end, before / (before - after));
    return edgesOf(other, theirEdges).every(
      ([corner, next]) => side.subVectors(next, corner).cross(from.subVectors(at, corner)).dot(normal) >= 0,
    );
  });
}

function height(point: Vector3, foot: Vector3): number {
  return from.subVectors(point, foot).dot(normal);
}

function boxAround({ a, b, c }: Triangle, box: Box3): Box3 {
  box.min.copy(a).min(b).min(c);
  box.max.copy(a).max(b).max(c);
  return box;
}

function distanceOfBoxes(one: Box3, other: Box3): number {
  const x = Math.max(one.min.x - other.max.x, other.min.x - one.max.x, 0);
  const y = Math.max(one.min.y - other.max.y, other.min.y - one.max.y, 0);
  const z = Math.max(one.min.z - other.max.z, other.min.z - one.max.z, 0);
  return Math.hypot(x, y, z);
}
