import fc from 'fast-check';
import { expect, it } from 'vitest';
import { prism } from '../testing/bodies.js';
import { near, type PlacedBody } from './near.js';
import { overlapsOf } from './overlaps.js';

const cube = prism([[0, 0], [10, 0], [10, 10], [0, 10]], 10); // prettier-ignore
const place = fc.tuple(fc.nat(50), fc.nat(30), fc.nat(20));
const stand = ([x, y, z]: readonly [number, number, number]): PlacedBody => ({
  body: cube,
  at: [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z],
});

it('finds exactly the pairs that asking for each alone finds, with the depth that cubes have', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(place, { maxLength: 9 }), async (places) => {
      const placed = places.map(stand);
      const said = (await overlapsOf(placed)).map(({ of, other, kind, depthMm }) => ({
        of,
        other,
        kind,
        depthMm,
      }));
      const wanted = placed.flatMap((one, of) =>
        near([one], placed.slice(of + 1), 2e-6)
          .filter(({ kind }) => kind !== 'near')
          .map(({ kind, depthMm, other }) => ({ of, other: of + 1 + other, kind, depthMm })),
      );
      const key = ({ of, other }: { readonly of: number; readonly other: number }): number =>
        of * 100 + other;
      expect([...said].sort((a, b) => key(a) - key(b))).toEqual(wanted.sort((a, b) => key(a) - key(b)));
      said.forEach(({ depthMm }, at) =>
        expect(depthMm).toBeLessThanOrEqual(said[at - 1]?.depthMm ?? Infinity),
      );
      // By the boxes alone, which is what cubes are.
      for (const { of, other, kind } of said) {
        const gaps = (places[of] ?? []).map((value, axis) => Math.abs(value - (places[other]?.[axis] ?? 0)));
        expect(kind).toBe(Math.max(...gaps) < 10 ? 'overlaps' : 'touches');
      }
    }),
    { numRuns: 60 },
  );
});

it('compares only what is asked for, says how far it is, and ends where that throws', async () => {
  const placed = [0, 5, 8].map((x) => stand([x, 0, 0]));
  const steps: number[] = [];
  const found = await overlapsOf(placed, {
    isAsked: (one, other) => one !== 0 || other !== 1,
    onProgress: (done, of) => void steps.push(done, of),
  });
  expect(found.map(({ of, other }) => [of, other])).toEqual([
    ...[[1, 2], [0, 2]], // prettier-ignore
  ]);
  expect(steps).toEqual([0, 2]);
  const onProgress = (): never => {
    throw new Error('enough');
  };
  await expect(overlapsOf(placed, { onProgress })).rejects.toThrow('enough');
});
