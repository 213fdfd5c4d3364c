/** What lies within a distance of what, surface to surface, as far as triangles can tell. */
import type { Placement } from '../model/link.js';
import { Box3, DoubleSide, Matrix4, Ray, Vector3 } from 'three';
import { matrixOf, type SolidBody } from './body.js';
import { closestOf } from './closest.js';

export interface PlacedBody {
  readonly body: SolidBody;
  readonly at: Placement;
}

/**
 * `near`: apart, but within the distance. `touches`: nearer than the triangles can tell, or inside by no more than that.
 * `overlaps`: one reaches into the other.
 */
export type NearKind = 'near' | 'touches' | 'overlaps';

export interface Near {
  /** Places in the list of what was asked about, and in the list of the others. */
  readonly of: number;
  readonly other: number;
  readonly kind: NearKind;
  /** Zero where they touch or overlap. */
  readonly distanceMm: number;
  /** The longest way through both, from the surface of one to that of the other, at least; zero where they do not overlap. */
  readonly depthMm: number;
  /** How far the distance may be off: both deflections together. */
  readonly toleranceMm: number;
  /** The nearest points of both; the middle of what they have in common where they overlap. */
  readonly between: readonly [Point, Point];
}

export type Point = readonly [number, number, number];

/**
 * Everything of `others` within a distance of something in `of`, the nearest first; each pair once. Boxes are compared first, so
 * that triangles are only looked at where boxes come near: `O(of × others)` boxes, and `O(log triangles)` for most pairs that are
 * left.
 */
export function near(of: readonly PlacedBody[], others: readonly PlacedBody[], withinMm: number): Near[] {
  const boxes = others.map(boxOf);
  const found = of.flatMap((one, at) => {
    const reach = boxOf(one).expandByScalar(withinMm);
    return others.flatMap((other, index) => {
      const box = boxes[index];
      const pair = box?.intersectsBox(reach) ? pairOf(one, other, withinMm) : undefined;
      return pair ? [{ ...pair, of: at, other: index }] : [];
    });
  });
  return found.sort((a, b) => a.distanceMm - b.distanceMm || b.depthMm - a.depthMm);
}

/** Box around a body where it stands. */
export function boxOf({ body, at }: PlacedBody): Box3 {
  return (body.geometry.boundingBox ?? new Box3()).clone().applyMatrix4(matrixOf(at));
}

type Pair = Omit<Near, 'of' | 'other'>;

/** What two bodies are to each other; undefined where they are further apart. */
export function pairOf(one: PlacedBody, other: PlacedBody, withinMm: number): Pair | undefined {
  const into = matrixOf(one.at);
  // The other in the frame of the one.
  const toOne = into.clone().invert().multiply(matrixOf(other.at));
  const toleranceMm = one.body.deflectionMm + other.body.deflectionMm;
  // What lies right at the distance counts, whatever the last digit of the arithmetic says.
  const most = withinMm + Math.max(1e-6, withinMm * 1e-6);
  const closest = closestOf(one.body, other.body, toOne, Math.max(most, toleranceMm));
  const say = ([mine, theirs]: readonly [Vector3, Vector3]): readonly [Point, Point] => [
    pointOf(mine.clone().applyMatrix4(into)),
    pointOf(theirs.clone().applyMatrix4(into)),
  ];
  const distanceMm = closest?.distanceMm ?? Infinity;
  const inside = depthOf(one.body, other.body, { toOne, meets: distanceMm <= ON_SURFACE_MM });
  if (inside && inside.depthMm > 2 * toleranceMm) {
    const { depthMm, at } = inside;
    return { kind: 'overlaps', distanceMm: 0, depthMm, toleranceMm, between: say([at, at]) };
  }
  if (distanceMm <= toleranceMm || inside)
    return {
      ...{ kind: 'touches', distanceMm: 0, depthMm: inside?.depthMm ?? 0, toleranceMm },
      between: say(closest?.points ?? [inside?.at ?? new Vector3(), inside?.at ?? new Vector3()]),
    };
  if (!closest || distanceMm > most) return undefined;
  return { kind: 'near', distanceMm, depthMm: 0, toleranceMm, between: say(closest.points) };
}

function pointOf({ x, y, z }: Vector3): Point {
  return [x, y, z];
}

interface Depth {
  readonly depthMm: number;
  /** In the frame of the one. */
  readonly at: Vector3;
}

/**
 * How far two bodies reach into each other: the longest way through both, from the surface of one to that of the other, found at
 * corners, in the middles of triangles and on a grid; so it is at least that. Undefined where nothing of one lies in the other.
 *
 * @param meets whether their surfaces do; else one can only lie in the other as a whole
 */
function depthOf(
  one: SolidBody,
  other: SolidBody,
  { toOne, meets }: { readonly toOne: Matrix4; readonly meets: boolean },
): Depth | undefined {
  const common = (one.geometry.boundingBox ?? new Box3())
    .clone()
    .intersect((other.geometry.boundingBox ?? new Box3()).clone().applyMatrix4(toOne));
  if (common.isEmpty()) return undefined;
  const toOther = toOne.clone().invert();
  if (!meets && !hasCornerIn(one, other, toOne) && !hasCornerIn(other, one, toOther)) return undefined;
  let deepest: Depth = { depthMm: 0, at: common.getCenter(new Vector3()) };
  for (const point of samples(one, other, { toOne, common })) {
    const there = point.clone().applyMatrix4(toOther);
    const depthMm = depthIn(one, point) + depthIn(other, there);
    if (depthMm > Math.max(deepest.depthMm, ON_SURFACE_MM) && isWithin(one, point) && isWithin(other, there))
      deepest = { depthMm, at: point };
  }
  return deepest;
}

function depthIn({ tree }: SolidBody, point: Vector3): number {
  return tree.closestPointToPoint(point)?.distance ?? 0;
}

/** On its surface counts. */
const ON_SURFACE_MM = 1e-4;

function isWithin(body: SolidBody, point: Vector3): boolean {
  return depthIn(body, point) <= ON_SURFACE_MM || isInside(body, point);
}

/** Whether a shell of the other lies in it as a whole: a corner of every face is tried. */
function hasCornerIn(within: SolidBody, { positions, indices, faces }: SolidBody, into: Matrix4): boolean {
  const box = within.geometry.boundingBox ?? new Box3();
  return faces.some(({ first }) => {
    const corner = new Vector3().fromArray(positions, (indices[first * 3] ?? 0) * 3).applyMatrix4(into);
    return box.containsPoint(corner) && depthIn(within, corner) > ON_SURFACE_MM && isInside(within, corner);
  });
}

/** Points of a grid along each edge of the box that both have in common. */
const GRID = 5;

/** Where both may be, in the frame of the one. */
function* samples(
  one: SolidBody,
  other: SolidBody,
  { toOne, common }: { readonly toOne: Matrix4; readonly common: Box3 },
): Generator<Vector3> {
  const { min } = common;
  const size = common.getSize(new Vector3());
  for (let at = 0; at < GRID ** 3; at++) {
    const step = [at % GRID, Math.floor(at / GRID) % GRID, Math.floor(at / GRID ** 2)] as const;
    yield min.clone().add(new Vector3(...step.map((each) => (each + 0.5) / GRID)).multiply(size));
  }
  for (const [body, matrix] of [[one, new Matrix4()] as const, [other, toOne] as const])
    for (const point of surfacePoints(body)) {
      point.applyMatrix4(matrix);
      if (common.containsPoint(point)) yield point;
    }
}

/** Corners, and the middles of triangles. */
function* surfacePoints({ positions, indices }: SolidBody): Generator<Vector3> {
  for (let at = 0; at + 2 < positions.length; at += 3) yield new Vector3().fromArray(positions, at);
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  for (let at = 0; at + 2 < indices.length; at += 3) {
    a.fromArray(positions, (indices[at] ?? 0) * 3);
    b.fromArray(positions, (indices[at + 1] ?? 0) * 3);
    c.fromArray(positions, (indices[at + 2] ?? 0) * 3);
    yield a.clone().add(b).add(c).divideScalar(3);
  }
}

/** Directions that lie along no axis and no diagonal, where edges are hit. */
const RAYS: readonly Vector3[] = [
  new Vector3(0.532, 0.214, 0.819).normalize(),
  new Vector3(-0.371, 0.883, -0.287).normalize(),
  new Vector3(0.127, -0.461, 0.878).normalize(),
];

/** Whether a point lies in a closed body: most rays from it leave the body once more than they enter it. */
function isInside({ tree }: SolidBody, point: Vector3): boolean {
  const votes = RAYS.filter((direction) => {
    const hits = tree.raycast(new Ray(point, direction), DoubleSide).map(({ distance }) => distance);
    hits.sort((a, b) => a - b);
    // A ray through an edge meets both triangles there.
    const crossings = hits.filter((distance, at) => at === 0 || distance - (hits[at - 1] ?? 0) > 1e-7);
    return crossings.length % 2 === 1;
  });
  return votes.length * 2 > RAYS.length;
}
