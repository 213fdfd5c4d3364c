import fc from 'fast-check';
import { expect, it } from 'vitest';
import { IDENTITY_PLACEMENT } from '../model/link.js';
import { invertRigid, multiply, standingOn } from './placement.js';

const coordinate = fc.double({ min: -1e3, max: 1e3, noNaN: true });
const point = fc.tuple(coordinate, coordinate, coordinate);

it('stands with z along the direction, moved and turned and nothing else', () => {
  fc.assert(
    fc.property(
      point,
      fc.oneof(
        point.filter((along) => Math.hypot(...along) > 1e-3),
        // Nearly straight down, where the way to turn is hardest to tell.
        fc
          .tuple(
            fc.double({ min: -1, max: 1, noNaN: true }),
            fc.double({ min: -1, max: 1, noNaN: true }),
            fc.integer({ min: 3, max: 9 }),
          )
          .map(([x, y, digits]): [number, number, number] => [x * 10 ** -digits, y * 10 ** -digits, -1]),
      ),
      (spot, along) => {
        const stands = standingOn(spot, along);
        const length = Math.hypot(...along);
        [2, 6, 10].forEach((index, axis) =>
          expect(stands[index]).toBeCloseTo((along[axis] ?? 0) / length, 6),
        );
        [3, 7, 11].forEach((index, axis) => expect(stands[index]).toBeCloseTo(spot[axis] ?? 0, 6));
        multiply(stands, invertRigid(stands)).forEach((value, index) =>
          expect(value).toBeCloseTo(IDENTITY_PLACEMENT[index] ?? 0, 5),
        );
        // Right-handed: x × y is z.
        const [a, b] = [0, 1].map((column) => [0, 1, 2].map((row) => stands[row * 4 + column] ?? 0));
        const cross = (i: number, j: number): number =>
          (a?.[i] ?? 0) * (b?.[j] ?? 0) - (a?.[j] ?? 0) * (b?.[i] ?? 0);
        expect(cross(0, 1)).toBeCloseTo(stands[10] ?? 0, 6);
      },
    ),
    { numRuns: 2000 },
  );
});

it('leaves what looks up as it is, and turns what looks down about x', () => {
  expect(standingOn([1, 2, 3], [0, 0, 5])).toEqual([1, 0, 0, 1, 0, 1, 0, 2, 0, 0, 1, 3]);
  expect(standingOn([1, 2, 3], [0, 0, -5])).toEqual([1, 0, 0, 1, 0, -1, 0, 2, 0, 0, -1, 3]);
});
