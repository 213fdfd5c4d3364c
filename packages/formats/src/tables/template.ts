/**
 * Workbooks that are filled in: a template of the trade's own making, with `{{bill.number}}` wherever a text of the header goes,
 * and one row with `{{row.number}}` and the like, which is repeated for every row of the list.
 */
import ExcelJS from 'exceljs';
import { refuseBloat } from '../documents/bloat.js';
import { refuseWideRanges } from '../documents/wide-ranges.js';
import { FormatError } from '../errors.js';

export type Filled = string | number;

export interface TemplateData {
  /** By what stands between the braces: `bill.number`. */
  readonly header: Readonly<Record<string, Filled>>;
  /** By what stands after `row.`: `number`, `column Operation`. */
  readonly rows: readonly Readonly<Record<string, Filled>>[];
  /** What a row can say, whether or not one does. */
  readonly fields: readonly string[];
}

const PLACEHOLDER = /\{\{\s*([^{}]+?)\s*\}\}/g;
const ROW = 'row.';
const MOST_CELLS = 2_000_000;
/** Most bytes that a template may unpack to. */
const MOST_TEMPLATE = 50_000_000;

/**
 * @param template bytes of a workbook
 * @throws FormatError that says which placeholder of which cell means nothing, or that it is no workbook
 */
export async function fillTemplate(template: Uint8Array, data: TemplateData): Promise<Uint8Array> {
  await refuseBloat(template, MOST_TEMPLATE);
  await refuseWideRanges(template);
  const book = new ExcelJS.Workbook();
  try {
    await book.xlsx.load(template.slice().buffer as ArrayBuffer);
    for (const sheet of book.worksheets) fillSheet(sheet, data);
    return new Uint8Array(await book.xlsx.writeBuffer());
  } catch (error) {
    // What a damaged workbook lacks is missed when it is read, when it is gone through, or not before it is written.
    if (error instanceof FormatError) throw error;
    throw new FormatError('the template is no workbook (XLSX), or it is damaged', 0);
  }
}

function fillSheet(sheet: ExcelJS.Worksheet, data: TemplateData): void {
  const blocks: number[] = [];
  sheet.eachRow((row, at) => {
    let isBlock = false;
    row.eachCell((cell) => {
      const text = textOf(cell);
      if (text === undefined) return;
      for (const [, name = ''] of text.matchAll(PLACEHOLDER)) {
        if (name.startsWith(ROW)) isBlock = true;
        refuseUnknown(name, `${sheet.name}!${cell.address}`, data);
      }
    });
    if (isBlock) blocks.push(at);
    else row.eachCell((cell) => put(cell, data.header));
  });
  if (blocks.length > 1)
    throw new FormatError(
      `rows ${blocks.join(' and ')} of sheet ${sheet.name} both repeat; one sheet has one such row`,
      0,
    );
  const [block] = blocks;
  if (block !== undefined) repeat(sheet, block, data);
}

/** What a cell says as text; undefined for numbers, formulas and what is empty. */
function textOf(cell: ExcelJS.Cell): string | undefined {
  const { value } = cell;
  if (typeof value === 'string') return value;
  if (value !== null && typeof value === 'object' && 'richText' in value)
    return value.richText.map(({ text }) => text).join('');
  return undefined;
}

function refuseUnknown(name: string, where: string, { header, fields }: TemplateData): void {
  const isKnown = name.startsWith(ROW)
    ? fields.includes(name.slice(ROW.length)) || Object.hasOwn(header, name)
    : Object.hasOwn(header, name);
  if (isKnown) return;
  const known = [...Object.keys(header), ...fields.map((field) => ROW + field)].map((each) => `{{${each}}}`);
  throw new FormatError(`{{${name}}} in cell ${where} means nothing; there are ${known.join(', ')}`, 0);
}

function put(cell: ExcelJS.Cell, values: Readonly<Record<string, Filled>>): void {
  const text = textOf(cell);
  if (text === undefined || !text.includes('{{')) return;
  cell.value = filled(text, values);
}

/** A cell that is one placeholder keeps the kind of its value: numbers stay numbers. */
function filled(text: string, values: Readonly<Record<string, Filled>>): Filled {
  const [whole] = text.trim().matchAll(PLACEHOLDER);
  if (whole?.[0] === text.trim()) return values[whole[1] ?? ''] ?? '';
  return text.replace(PLACEHOLDER, (_, name: string) => String(values[name] ?? ''));
}

function repeat(sheet: ExcelJS.Worksheet, at: number, { header, rows }: TemplateData): void {
  const block = sheet.getRow(at);
  const cells: { readonly column: number; readonly text: string | undefined; readonly cell: ExcelJS.Cell }[] =
    [];
  block.eachCell({ includeEmpty: true }, (cell, column) => cells.push({ column, text: textOf(cell), cell }));
  if (cells.length * rows.length > MOST_CELLS)
    throw new FormatError(
      `${rows.length} rows of ${cells.length} cells are more than a workbook is made of here`,
      0,
    );
  const { height } = block;
  const below = sheet.rowCount - at;
  // What stands below the row moves down as a whole; inserting row by row would move it each time.
  if (below > 0 && rows.length > 1) sheet.spliceRows(at + 1, 0, ...rows.slice(1).map(() => []));
  for (const [index, row] of rows.entries()) {
    const values = {
      ...header,
      ...Object.fromEntries(Object.entries(row).map(([name, value]) => [ROW + name, value])),
    };
    const target = sheet.getRow(at + index);
    if (height) target.height = height;
    for (const { column, text, cell } of cells) {
      const to = target.getCell(column);
      if (index > 0) to.style = { ...cell.style };
      if (text !== undefined) to.value = filled(text, values);
      else if (index > 0) to.value = cell.value;
    }
  }
  if (rows.length === 0) for (const { column } of cells) block.getCell(column).value = null;
}

/** The template that ships: a parts list for the workshop. */
export async function standardTemplate(columns: readonly string[]): Promise<Uint8Array> {
  const book = new ExcelJS.Workbook();
  const sheet = book.addWorksheet('Bill', {
    views: [{ state: 'frozen', ySplit: 6 }],
    pageSetup: { orientation: 'landscape', fitToPage: true, fitToWidth: 1, fitToHeight: 0, paperSize: 9 },
  });
  const fields = ['level', 'find', 'number', 'name', 'quantity', 'unit', 'designators'];
  const titles = ['Level', 'Find', 'Number', 'Name', 'Quantity', 'Unit', 'Designators'];
  const widths = [7, 8, 22, 36, 10, 8, 18, ...columns.map(() => 18)];
  sheet.columns = widths.map((width) => ({ width }));
  sheet.addRow(['{{bill.number}} {{bill.version}}  {{bill.name}}']).font = { bold: true, size: 14 };
  sheet.addRow(['Taken from {{engineering.number}} {{engineering.version}}']);
  sheet.addRow(['Released {{release.at}} by {{release.by}}']);
  sheet.addRow(['{{release.notes}}']);
  sheet.addRow([]);
  const heading = sheet.addRow([...titles, ...columns]);
  heading.font = { bold: true };
  heading.border = { bottom: { style: 'thin' } };
  sheet.addRow([
    ...fields.map((field) => `{{row.${field}}}`),
    ...columns.map((name) => `{{row.column ${name}}}`),
  ]);
  return new Uint8Array(await book.xlsx.writeBuffer());
}
