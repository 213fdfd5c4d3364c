import fc from 'fast-check';
import { expect, it } from 'vitest';
import { askedAddition } from './asked-addition.js';

const choice = fc.record(
  {
    in: fc.array(fc.string(), { minLength: 1 }),
    item: fc.string({ minLength: 1 }),
    ...{ name: fc.string(), like: fc.string() },
    at: fc.tuple(fc.integer(), fc.integer(), fc.integer()),
    along: fc.tuple(fc.integer(), fc.integer(), fc.integer()),
  },
  { requiredKeys: ['in', 'item', 'name', 'like', 'at'] },
);

it('is what the address was made of', () => {
  fc.assert(
    fc.property(choice, (made) => {
      expect(askedAddition(JSON.stringify(made))).toEqual(made);
    }),
  );
});

it('is nothing where an address says something else', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.json()), (said) => {
      expect(askedAddition(said)).toBeUndefined();
    }),
  );
  for (const wrong of [{ in: [] }, { item: '' }, { at: [1, 2] }, { at: ['1', 2, 3] }])
    expect(
      askedAddition(JSON.stringify({ in: ['FM-1'], item: 'FM-2', at: [1, 2, 3], ...wrong })),
    ).toBeUndefined();
});
