import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ListLine } from '@stem-trace/core';
import { FormatError } from '../errors.js';
import { writeBomXml } from './bom-xml.js';
import { writeCycloneDx } from './cyclonedx.js';
import type { OutBom, OutLine } from './model.js';
import { readList, type ListReading } from './read-list.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const rowsOf = (reading: ListReading): unknown =>
  reading.kind === 'table' ? reading.sheets[0]?.rows : undefined;

describe('a list', () => {
  it.each([['a;b\n1,5;"x;y"\n'], ['\ufeffa,b\n"1,5","x;y"\n'], ['a\tb\r\n1,5\tx;y\r\n']])(
    'in whatever way its cells are parted: %#',
    async (text) => {
      expect(rowsOf(await readList(bytes(text), 'list.csv'))).toEqual([
        ['a', 'b'],
        ['1,5', 'x;y'],
      ]);
    },
  );

  it('in an old encoding is read as it was meant', async () => {
    const old = Uint8Array.from([0x4d, 0x65, 0x6e, 0x67, 0x65, 0x3b, 0x53, 0x74, 0xfc, 0x63, 0x6b]);
    expect(rowsOf(await readList(old, 'list.csv'))).toEqual([['Menge', 'Stück']]);
  });

  it('in a spreadsheet has numbers as numbers, formulas as what they came to, and blank lines in their places', async () => {
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet('Parts');
    sheet.addRow(['Part no', 'Qty']);
    sheet.mergeCells('A1:A1');
    sheet.addRow([]);
    sheet.addRow(['A', { formula: '1+1', result: 2 }]);
    sheet.addRow([{ richText: [{ text: 'B' }, { text: '-1' }] }, new Date('2026-03-31')]);
    const reading = await readList(new Uint8Array(await book.xlsx.writeBuffer()), 'list.xlsx');
    expect(rowsOf(reading)).toEqual([['Part no', 'Qty'], [], ['A', 2], ['B-1', '2026-03-31']]);
  });

  it.each([
    ['list.xlsx', 'PK\u0003\u0004 broken'],
    ['list.json', '{"bomFormat":'],
    ['list.json', '{"bomFormat":"other"}'],
    ['list.xml', '<bom><item></bom>'],
    ['list.xml', '<other/>'],
    ['list.doc', 'x'],
  ])('%s that is none is refused, with the reason', async (name, text) => {
    await expect(readList(bytes(text), name)).rejects.toBeInstanceOf(FormatError);
  });

  it('with entities that grow without end is refused or read without them', async () => {
    const bomb = `<!DOCTYPE b [<!ENTITY a "${'x'.repeat(1000)}">${Array.from({ length: 9 }, (_, at) => `<!ENTITY ${'abcdefghij'[at + 1]} "${`&${'abcdefghij'[at]};`.repeat(10)}">`).join('')}]><bom><item number="&j;"><quantity>1</quantity></item></bom>`; // prettier-ignore
    const outcome = await readList(bytes(bomb), 'bomb.xml').catch((error: unknown) => error);
    if (!(outcome instanceof FormatError)) expect(JSON.stringify(outcome).length).toBeLessThan(100_000);
  });
});

describe('a BOM in an open format', () => {
  const word = fc.string({ minLength: 1, maxLength: 8, unit: fc.constantFrom('a', 'B', '-', '1', 'ß', '<', '&', '"', '😀', ' ', '.') }).map((text) => `x${text}y`); // prettier-ignore
  const facts = {
    ...{ number: word, name: word, version: fc.constantFrom('', 'B/3') },
    amount: fc.oneof(
      fc.record({ value: fc.integer({ min: 1, max: 99 }).map(String), unit: fc.constantFrom('', 'm', 'ml'), basis: fc.constantFrom('each' as const, 'batch' as const, 'fixed' as const) }), // prettier-ignore
      fc.constant({ value: '', unit: '', basis: 'as required' as const }),
      fc.constant({ value: '0.4', unit: 'm', basis: 'each' as const, scrap: '0.05' }),
    ),
    find: fc.constantFrom('', '10'),
    designators: fc.subarray(['R1', 'R2', 'C7']),
    configurations: fc.constant([]),
    values: fc.dictionary(word, word, { maxKeys: 2 }),
    alternates: fc.constant([]),
  };
  const within = (children: fc.Arbitrary<OutLine[]>): fc.Arbitrary<OutLine> =>
    fc.record({ ...facts, children });
  const bom: fc.Arbitrary<OutBom> = within(
    fc.array(within(fc.array(within(fc.constant([])), { maxLength: 3 })), { maxLength: 3 }),
  ).map((root) => ({ ...root, writtenAt: '2026-03-31T08:00:00Z', lens: 'newest' }));
  const plain = ({ configurations: _, alternates: __, children, ...line }: OutLine): ListLine => ({
    ...line,
    children: children.map(plain),
  });

  it('written and read is the same', async () => {
    await fc.assert(
      fc.asyncProperty(bom, async (root) => {
        const wanted = root.children.map(plain);
        const xml = await readList(bytes(writeBomXml(root)), 'bom.xml');
        expect(xml).toEqual({ kind: 'lines', number: root.number, version: root.version, lines: wanted });
        const json = await readList(
          bytes(writeCycloneDx(root, '3e671687-395b-41f5-a30f-a58921a69b79')),
          'bom.json',
        );
        expect(json).toEqual({ kind: 'lines', number: root.number, version: root.version, lines: wanted });
      }),
      { numRuns: 60 },
    );
  });

  it('of another writer, which says what depends on what, is a tree too, and ends where it goes in a circle', async () => {
    const component = (name: string): unknown => ({ type: 'device', 'bom-ref': name, name });
    const reading = await readList(
      bytes(
        JSON.stringify({
          bomFormat: 'CycloneDX',
          specVersion: '1.5',
          metadata: { component: component('TOP') },
          components: ['A', 'B', 'C'].map(component),
          dependencies: [
            { ref: 'TOP', dependsOn: ['A', 'B'] },
            { ref: 'A', dependsOn: ['C'] },
          ],
        }),
      ),
      'other.json',
    );
    const said = (lines: readonly ListLine[]): unknown =>
      lines.map(({ number, children }) => [number, said(children)]);
    expect(reading.kind === 'lines' ? said(reading.lines) : undefined).toEqual([
      ['A', [['C', []]]],
      ['B', []],
    ]);
  });

  it('whatever it is, is read or refused', async () => {
    const piece = fc.constantFrom('<bom>', '</bom>', '<item number="a">', '</item>', '<row>', '{', '}', '"bomFormat":"CycloneDX"', '[', ']', ',', ';', '\n', '"', '&amp;', '<!--', '<![CDATA['); // prettier-ignore
    await fc.assert(
      fc.asyncProperty(
        fc.array(piece, { maxLength: 20 }),
        fc.constantFrom('csv', 'json', 'xml', 'xlsx'),
        async (parts, ending) => {
          try {
            await readList(bytes(parts.join('')), `any.${ending}`);
          } catch (error) {
            expect(error).toBeInstanceOf(FormatError);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});
