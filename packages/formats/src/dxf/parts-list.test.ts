import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dxf } from '../testing/dxf.js';
import { readPartsList } from './parts-list.js';

const LIST = [
  ['Pos.', 'Item no.', 'Name', 'Qty'],
  ['1', 'P-100', 'Base', '1'],
  ['2', 'P-200', 'Bolt M8', '4'],
  ['10', 'P-100', 'Base', '1'],
];
const PARTS = [
  { find: '1', number: 'P-100' },
  { find: '2', number: 'P-200' },
  { find: '10', number: 'P-100' },
];
const sorted = (parts: readonly { find: string; number: string }[]): string[] =>
  parts.map(({ find, number }) => `${find} ${number}`).sort();

/** A table object, as the format has it: rows, columns, then the cells one after another. */
function table(rows: readonly (readonly string[])[]): Uint8Array {
  const groups: (string | number)[] = [0, 'SECTION', 2, 'ENTITIES', 0, 'ACAD_TABLE', 10, 0, 20, 0];
  groups.push(91, rows.length, 92, rows[0]?.length ?? 0);
  for (const cell of rows.flat()) groups.push(171, 1, 172, 0, 1, cell);
  groups.push(0, 'ENDSEC', 0, 'EOF');
  return new TextEncoder().encode(groups.join('\n'));
}

describe('the list of parts on a drawing', () => {
  it('is read from lettering in rows, whichever way it grows, with the rest of the sheet around it', () => {
    const notes = ['Deburr all edges', '7', 'P-999'];
    const fields = { PART_NUMBER: 'P-1', TITLE: 'Arm' };
    expect(sorted(readPartsList(dxf({ fields, notes, list: LIST })))).toEqual(sorted(PARTS));
    expect(sorted(readPartsList(dxf({ fields, notes, list: [...LIST].reverse() })))).toEqual(sorted(PARTS));
  });

  it('is read from a table', () => {
    expect(readPartsList(table(LIST))).toEqual(PARTS);
  });

  it('keeps columns apart whatever order they come in, and numbers with letters', () => {
    const turned = LIST.map((row) => [...row].reverse());
    expect(sorted(readPartsList(dxf({ list: turned })))).toEqual(sorted(PARTS));
    const lettered = [
      ['Find', 'Part number'],
      ['3A', 'X 1'],
    ];
    expect(readPartsList(dxf({ list: lettered }))).toEqual([{ find: '3A', number: 'X 1' }]);
  });

  it('is none where no heading says so, or nothing stands in its columns', () => {
    expect(readPartsList(dxf({ list: LIST.slice(1) }))).toEqual([]);
    expect(readPartsList(dxf({ list: LIST.slice(0, 1), notes: ['1', '2'] }))).toEqual([]);
    expect(readPartsList(dxf({ fields: { PART_NUMBER: 'P-1' } }))).toEqual([]);
  });

  it('of any rows is these rows, and whatever is sent never ends in anything but rows or none', () => {
    const numbers = fc.stringMatching(/^[A-Z]{1,3}-\d{1,5}$/);
    fc.assert(
      fc.property(fc.array(numbers, { minLength: 1, maxLength: 40 }), (all) => {
        const parts = all.map((number, at) => ({ find: String(at + 1), number }));
        const list = [['Item', 'Number', 'Qty'], ...parts.map(({ find, number }) => [find, number, '1'])];
        expect(sorted(readPartsList(dxf({ list })))).toEqual(sorted(parts));
        expect(readPartsList(table(list))).toEqual(parts);
      }),
      { numRuns: 50 },
    );
    const whole = dxf({ list: LIST });
    fc.assert(
      fc.property(fc.nat(whole.length), fc.nat(255), (at, byte) => {
        const hurt = whole.slice();
        hurt[at] = byte;
        try {
          for (const { find, number } of readPartsList(hurt))
            expect(find.length * number.length).toBeGreaterThan(0);
        } catch (error) {
          // A group code that is none, as every reader of drawings says it.
          expect((error as Error).name).toBe('FormatError');
        }
      }),
      { numRuns: 300 },
    );
  });
});
