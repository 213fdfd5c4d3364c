/** What lies near in a large product, against going through all corners of what its boxes leave; and cutting it. */
import { near, outlinesOf, overlapsOf, solidBody, type PlacedBody } from '@stem-trace/core/look';
import { APART_MM, CROWDED_MM, FILES, PLACES_OF_EACH, placeOf, tubeOf } from './large-product.js';
import type { BenchResult } from './report.js';

const ROUNDS = 5;
const WITHIN_MM = 12;

export async function benchLook(): Promise<BenchResult> {
  const shapes = Array.from({ length: FILES }, (_, at) => tubeOf(at));
  const began = performance.now();
  const bodies = shapes.map(solidBody);
  const cold = performance.now() - began;
  const standing = (apartMm: number): PlacedBody[] =>
    bodies.flatMap((body, file) =>
      Array.from({ length: PLACES_OF_EACH }, (_, copy) => ({
        ...{ body, at: placeOf(file * PLACES_OF_EACH + copy, apartMm) },
      })),
    );
  const placed = standing(APART_MM);
  const crowded = standing(CROWDED_MM);
  const middle = placed.slice(1000, 1001);
  const others = placed.filter((each) => !middle.includes(each));
  const found = near(middle, others, WITHIN_MM);
  const byCorners = cornersNear(middle[0], others);
  if (found.length === 0 || byCorners !== found.length)
    throw new Error(`the rival finds ${byCorners}, we find ${found.length}`);
  const warm = median(() => near(middle, others, WITHIN_MM));
  const rival = median(() => cornersNear(middle[0], others), 1);
  const begin = performance.now();
  const pairs = (await overlapsOf(crowded)).length;
  const overlaps = performance.now() - begin;
  const cut = median(() => outlinesOf(placed, { point: [0, 100, 0], normal: [0, 1, 0] }));
  const triangles = placed.reduce((sum, { body }) => sum + body.indices.length / 3, 0);
  return {
    title: `A product of ${placed.length.toLocaleString('en-GB')} placed parts and ${(triangles / 1e6).toFixed(1)} million triangles`,
    rivalName: 'comparing all corners of the parts whose boxes are near',
    goal: 'near in 500 ms warm and 5 s cold; all pairs in a minute; caps and outline in 1 s',
    notes: [
      `Cold is making the hierarchies of all ${FILES} files; ${found.length} parts are found within ${WITHIN_MM} mm, the same by both. Where they stand nearer together, ${pairs.toLocaleString('en-GB')} pairs overlap.`,
    ],
    rows: [
      { what: 'hierarchies of all parts', ours: cold },
      { what: 'what is near to a part', ours: warm, rival },
      { what: 'all pairs that touch or overlap', ours: overlaps },
      { what: 'the outline of a section through all', ours: cut },
    ],
  };
}

/** How many have a corner near a corner; tubes that stand side by side are nearest there. */
function cornersNear(one: PlacedBody | undefined, others: readonly PlacedBody[]): number {
  if (!one) return 0;
  const corners = cornersOf(one);
  const reach = boundsOf(corners);
  return others.filter((other) => {
    const theirs = cornersOf(other);
    const box = boundsOf(theirs);
    if (
      box.some(
        ([low, high], axis) =>
          low > (reach[axis]?.[1] ?? 0) + WITHIN_MM || high < (reach[axis]?.[0] ?? 0) - WITHIN_MM,
      )
    )
      return false;
    let nearest = Infinity;
    for (let a = 0; a + 2 < corners.length; a += 3)
      for (let b = 0; b + 2 < theirs.length; b += 3) {
        const x = (corners[a] ?? 0) - (theirs[b] ?? 0);
        const y = (corners[a + 1] ?? 0) - (theirs[b + 1] ?? 0);
        const z = (corners[a + 2] ?? 0) - (theirs[b + 2] ?? 0);
        nearest = Math.min(nearest, x * x + y * y + z * z);
      }
    return Math.sqrt(nearest) <= WITHIN_MM;
  }).length;
}

function cornersOf({ body: { positions }, at }: PlacedBody): Float64Array {
  const corners = new Float64Array(positions.length);
  for (let index = 0; index < positions.length; index++) {
    const axis = index % 3;
    corners[index] = (positions[index] ?? 0) + (at[axis * 4 + 3] ?? 0);
  }
  return corners;
}

function boundsOf(corners: Float64Array): [number, number][] {
  return [0, 1, 2].map((axis) => {
    let [low, high] = [Infinity, -Infinity];
    for (let at = axis; at < corners.length; at += 3) {
      low = Math.min(low, corners[at] ?? 0);
      high = Math.max(high, corners[at] ?? 0);
    }
    return [low, high];
  });
}

function median(work: () => unknown, rounds = ROUNDS): number {
  const times = Array.from({ length: rounds }, () => {
    const begin = performance.now();
    work();
    return performance.now() - begin;
  }).sort((a, b) => a - b);
  return times[Math.floor(rounds / 2)] ?? 0;
}
