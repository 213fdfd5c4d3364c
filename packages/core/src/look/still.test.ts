import fc from 'fast-check';
import { expect, it } from 'vitest';
import { prism } from '../testing/bodies.js';
import { stillOf, type StillPart, type StillView } from './still.js';

const cube = prism([[0, 0], [10, 0], [10, 10], [0, 10]], 10); // prettier-ignore
const GREY = [200, 200, 200] as const;
const stand = (id: number, [x, y, z]: readonly [number, number, number]): StillPart => ({
  ...{ positions: cube.positions, indices: cube.indices, tint: GREY, id },
  at: [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z],
});
const FRONT: StillView = { from: [0, -1, 0], up: [0, 0, 1], width: 100, height: 80 };

/** How many pixels show each. */
function counts(ids: Int32Array): ReadonlyMap<number, number> {
  const found = new Map<number, number>();
  for (const id of ids) found.set(id, (found.get(id) ?? 0) + 1);
  return found;
}

it('fills the picture with what there is, as large as it fits, upright', () => {
  const { ids, pixels, scale } = stillOf([stand(7, [500, -3, 20])], FRONT);
  // Ten millimetres in what is left of 80 pixels.
  expect(scale).toBeCloseTo(7.36);
  expect(Math.abs(Math.sqrt(counts(ids).get(7) ?? 0) - 73.6)).toBeLessThan(1);
  expect([...pixels.slice(0, 4)]).toEqual([0, 0, 0, 0]);
  // One on top of the other: the upper one is in the upper half.
  const two = stillOf([stand(1, [0, 0, 0]), stand(2, [0, 0, 10])], FRONT);
  expect([two.ids[20 * 100 + 50], two.ids[60 * 100 + 50]]).toEqual([2, 1]);
  // To the right of whoever looks from the front is where x grows.
  const beside = stillOf([stand(1, [0, 0, 0]), stand(2, [10, 0, 0])], FRONT);
  expect([beside.ids[40 * 100 + 25], beside.ids[40 * 100 + 75]]).toEqual([1, 2]);
});

it('shows of cubes in a row exactly the nearest, whatever the order in which they are drawn', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: -20, max: 20 }), { minLength: 1, maxLength: 6 }),
      fc.constantFrom<StillView>(FRONT, { ...FRONT, from: [0, 1, 0] }),
      (places, view) => {
        const { ids } = stillOf(
          places.map((place, at) => stand(at, [0, 11 * place, 0])),
          view,
        );
        const nearest = view.from[1] < 0 ? Math.min(...places) : Math.max(...places);
        expect([...counts(ids).keys()].filter((id) => id >= 0)).toEqual([places.indexOf(nearest)]);
      },
    ),
  );
});

it('draws nothing of nothing, and is not upset by triangles without an area or far away', () => {
  expect(counts(stillOf([], FRONT).ids)).toEqual(new Map([[-1, 8000]]));
  const flat: StillPart = { ...stand(3, [0, 0, 0]), positions: new Float32Array(cube.positions.length) };
  expect(counts(stillOf([flat], FRONT).ids)).toEqual(new Map([[-1, 8000]]));
  const far = stillOf([stand(1, [-1e9, 0, 0]), stand(2, [1e9, 0, 0])], FRONT);
  expect(far.ids).toHaveLength(8000);
});
