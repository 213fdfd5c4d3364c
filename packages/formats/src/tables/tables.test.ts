/** Tables that go out, read by readers that have nothing in common with the writers. */
import ExcelJS from 'exceljs';
import { parse } from 'csv-parse/sync';
import { describe, expect, it } from 'vitest';
import type { OutTable } from './table.js';
import { writeCsv } from './write-csv.js';
import { writePdf } from './write-pdf.js';
import { writeXlsx } from './write-xlsx.js';

const TABLE: OutTable = {
  title: 'BOM of FM-1000 C/1',
  says: ['River stage station, as recorded'],
  columns: [
    { title: 'Number', width: 20, isTree: true },
    { title: 'Quantity', width: 10, align: 'right' },
    { title: 'Value', width: 20 },
  ],
  rows: [
    { level: 1, cells: ['FM-2100', 1, '10 kΩ ±1 %'], mark: 'added' },
    { level: 2, cells: ['FM-3101', 4, '=HYPERLINK("x")'], mark: 'removed' },
    { level: 1, cells: ['FM-2200', null, 'two\nlines, "said"'] },
  ],
};

describe('a table', () => {
  it('is read back from CSV, with nothing that a spreadsheet would carry out', () => {
    const rows = parse(writeCsv(TABLE), { bom: true }) as string[][];
    expect(rows).toEqual([
      ['Level', 'Number', 'Quantity', 'Value'],
      ['1', 'FM-2100', '1', '10 kΩ ±1 %'],
      ['2', 'FM-3101', '4', `'=HYPERLINK("x")`],
      ['1', 'FM-2200', '', 'two\nlines, "said"'],
    ]);
  });

  it('is a workbook with numbers as numbers, a legend and one sheet for each level', async () => {
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await writeXlsx(TABLE)).buffer as ArrayBuffer);
    const sheet = book.getWorksheet('BOM');
    expect(sheet?.getRow(1).getCell(1).value).toBe('BOM of FM-1000 C/1');
    expect(sheet?.getRow(3).getCell(1).value).toBe('+ added');
    expect(sheet?.getRow(5).getCell(3).value).toBe(1);
    // Not a formula: a text.
    expect(sheet?.getRow(6).getCell(4).value).toBe('=HYPERLINK("x")');
    expect(sheet?.getRow(6).getCell(2).alignment.indent).toBe(1);
    const levels = new ExcelJS.Workbook();
    await levels.xlsx.load((await writeXlsx(TABLE, 'levels')).buffer as ArrayBuffer);
    expect(levels.worksheets.map(({ name, actualRowCount }) => [name, actualRowCount])).toEqual([
      ['Level 1', 6],
      ['Level 2', 5],
    ]);
  });

  it('is a PDF in which every row stands, with its heading on every page', async () => {
    const { getDocument } = await import('pdfjs-dist/legacy/build/pdf.mjs');
    const rows = Array.from({ length: 120 }, (_, at) => ({
      level: 1 + (at % 3),
      cells: [`P-${at}`, at, 'Ω ⇄ ≠'],
    }));
    const pdf = await getDocument({ data: await writePdf({ ...TABLE, rows }, '31 March 2026') }).promise;
    const texts: string[] = [];
    for (let page = 1; page <= pdf.numPages; page++) {
      const { items } = await (await pdf.getPage(page)).getTextContent();
      texts.push(items.map((item) => ('str' in item ? item.str : '')).join(' '));
    }
    expect(pdf.numPages).toBeGreaterThan(2);
    for (const text of texts) expect(text).toMatch(/Number.*Quantity.*Value/);
    const all = texts.join(' ');
    for (const at of rows.keys()) expect(all).toContain(`P-${at}`);
    expect(all).toContain('Ω ⇄ ≠');
    expect(all).toContain(`page 1 of ${pdf.numPages}`);
  });

  it('loses nothing of a long text where its column goes on below, nor of what is said above', async () => {
    const { getDocument } = await import('pdfjs-dist/legacy/build/pdf.mjs');
    const words = (name: string, count: number): string[] =>
      Array.from({ length: count }, (_, at) => `${name}${at}`);
    const long = `${words('remark', 400).join(' ')} ${'x'.repeat(900)}`;
    const data = await writePdf(
      {
        ...{ title: 'Record', says: [words('said', 3000).join(' '), 'first\nsecond'] },
        columns: [
          { title: 'Who', width: 10 },
          { title: 'Words', width: 30, wraps: true },
        ],
        rows: [{ level: 1, cells: ['Eva', long] }],
      },
      '31 March 2026',
    );
    const pdf = await getDocument({ data }).promise;
    const texts: string[] = [];
    for (let page = 1; page <= pdf.numPages; page++) {
      const { items } = await (await pdf.getPage(page)).getTextContent();
      texts.push(items.map((item) => ('str' in item ? item.str : '')).join(' '));
    }
    const all = texts.join(' ').split(/\s+/);
    const met = new Set(all);
    for (const word of [...words('remark', 400), ...words('said', 3000), 'first', 'second'])
      expect(met.has(word)).toBe(true);
    expect(all.filter((part) => /^x+$/.test(part)).join('')).toBe('x'.repeat(900));
  });
});
