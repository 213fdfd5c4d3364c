import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { FormatError } from '../errors.js';
import { fillTemplate, standardTemplate, type TemplateData } from './template.js';

const DATA: TemplateData = {
  header: { 'bill.number': 'FB-1', 'bill.version': 'A/1', 'rows.count': 2 },
  fields: ['number', 'quantity', 'column Note'],
  rows: [
    { number: 'FM-1', quantity: 2.5, 'column Note': '=1+1' },
    { number: 'FM-2', quantity: 3, 'column Note': '{{bill.number}}' },
  ],
};

async function book(cells: readonly (readonly (string | number)[])[]): Promise<Uint8Array> {
  const made = new ExcelJS.Workbook();
  const sheet = made.addWorksheet('List');
  for (const row of cells) sheet.addRow([...row]);
  return new Uint8Array(await made.xlsx.writeBuffer());
}

async function read(bytes: Uint8Array): Promise<unknown[][]> {
  const read = new ExcelJS.Workbook();
  await read.xlsx.load(bytes.slice().buffer as ArrayBuffer);
  const rows: unknown[][] = [];
  read.worksheets[0]?.eachRow({ includeEmpty: true }, (row) => rows.push((row.values as unknown[]).slice(1)));
  return rows;
}

it('fills the header, repeats the row for every line, and leaves what stands below', async () => {
  const filled = await fillTemplate(
    await book([
      ['Bill {{ bill.number }} of {{bill.version}}', '{{rows.count}}'],
      ['{{row.number}}', '{{row.quantity}}', '{{row.column Note}}'],
      ['Signed:'],
    ]),
    DATA,
  );
  expect(await read(filled)).toEqual([
    ['Bill FB-1 of A/1', 2],
    ['FM-1', 2.5, '=1+1'],
    // What a row says is no template, and no formula.
    ['FM-2', 3, '{{bill.number}}'],
    ['Signed:'],
  ]);
});

it('says which placeholder of which cell means nothing, and what there is', async () => {
  for (const [cells, why] of [
    [
      [['a', '{{bill.colour}}']],
      /\{\{bill.colour\}\} in cell List!B1 means nothing; there are \{\{bill.number\}\}/,
    ],
    [[['{{row.weight}}']], /\{\{row.weight\}\} in cell List!A1/],
    [[['{{row.number}}'], ['{{row.number}}']], /rows 1 and 2 of sheet List both repeat/],
  ] as const)
    await expect(fillTemplate(await book(cells), DATA)).rejects.toThrow(why);
  await expect(fillTemplate(new TextEncoder().encode('no workbook'), DATA)).rejects.toThrow(FormatError);
});

it('the template that ships is filled with every column; an empty bill leaves no placeholder', async () => {
  const template = await standardTemplate(['Note']);
  const header = Object.fromEntries(
    [
      'bill.number',
      'bill.name',
      'bill.version',
      'engineering.number',
      'engineering.version',
      'release.by',
      'release.at',
      'release.notes',
    ].map((name) => [name, name]),
  );
  const fields = ['level', 'find', 'number', 'name', 'quantity', 'unit', 'designators', 'column Note'];
  for (const rows of [[], [{ number: 'FM-1', 'column Note': 'x' }]])
    expect(JSON.stringify(await read(await fillTemplate(template, { header, fields, rows })))).not.toContain(
      '{{',
    );
});

it('ends with a workbook or a sentence, whatever it is given', async () => {
  const template = await book([['{{bill.number}}'], ['{{row.number}}']]);
  await fc.assert(
    fc.asyncProperty(fc.nat(template.length - 1), fc.nat(255), fc.string(), async (at, byte, name) => {
      const broken = template.slice();
      broken[at] = byte;
      for (const bytes of [broken, await book([[`{{${name}}}`]])])
        await fillTemplate(bytes, DATA).catch((error: unknown) => {
          expect(error).toBeInstanceOf(FormatError);
        });
    }),
    { numRuns: 120 },
  );
});
