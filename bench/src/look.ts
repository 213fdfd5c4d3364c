/** What lies near in a large product, against going through all corners of what its boxes leave; and cutting it. */
import { near, outlinesOf, solidBody, type Body, type PlacedBody } from '@stem-trace/core/look';
import type { BenchResult } from './report.js';

const FILES = 200;
const PLACES_OF_EACH = 10;
/** Around a tube; two triangles each, inside and outside. */
const STEPS = 625;
const ROUNDS = 5;
const WITHIN_MM = 12;

/** Tubes of different sizes, standing in rows 31 mm apart. */
export function benchLook(): BenchResult {
  const shapes = Array.from({ length: FILES }, (_, at) => tube(8 + (at % 7), 40 + at));
  const began = performance.now();
  const bodies = shapes.map(solidBody);
  const cold = performance.now() - began;
  const placed = bodies.flatMap((body, file) =>
    Array.from({ length: PLACES_OF_EACH }, (_, copy): PlacedBody => {
      const at = file * PLACES_OF_EACH + copy;
      return { body, at: [1, 0, 0, (at % 45) * 31, 0, 1, 0, Math.floor(at / 45) * 31, 0, 0, 1, 0] };
    }),
  );
  const middle = placed.slice(1000, 1001);
  const others = placed.filter((each) => !middle.includes(each));
  const found = near(middle, others, WITHIN_MM);
  const byCorners = cornersNear(middle[0], others);
  if (found.length === 0 || byCorners !== found.length)
    throw new Error(`the rival finds ${byCorners}, we find ${found.length}`);
  const warm = median(() => near(middle, others, WITHIN_MM));
  const rival = median(() => cornersNear(middle[0], others), 1);
  const cut = median(() => outlinesOf(placed, { point: [0, 100, 0], normal: [0, 1, 0] }));
  const triangles = placed.reduce((sum, { body }) => sum + body.indices.length / 3, 0);
  return {
    title: `A product of ${placed.length.toLocaleString('en-GB')} placed parts and ${(triangles / 1e6).toFixed(1)} million triangles`,
    rivalName: 'comparing all corners of the parts whose boxes are near',
    goal: 'near in 500 ms warm and 5 s cold; caps and outline in 1 s',
    notes: [
      `Cold is making the hierarchies of all ${FILES} files; ${found.length} parts are found within ${WITHIN_MM} mm, the same by both.`,
    ],
    rows: [
      { what: 'hierarchies of all parts', ours: cold },
      { what: 'what is near to a part', ours: warm, rival },
      { what: 'the outline of a section through all', ours: cut },
    ],
  };
}

function tube(radius: number, height: number): Body {
  const positions: number[] = [];
  const indices: number[] = [];
  for (const [r, isInner] of [[radius, false] as const, [radius - 2, true] as const]) {
    const first = positions.length / 3;
    for (let at = 0; at < STEPS; at++) {
      const angle = (at * 2 * Math.PI) / STEPS;
      for (const z of [0, height]) positions.push(r * Math.cos(angle), r * Math.sin(angle), z);
    }
    for (let at = 0; at < STEPS; at++) {
      const [a, b, c, d] = [0, 2, 3, 1].map((corner) => first + ((at * 2 + corner) % (2 * STEPS))) as [
        ...[number, number, number, number],
      ];
      indices.push(...(isInner ? [a, c, b, a, d, c] : [a, b, c, a, c, d]));
    }
  }
  return {
    ...{ positions: new Float32Array(positions), indices: new Uint32Array(indices) },
    ...{ faces: [{ first: 0, last: indices.length / 3 - 1 }], deflectionMm: 0.01 },
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
