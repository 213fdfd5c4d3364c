import fc from 'fast-check';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import excel from 'exceljs';
import { PDFDocument, StandardFonts } from 'pdf-lib';
import { beforeAll, describe, expect, it } from 'vitest';
import { readFile } from '../read-file.js';
import { FormatError, KeptWhole } from '../errors.js';
import { refuseBloat } from './bloat.js';
import { flowOf, tablesOf } from './look.js';
import { recognise } from './recognise.js';
import { refuseWideRanges } from './wide-ranges.js';
import { fillTemplate } from '../tables/template.js';

let pdf: Uint8Array;
let workbook: Uint8Array;
const docx = zipSync({
  '[Content_Types].xml': strToU8(
    '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
  ),
  '_rels/.rels': strToU8(
    '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>',
  ),
  'word/document.xml': strToU8(
    '<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body><w:p><w:r><w:t>Gauge zero is 12.40 m</w:t></w:r></w:p></w:body></w:document>',
  ),
});

beforeAll(async () => {
  const document = await PDFDocument.create();
  document.setTitle('Radar sensor');
  document.setAuthor('Somebody');
  const font = await document.embedFont(StandardFonts.Helvetica);
  for (const line of ['Beam angle 8 degrees', 'Second page'])
    document.addPage([300, 300]).drawText(line, { x: 20, y: 200, size: 12, font });
  pdf = await document.save();
  const book = new excel.Workbook();
  book.addWorksheet('Cables').addRows([
    ['Length', 3.5],
    ['Gland', 'M16'],
  ]);
  workbook = new Uint8Array(await book.xlsx.writeBuffer());
});

describe('reading documents', () => {
  it('tells a PDF’s title, author, pages and text', async () => {
    const reading = await readFile(Buffer.from(pdf), 'radar.pdf');
    expect(reading).toMatchObject({
      format: 'pdf',
      products: [
        {
          kind: 'document',
          name: 'Radar sensor',
          properties: [
            { name: 'pages', value: 2 },
            { name: 'author', text: 'Somebody' },
          ],
        },
      ],
    });
    expect(reading.text).toMatch(/Beam angle 8 degrees[^]*Second page/);
  });

  it('tells the cells of a workbook and the text of a text document', async () => {
    expect((await readFile(Buffer.from(workbook), 'a.xlsx')).text).toBe('Cables\nLength\t3.5\nGland\tM16');
    expect((await readFile(docx, 'a.docx')).text).toContain('Gauge zero is 12.40 m');
    expect(await readFile(strToU8('a,b\n1,2'), 'a.csv')).toMatchObject({ format: 'table', text: 'a,b\n1,2' });
  });

  it('keeps whole what it does not know or cannot read, and says why', async () => {
    expect(await readFile(Uint8Array.of(1, 2, 0, 3), 'model.xyz')).toMatchObject({
      format: 'other',
      text: '',
    });
    expect((await readFile(strToU8('%PDF-1.7 and nothing more'), 'a.pdf')).unread).toMatch(
      /PDF file cannot be read/,
    );
    const binary = await readFile(strToU8('A Binary DXF\r\n\u001a\u0000'), 'a.dxf');
    expect(binary).toMatchObject({ format: 'dxf', products: [{ kind: 'drawing' }] });
    expect(binary.unread).toMatch(/binary DXF/);
  });

  it('keeps no character that a database refuses', async () => {
    expect((await readFile(Uint8Array.of(65, 0, 66), 'a.txt')).text).toBe('AB');
  });

  it('recognises a file by its contents before its ending', () => {
    expect(recognise('a.bin', strToU8('%PDF-1.7'))).toBe('pdf');
    expect(recognise('a.txt', strToU8('ISO-10303-21;'))).toBe('step');
    expect(recognise('a.DXF', strToU8('0'))).toBe('dxf');
    expect(recognise('noending', strToU8(''))).toBe('other');
  });
});

describe('documents that are not what they seem', () => {
  it('are refused where they unpack to far more than they should', async () => {
    const bomb = zipSync({ 'xl/sheet.xml': new Uint8Array(3_000_000) });
    await expect(refuseBloat(bomb, 1_000_000)).rejects.toThrow(/unpacks to more than 1 MB/);
    await expect(refuseBloat(bomb, 4_000_000)).resolves.toBeUndefined();
    await expect(readFile(strToU8('PK no archive'), 'a.xlsx')).rejects.toThrow(FormatError);
  });

  it('are read, kept or refused, never anything else', async () => {
    const originals = [
      [pdf, 'a.pdf'],
      [workbook, 'a.xlsx'],
      [docx, 'a.docx'],
    ] as const;
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...originals),
        fc.array(fc.record({ at: fc.nat(), byte: fc.nat(255) }), { minLength: 1, maxLength: 8 }),
        async ([original, name], changes) => {
          const bytes = Uint8Array.from(original);
          for (const { at, byte } of changes) bytes[at % bytes.length] = byte;
          try {
            await readFile(bytes, name);
          } catch (error) {
            expect(error).toBeInstanceOf(FormatError);
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('looked at', () => {
  it('a workbook is its sheets, cell by cell, without what is hidden', async () => {
    const book = new excel.Workbook();
    const sheet = book.addWorksheet('Load cases');
    sheet.getColumn(2).width = 31;
    sheet.addRow(['Case', 'Wind', null, 'Ice']);
    sheet.getCell('B4').value = { formula: 'A1*2', result: 12.5 };
    sheet.getCell('A4').value = new Date(Date.UTC(2026, 2, 1));
    book.addWorksheet('Secret', { state: 'hidden' }).addRow(['nobody']);
    book.addWorksheet('Empty');
    const tables = await tablesOf(new Uint8Array(await book.xlsx.writeBuffer()));
    expect(tables.map(({ name, count }) => [name, count])).toEqual([
      ...[['Load cases', 4], ['Empty', 0]], // prettier-ignore
    ]);
    expect(tables[0]?.rows).toEqual([
      ['Case', 'Wind', '', 'Ice'],
      [],
      [],
      [expect.stringContaining('2026'), '12.5'],
    ]);
    expect(tables[0]?.widths[1]).toBe(31);
  });

  const written = (body: string, more: Readonly<Record<string, Uint8Array>> = {}): Uint8Array =>
    zipSync({
      ...Object.fromEntries(
        ['[Content_Types].xml', '_rels/.rels'].map((name) => [
          name,
          unzipSync(docx)[name] ?? new Uint8Array(),
        ]),
      ),
      ...more,
      'word/document.xml': strToU8(
        `<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><w:body>${body}</w:body></w:document>`,
      ),
    });
  const paragraph = (text: string): string => `<w:p><w:r><w:t>${text}</w:t></w:r></w:p>`;

  it('a document is its text with tables, and says what was left out', async () => {
    const { html } = await flowOf(
      written(
        `${paragraph('Gauge zero')}<w:tbl><w:tr><w:tc>${paragraph('Bolt')}</w:tc><w:tc>${paragraph('M8')}</w:tc></w:tr></w:tbl>`,
      ),
    );
    expect(html).toContain('<p>Gauge zero</p>');
    expect(html.replace(/<\/?tbody>/g, '')).toContain(
      '<table><tr><td><p>Bolt</p></td><td><p>M8</p></td></tr></table>',
    );
  });

  it('runs nothing and leads nowhere, whatever the document says', async () => {
    const { html } = await flowOf(
      written(
        `${paragraph('&lt;script&gt;alert(1)&lt;/script&gt;')}<w:p><w:hyperlink r:id="l1"><w:r><w:t>press here</w:t></w:r></w:hyperlink></w:p>`,
        {
          'word/_rels/document.xml.rels': strToU8(
            '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="l1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/hyperlink" Target="javascript:alert(1)" TargetMode="External"/></Relationships>',
          ),
        },
      ),
    );
    expect(html).toContain('press here');
    expect(html).not.toMatch(/javascript|<script|href|<a/i);
  });

  it('what is broken ends in words', async () => {
    const broken = fc.tuple(fc.constantFrom(...[workbook, docx]), fc.nat(), fc.nat(255));
    await fc.assert(
      fc.asyncProperty(broken, async ([file, where, byte]) => {
        const bytes = Uint8Array.from(file);
        bytes[where % bytes.length] = byte;
        for (const look of [tablesOf, flowOf])
          await look(bytes).catch((error: unknown) => {
            if (!(error instanceof KeptWhole || error instanceof FormatError)) throw error;
          });
      }),
      { numRuns: 60 },
    );
  });
});

describe('a workbook whose ranges cover far more than it holds', () => {
  /** The workbook with parts written anew. */
  const tampered = (part: string, change: (xml: string) => string): Uint8Array => {
    const entries = unzipSync(workbook);
    return zipSync({ ...entries, [part]: strToU8(change(strFromU8(entries[part] ?? new Uint8Array()))) });
  };
  const SHEET = 'xl/worksheets/sheet1.xml';
  const afterRows = (xml: string) => (sheet: string) => sheet.replace('</sheetData>', `</sheetData>${xml}`);
  const beforeRows = (xml: string) => (sheet: string) => sheet.replace('<sheetData', `${xml}<sheetData`);
  const named = (text: string) => (book: string) =>
    book.replace(
      '</sheets>',
      `</sheets><definedNames><definedName name="x">${text}</definedName></definedNames>`,
    );

  it.each<[string, string, (xml: string) => string]>([
    ['merged', SHEET, afterRows('<mergeCells><mergeCell ref="A1:XFD1048576"/></mergeCells>')],
    [
      'merged, in other characters',
      SHEET,
      afterRows("<mergeCells><mergeCell ref = 'A&#49;:&#x58;FD1048576'/></mergeCells>"),
    ],
    ['merged upwards', SHEET, afterRows('<mergeCells><mergeCell ref="XFD1048576:A1"/></mergeCells>')],
    [
      'validated',
      SHEET,
      afterRows('<dataValidations><dataValidation type="list" sqref="B2 A1:ALL1000"/></dataValidations>'),
    ],
    ['columns', SHEET, beforeRows('<cols><col min="1" max="999999999" width="4"/></cols>')],
    ['named', 'xl/workbook.xml', named('S!$A$1:$XFD$1048576')],
    ['named in pieces', 'xl/workbook.xml', named('S!$A$1:<![CDATA[$XFD]]>$1048576')],
    [
      'in many ranges',
      SHEET,
      afterRows(`<mergeCells>${'<mergeCell ref="A1:Z999"/>'.repeat(9)}</mergeCells>`),
    ],
  ])('is refused where it is %s, as template and as document', async (_, part, change) => {
    const bytes = tampered(part, change);
    const data = { header: {}, rows: [], fields: [] };
    await expect(fillTemplate(bytes, data)).rejects.toThrow(FormatError);
    await expect(tablesOf(bytes)).rejects.toThrow(FormatError);
  });

  it('is taken where they are as large as a sheet that people make', async () => {
    await refuseWideRanges(workbook);
    await refuseWideRanges(tampered(SHEET, afterRows('<mergeCells><mergeCell ref="A1:Z500"/></mergeCells>')));
  });
});
