import fc from 'fast-check';
import { expect, it } from 'vitest';
import { massOf, type TriangleMesh } from './mass.js';

/** A box as twelve triangles, facing outwards. */
function box(size: readonly [number, number, number], at: readonly [number, number, number]): TriangleMesh {
  const positions = Array.from({ length: 8 }, (_, corner) =>
    [0, 1, 2].map((axis) => (at[axis] ?? 0) + ((corner >> axis) & 1) * (size[axis] ?? 0)),
  ).flat();
  const indices = [
    0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7,
    5,
  ];
  return { positions, indices };
}

it('gives volume, surface and box of boxes anywhere', () => {
  const length = fc.double({ min: 0.1, max: 500, noNaN: true });
  const place = fc.double({ min: -1000, max: 1000, noNaN: true }).map((value) => value + 0);
  fc.assert(
    fc.property(fc.tuple(length, length, length), fc.tuple(place, place, place), ([a, b, c], at) => {
      const mass = massOf([box([a, b, c], at)]);
      expect(mass.volumeMm3 / (a * b * c)).toBeCloseTo(1, 5);
      expect(mass.areaMm2 / (2 * (a * b + b * c + a * c))).toBeCloseTo(1, 5);
      expect(mass.box.min).toEqual(at);
      mass.centre.forEach((value, axis) =>
        expect(value).toBeCloseTo((at[axis] ?? 0) + ([a, b, c][axis] ?? 0) / 2, 5),
      );
    }),
  );
});

it('adds up several bodies', () => {
  const mass = massOf([box([1, 2, 3], [0, 0, 0]), box([2, 2, 2], [10, 0, 0])]);
  expect(mass.volumeMm3).toBeCloseTo(14);
  expect(mass.box).toEqual({ min: [0, 0, 0], max: [12, 2, 3] });
  // 6 mm³ about 0.5, 8 mm³ about 11.
  expect(mass.centre[0]).toBeCloseTo((6 * 0.5 + 8 * 11) / 14);
});

it('takes the middle of the surface where there is no volume', () => {
  const sheet = { positions: [0, 0, 5, 4, 0, 5, 4, 2, 5, 0, 2, 5], indices: [0, 1, 2, 0, 2, 3] };
  expect(massOf([sheet]).centre).toEqual([2, 1, 5]);
});
