import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sayAmount } from './amount.js';
import { mapTable, proposeMapping, type ListLine, type TableCell, type TableRow } from './table-mapping.js';

function say(lines: readonly ListLine[], level = 1): string[] {
  return lines.flatMap((line) => [
    `${'>'.repeat(level)} ${line.number} ${sayAmount(line.amount)} ${line.designators.join(',')}`.trim(),
    ...say(line.children, level + 1),
  ]);
}

describe('a list that somebody sent', () => {
  it('is understood by its headings, wherever they stand', () => {
    const rows: TableRow[] = [
      ['Offer 4711', null, null, null, null],
      [],
      ['Pos.', 'Part Number', 'Description', 'Qty', 'RefDes', 'Price [EUR]'],
      ['1', 'FM-9601', 'Resistor 10k', 3, 'R1-R3', 0.02],
      ['', '', '', '', ''],
      ['2', 'FM-9605', 'Capacitor', null, 'C1, C4', '0.05'],
      ['3', 'WIRE-1', 'Wire', '0.4 m', '', ''],
      ['Pos.', 'Part Number', 'Description', 'Qty', 'RefDes', 'Price [EUR]'],
      ['4', '', 'Adhesive', 1, '', ''],
      ['', '', 'Sum', null, '', ''],
      ['5', 'FM-1', 'odd', 'some', '', ''],
    ];
    const mapping = proposeMapping(rows);
    expect(mapping).toMatchObject({
      header: 2,
      decimal: '.',
      levels: 'none',
      further: [{ at: 5, name: 'Price [EUR]' }],
    });
    const { lines, problems, count } = mapTable(rows, mapping);
    expect(say(lines)).toEqual([
      '> FM-9601 3 R1,R2,R3',
      '> FM-9605 2 C1,C4',
      '> WIRE-1 0.4 m',
      '> Adhesive 1',
      '> FM-1 as required',
    ]);
    expect(count).toBe(5);
    expect(lines[0]?.values).toEqual({ 'Price [EUR]': '0.02' });
    expect(problems).toEqual([
      { row: 9, says: 'it has no number; it goes by its name' },
      { row: 10, says: 'it has no number and was passed over' },
      { row: 11, says: '“some” is no quantity; that counts as not known' },
    ]);
  });

  it.each([
    ['1.234,5', ',', '1234.5'],
    ['0,4', ',', '0.4'],
    ['1,234.5', '.', '1234.5'],
    ["1'000", '.', '1000'],
    ['1 000', ',', '1000'],
    ['12', ',', '12'],
  ] as const)('has %s with %s for the decimal sign as %s', (text, decimal, value) => {
    const mapping = {
      sheet: '',
      header: -1,
      decimal,
      levels: 'none',
      columns: { number: 0, quantity: 1 },
      further: [],
    } as const;
    expect(mapTable([['A', text]], mapping).lines[0]?.amount.value).toBe(value);
  });

  it('has its decimal sign guessed from what stands there', () => {
    expect(
      proposeMapping([
        ['Part no', 'Menge'],
        ['A', '0,4'],
        ['B', '1,25'],
      ]).decimal,
    ).toBe(',');
    expect(
      proposeMapping([
        ['Part no', 'Menge'],
        ['A', '1,000'],
        ['B', '0.5'],
      ]).decimal,
    ).toBe('.');
  });

  it.each<[string, readonly TableRow[]]>([
    ['numbers', [['Level', 'Part no'], ['0', 'TOP'], ['1', 'A'], ['2', 'B'], ['1', 'C']]], // prettier-ignore
    ['points', [['Level', 'Part no'], ['1', 'TOP'], ['1.1', 'A'], ['1.1.1', 'B'], ['1.2', 'C']]], // prettier-ignore
    ['blanks', [['Part no', 'Qty'], ['TOP', 1], ['  A', 1], ['    B', 1], ['  C', 1]]], // prettier-ignore
    ['leading points', [['Part no', 'Qty'], ['TOP', 1], ['.A', 1], ['..B', 1], ['.C', 1]]], // prettier-ignore
  ])('has its levels by %s', (_, rows) => {
    const { lines, problems } = mapTable(rows, proposeMapping(rows));
    expect(say(lines)).toEqual(['> TOP 1', '>> A 1', '>>> B 1', '>> C 1']);
    expect(problems).toEqual([]);
  });

  it('that leaves a level out is said, and nothing is lost', () => {
    const rows: TableRow[] = [['Level', 'Part no'], ['1', 'A'], ['5', 'B'], ['x', 'C']]; // prettier-ignore
    const { lines, problems } = mapTable(rows, proposeMapping(rows));
    expect(say(lines)).toEqual(['> A 1', '>> B 1', '> C 1']);
    expect(problems.map(({ row }) => row)).toEqual([3, 4]);
  });

  it('whatever stands in it, becomes rows or is said', () => {
    const cell: fc.Arbitrary<TableCell> = fc.oneof(
      fc.constant(null),
      fc.double(),
      fc.string({ maxLength: 8 }),
      fc.constantFrom('1', '1.1', 'R1–R4', 'Qty', 'Part no', 'Level', '1,5', '..A'),
    );
    fc.assert(
      fc.property(fc.array(fc.array(cell, { maxLength: 6 }), { maxLength: 30 }), (rows) => {
        const mapping = proposeMapping(rows);
        const { lines, count, problems } = mapTable(rows, mapping);
        expect(say(lines)).toHaveLength(count);
        for (const { row } of problems) expect(row).toBeLessThanOrEqual(rows.length);
      }),
    );
  });
});
