import { describe, expect, it } from 'vitest';
import type { PropertyValue } from '../model/reading.js';
import { dayWrittenLike } from './day-written-like.js';
import { DEFAULT_TITLE_BLOCK, redrawn, titleBlockChanges, type TitleBlockRule } from './title-block.js';

const text = (name: string, said: string): PropertyValue => ({ name, kind: 'text', text: said });
const fields = (said: readonly (readonly [string, string])[]) =>
  said.map(([tag, value], at) => ({ ref: at + 1, tag, text: value }));
const changes = (
  said: readonly (readonly [string, string])[],
  properties: readonly PropertyValue[],
  rules: readonly TitleBlockRule[] = DEFAULT_TITLE_BLOCK,
): [number, string][] =>
  titleBlockChanges(fields(said), { rules, properties }).map(({ ref, to }) => [ref, to]);

describe('what a title block is to say', () => {
  it('is what the store says otherwise, and nothing else', () => {
    expect(
      changes(
        [
          ['TITLE', 'Arm'],
          ['FINISH', 'none'],
          ['Surface_Finish', 'Ra 3.2'],
          ['SCALE', '1:2'],
        ],
        [text('title', 'no field'), text('finish', 'painted'), text('SURFACE finish', 'Ra 1.6')],
      ),
    ).toEqual([
      [2, 'painted'],
      [3, 'Ra 1.6'],
    ]);
  });

  it('stays as it is written where it says the same', () => {
    const mass: PropertyValue = { name: 'mass', kind: 'number', value: 1.5, unit: 'kg' };
    expect(changes([['MASS', '1500 g']], [mass])).toEqual([]);
    expect(changes([['MASS', ' 1.5 kg ']], [mass])).toEqual([]);
    expect(changes([['MASS', '1.6 kg']], [mass])).toEqual([[1, '1.5 kg']]);
    expect(changes([['MASS', 'see parts']], [mass])).toEqual([[1, '1.5 kg']]);
  });

  it('fills a blank field where no other says the property, and empties one that is to be blank', () => {
    expect(changes([['FOR', '']], [text('for', 'Weir')])).toEqual([[1, 'Weir']]);
    const twice: readonly TitleBlockRule[] = ['A', 'B'].map((tag) => ({
      tag,
      means: 'property',
      property: 'for',
    }));
    expect(
      changes(
        [
          ['A', ''],
          ['B', 'old'],
        ],
        [text('for', 'Weir')],
        twice,
      ),
    ).toEqual([[2, 'Weir']]);
    expect(
      changes(
        [
          ['A', 'x'],
          ['B', 'x'],
        ],
        [text('for', '')],
        twice,
      ),
    ).toEqual([
      [1, ''],
      [2, ''],
    ]);
    // Each of several keeps to its own value.
    expect(
      changes(
        [
          ['A', 'x'],
          ['B', 'y'],
        ],
        [text('for', 'x'), text('for', 'z')],
        twice,
      ),
    ).toEqual([[2, 'z']]);
  });
});

it('a copied drawing is drawn anew, and nobody has checked it', () => {
  const at = new Date(2026, 10, 27, 9);
  const origin = [
    text('drawn by', 'Ines'),
    text('date', '03.04.2024'),
    text('CHECKED BY', 'Pavo'),
    text('material', 'steel'),
    text('approved', ''),
  ];
  expect([...redrawn(origin, DEFAULT_TITLE_BLOCK, { by: 'Teodor', at }).values()]).toEqual([
    text('drawn by', 'Teodor'),
    text('date', '27.11.2026'),
    text('CHECKED BY', ''),
  ]);
  expect(redrawn(origin, [], { by: 'Teodor', at }).size).toBe(0);
});

it('a day is written as the one before it was', () => {
  const day = new Date(2026, 1, 3, 23, 59);
  const cases: readonly (readonly [string, string])[] = [
    ['2024-12-31', '2026-02-03'],
    ['31.12.2024', '03.02.2026'],
    ['1.2.2024', '3.2.2026'],
    ['31.12.24', '03.02.26'],
    ['31/12/2024', '03/02/2026'],
    ['12/31/2024', '02/03/2026'],
    // Which is the month?
    ['04/03/2024', '2026-02-03'],
    ['04/04/2024', '2026-02-03'],
    ['12 MAR 2024', '03 FEB 2026'],
    ['12 Mar 2024', '03 Feb 2026'],
    ['March 2, 2024', 'February 3, 2026'],
    ['03/2024', '02/2026'],
    ['2024', '2026'],
    ['last spring', '2026-02-03'],
    ['', '2026-02-03'],
    ['99.99.9999', '2026-02-03'],
  ];
  for (const [sample, said] of cases) expect([sample, dayWrittenLike(sample, day)]).toEqual([sample, said]);
});
