/** What touches and what reaches into what, of all that stands together. */
import { type Box3 } from 'three';
import { boxOf, pairOf, type Near, type PlacedBody } from './near.js';

export interface OverlapOptions {
  /** Whether two of the list are to be compared; absent where all are. */
  readonly isAsked?: (one: number, other: number) => boolean;
  /** Called now and then with how many pairs are done, of how many, and waited for; what it throws ends it. */
  readonly onProgress?: (done: number, of: number) => Promise<void> | void;
}

/**
 * All pairs that touch or overlap, the deepest first. Pairs whose boxes are apart are left out by going along one axis, the one
 * in which the boxes are spread most: `O(bodies × log bodies + pairs of boxes that meet × log triangles)`.
 */
export async function overlapsOf(
  placed: readonly PlacedBody[],
  { isAsked, onProgress }: OverlapOptions = {},
): Promise<Near[]> {
  const pairs = meetingBoxes(placed).filter(([one, other]) => isAsked?.(one, other) ?? true);
  const found: Near[] = [];
  for (const [done, [of, other]] of pairs.entries()) {
    if (done % TOLD_EVERY === 0) await onProgress?.(done, pairs.length);
    const [one, two] = [placed[of], placed[other]];
    const pair = one && two && pairOf(one, two, one.body.deflectionMm + two.body.deflectionMm);
    if (pair && pair.kind !== 'near') found.push({ ...pair, of, other });
  }
  return found.sort((a, b) => b.depthMm - a.depthMm || a.of - b.of || a.other - b.other);
}

/** Pairs between two tellings: a pair that overlaps takes about 20 ms. */
const TOLD_EVERY = 8;

function meetingBoxes(placed: readonly PlacedBody[]): [one: number, other: number][] {
  const boxes = placed.map((each) => boxOf(each).expandByScalar(each.body.deflectionMm));
  const axis = widestAxis(boxes);
  const low = (at: number): number => boxes[at]?.min[axis] ?? 0;
  const order = [...boxes.keys()].sort((a, b) => low(a) - low(b));
  const pairs: [number, number][] = [];
  const open = new Set<number>();
  for (const at of order) {
    const box = boxes[at];
    if (!box || box.isEmpty()) continue;
    for (const before of open) {
      const other = boxes[before];
      if (!other || other.max[axis] < box.min[axis]) open.delete(before);
      else if (other.intersectsBox(box)) pairs.push(before < at ? [before, at] : [at, before]);
    }
    open.add(at);
  }
  return pairs.sort((a, b) => a[0] - b[0] || a[1] - b[1]);
}

function widestAxis(boxes: readonly Box3[]): 'x' | 'y' | 'z' {
  const middles = (axis: 'x' | 'y' | 'z'): number => {
    const all = boxes.map(({ min, max }) => (min[axis] + max[axis]) / 2);
    return (
      all.reduce((high, each) => Math.max(high, each), -Infinity) -
      all.reduce((low, each) => Math.min(low, each), Infinity)
    );
  };
  return (['x', 'y', 'z'] as const).reduce((best, axis) => (middles(axis) > middles(best) ? axis : best));
}
