import { stringify } from 'csv-stringify/sync';
import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { WishDefinition } from './recipe.js';
import { columnOf, delimiterOf, sheetsOf } from './sheets.js';

const wish = (name: string, label: string): WishDefinition => ({
  ...{ name, label, kind: 'text', unit: '', least: null, most: null, choices: [], otherwise: '' },
});
const WISHES = [wish('arm', 'Arm length'), wish('river', 'River')];

it('a column is what somebody said, else the wish of its name or label, else not understood', () => {
  expect(columnOf(' ARM ', WISHES, {})).toEqual({ wish: 'arm' });
  expect(columnOf('arm length', WISHES, {})).toEqual({ wish: 'arm' });
  expect(columnOf('For', WISHES, {})).toBe('for');
  expect(columnOf('Reach', WISHES, {})).toBeUndefined();
  expect(columnOf('Reach', WISHES, { reach: 'arm' })).toEqual({ wish: 'arm' });
  expect(columnOf('Arm', WISHES, { arm: '' })).toBe('nothing');
  expect(columnOf('Arm', WISHES, { arm: 'for' })).toBe('for');
  // A wish that the recipe had, and names that every object has.
  expect(columnOf('Reach', WISHES, { reach: 'boom' })).toBeUndefined();
  expect(columnOf('constructor', WISHES, {})).toBeUndefined();
});

it('sheets that were written as a table come back as they were, whatever parts its cells', () => {
  const cell = fc.string().map((text) => text.trim());
  fc.assert(
    fc.property(
      fc.array(fc.tuple(cell, cell, cell), { minLength: 1, maxLength: 5 }),
      fc.constantFrom('\t', ';', ','),
      (rows, delimiter) => {
        const table = stringify([['for', 'arm', 'River'], ...rows], { delimiter, quoted: true });
        expect(delimiterOf(table)).toBe(delimiter);
        const [heads = [], ...read] = parse(table, { delimiter: delimiterOf(table) });
        const columns = heads.map((head) => columnOf(head, WISHES, {}));
        expect(sheetsOf(read, columns)).toEqual(
          rows.flatMap(([of, arm, river]) =>
            of + arm + river === ''
              ? []
              : [{ for: of, wishes: { ...(arm && { arm }), ...(river && { river }) } }],
          ),
        );
      },
    ),
  );
});
