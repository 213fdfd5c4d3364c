import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { likenessByProperties, type LookedUpProperty } from './likeness.js';

const number = (key: string, value: number, unit = 'kg'): LookedUpProperty => ({
  key,
  number: value,
  unit,
  said: `${value} ${unit}`,
});
const text = (key: string, said: string): LookedUpProperty => ({ key, number: null, unit: null, said });

const property = fc
  .tuple(
    fc.constantFrom('mass', 'length', 'material', 'finish'),
    fc.option(fc.double({ min: -50, max: 50, noNaN: true })),
    fc.constantFrom('kg', 'm'),
    fc.constantFrom('steel', 'brass'),
  )
  .map(([key, value, unit, said]) => (value === null ? text(key, said) : number(key, value, unit)));
const properties = fc.uniqueArray(property, { selector: ({ key }) => key });

describe('likeness by properties', () => {
  it('lies between nothing and the same, and of an item to itself is the same', () => {
    fc.assert(
      fc.property(properties, properties, (a, b) => {
        const { score, properties: each } = likenessByProperties(a, b);
        expect(score).toBeGreaterThanOrEqual(0);
        expect(score).toBeLessThanOrEqual(1);
        expect(each.map(({ key }) => key)).toEqual(a.map(({ key }) => key));
        if (a.length > 0) expect(likenessByProperties(a, a).score).toBe(1);
      }),
    );
  });

  it('of single properties does not depend on which is held against which', () => {
    fc.assert(
      fc.property(property, property, (a, b) => {
        const other = { ...b, key: a.key };
        expect(likenessByProperties([a], [other]).score).toBe(likenessByProperties([other], [a]).score);
      }),
    );
  });

  it('takes numbers by their ratio, texts as a whole, and what is missing as nothing', () => {
    const mine = [number('mass', 2), text('material', 'steel'), text('finish', 'zinc')];
    const theirs = [number('mass', 1.5), text('material', 'steel')];
    expect(likenessByProperties(mine, theirs)).toEqual({
      score: (0.75 + 1) / 3,
      properties: [
        { key: 'mass', closeness: 0.75 },
        { key: 'material', closeness: 1 },
        { key: 'finish', closeness: 0 },
      ],
    });
    expect(likenessByProperties([number('mass', -1)], [number('mass', 1)]).score).toBe(0);
    expect(likenessByProperties([number('mass', 1)], [number('mass', 1, 'm')]).score).toBe(0);
  });
});
