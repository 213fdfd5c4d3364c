/** Lists that somebody sent: tables, or BOMs in an open format. */
import { parseAmount, pieces, type ListLine, type TableCell, type TableRow } from '@stem-trace/core';
import { parse } from 'csv-parse/sync';
import { refuseBloat } from '../documents/bloat.js';
import { refuseWideRanges } from '../documents/wide-ranges.js';
import { FormatError } from '../errors.js';
import { readBomXml } from './read-bom-xml.js';

export interface ListSheet {
  readonly name: string;
  readonly rows: readonly TableRow[];
}

export type ListReading =
  | { readonly kind: 'table'; readonly sheets: readonly ListSheet[] }
  | {
      readonly kind: 'lines';
      readonly number: string;
      readonly version: string;
      readonly lines: readonly ListLine[];
    };

/** Beyond these a list is refused rather than read in part. */
const MOST_ROWS = 100_000;
const MOST_CELLS = 3_000_000;
const MOST_CELL = 2000;
/** What a spreadsheet of so many rows unpacks to, and more than it needs in memory. */
const MOST_UNPACKED = 120_000_000;
const MOST_SHEETS = 50;

/**
 * @param name with its ending
 * @throws FormatError where it is broken, or of no kind that a list can be
 */
export async function readList(bytes: Uint8Array, name: string): Promise<ListReading> {
  const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase();
  switch (ending) {
    case 'csv':
    case 'tsv':
    case 'txt':
      return { kind: 'table', sheets: [{ name: '', rows: readSeparated(decode(bytes)) }] };
    case 'xlsx':
      return { kind: 'table', sheets: await readSheets(bytes) };
    case 'json':
      return readCycloneDx(decode(bytes));
    case 'xml':
      return readBomXml(decode(bytes));
    default:
      throw new FormatError('a list is a CSV, an XLSX, a CycloneDX (JSON) or an XML file', 0);
  }
}

function decode(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/** The sign that parts the cells is the one that parts the most of the first lines alike. */
function readSeparated(text: string): TableRow[] {
  const delimiter = delimiterOf(text);
  try {
    const rows = parse(text, {
      bom: true,
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
      skip_records_with_error: false,
      to: MOST_ROWS + 1,
    }) as string[][];
    refuseTooMany(
      rows.length,
      rows.reduce((sum, row) => sum + row.length, 0),
    );
    return rows.map((row) => row.map((cell) => cell.slice(0, MOST_CELL)));
  } catch (error) {
    if (error instanceof FormatError) throw error;
    const at = (error as { lines?: number }).lines ?? 0;
    throw new FormatError(
      `the list cannot be read (${error instanceof Error ? error.message : String(error)})`,
      at,
    );
  }
}

const DELIMITERS = [';', '\t', ',', '|'] as const;

function delimiterOf(text: string): string {
  const lines = text.split(/\r?\n/, 20).filter((line) => line.trim() !== '');
  const score = (delimiter: string): number => {
    const counts = lines.map((line) => line.replace(/"[^"]*"/g, '').split(delimiter).length - 1);
    const most = Math.max(0, ...counts);
    return most === 0 ? 0 : counts.filter((count) => count === most).length * 100 + most;
  };
  return [...DELIMITERS].sort((a, b) => score(b) - score(a))[0] ?? ',';
}

function refuseTooMany(rows: number, cells: number): void {
  if (rows > MOST_ROWS)
    throw new FormatError(`the list has more than ${MOST_ROWS.toLocaleString('en-GB')} rows`, MOST_ROWS);
  if (cells > MOST_CELLS)
    throw new FormatError(`the list has more than ${MOST_CELLS.toLocaleString('en-GB')} cells`, 0);
}

/** Parts of a sheet that say nothing of its cells; a merged range of a million rows would make as many. */
const NOT_CELLS = ['mergeCells', 'dataValidations', 'conditionalFormatting', 'rowBreaks', 'colBreaks', 'drawing', 'extLst', 'hyperlinks']; // prettier-ignore

async function readSheets(bytes: Uint8Array): Promise<ListSheet[]> {
  await refuseBloat(bytes, MOST_UNPACKED);
  await refuseWideRanges(bytes);
  const { default: excel } = await import('exceljs');
  const book = new excel.Workbook();
  try {
    await book.xlsx.load(new Uint8Array(bytes).buffer, { ignoreNodes: NOT_CELLS });
  } catch (error) {
    throw new FormatError(
      `the spreadsheet cannot be read (${error instanceof Error ? error.message : String(error)})`,
      0,
    );
  }
  let cells = 0;
  return book.worksheets.slice(0, MOST_SHEETS).map((sheet) => {
    const rows: TableCell[][] = [];
    sheet.eachRow({ includeEmpty: true }, (row, at) => {
      refuseTooMany(at, (cells += row.cellCount));
      const values: TableCell[] = [];
      row.eachCell({ includeEmpty: true }, (cell, column) => {
        values[column - 1] = cellValue(cell.value);
      });
      rows[at - 1] = Array.from(values, (value) => value ?? null);
    });
    return { name: sheet.name, rows: Array.from(rows, (row) => row ?? []) };
  });
}

/** A formula counts as what it came to when it was saved. */
function cellValue(value: unknown): TableCell {
  if (value === null || value === undefined) return null;
  if (typeof value === 'number') return Number.isFinite(value) ? value : null;
  if (typeof value === 'string') return value.slice(0, MOST_CELL);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? null : value.toISOString().slice(0, 10);
  if (typeof value !== 'object') return null;
  if ('result' in value) return cellValue(value.result);
  if ('richText' in value && Array.isArray(value.richText))
    return (value.richText as { text?: unknown }[]).map(({ text }) => String(text ?? '')).join('').slice(0, MOST_CELL); // prettier-ignore
  if ('text' in value) return cellValue(value.text);
  return null;
}

interface Component {
  readonly 'bom-ref'?: unknown;
  readonly name?: unknown;
  readonly version?: unknown;
  readonly description?: unknown;
  readonly properties?: unknown;
  readonly components?: unknown;
}

const OURS = 'stem-trace:';
const MOST_DEPTH = 60;

/** CycloneDX 1.2 and up: components within components, or else what depends on what. */
function readCycloneDx(text: string): ListReading {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (error) {
    throw new FormatError(`it is no JSON (${error instanceof Error ? error.message : String(error)})`, 0);
  }
  if (!isObject(document) || document.bomFormat !== 'CycloneDX')
    throw new FormatError('it is JSON, but no CycloneDX: bomFormat is not CycloneDX', 0);
  const top =
    isObject(document.metadata) && isObject(document.metadata.component) ? document.metadata.component : {};
  const components = listOf(document.components);
  const isNested = components.some((each) => listOf(each.components).length > 0);
  const lines = isNested
    ? components.map((each) => lineOf(each, (inner) => listOf(inner.components), 1))
    : byDependencies(document, top, components);
  let count = 0;
  const visit = (each: ListLine): void => {
    refuseTooMany(++count, 0);
    each.children.forEach(visit);
  };
  lines.forEach(visit);
  return { kind: 'lines', number: textOf(top.name), version: textOf(top.version), lines };
}

function byDependencies(
  document: Readonly<Record<string, unknown>>,
  top: Component,
  components: readonly Component[],
): ListLine[] {
  const byRef = new Map(components.map((each) => [textOf(each['bom-ref']), each]));
  const uses = new Map(
    (Array.isArray(document.dependencies) ? document.dependencies : []).flatMap((each: unknown) =>
      isObject(each)
        ? [[textOf(each.ref), (Array.isArray(each.dependsOn) ? each.dependsOn : []).map(textOf)] as const]
        : [],
    ),
  );
  const used = uses.get(textOf(top['bom-ref']));
  if (!used) return components.map((each) => lineOf(each, () => [], 1));
  const way: string[] = [];
  const below = (component: Component): Component[] =>
    (uses.get(textOf(component['bom-ref'])) ?? []).flatMap((ref) => byRef.get(ref) ?? []);
  // What depends on itself is not looked into again.
  const guarded = (component: Component): Component[] => {
    const ref = textOf(component['bom-ref']);
    return way.includes(ref) ? [] : below(component);
  };
  return used.flatMap((ref) => byRef.get(ref) ?? []).map((each) => lineOf(each, guarded, 1));
}

function lineOf(
  component: Component,
  below: (component: Component) => readonly Component[],
  level: number,
): ListLine {
  const properties = (Array.isArray(component.properties) ? component.properties : []).filter(isObject);
  const ours = (name: string): string[] =>
    properties.flatMap((each) => (each.name === OURS + name ? [textOf(each.value)] : []));
  const isOurs = `${OURS}value:`;
  return {
    number: textOf(component.name),
    name: textOf(component.description),
    version: textOf(component.version),
    amount: parseAmount(ours('quantity')[0] ?? '1') ?? pieces(1),
    find: ours('find')[0] ?? '',
    designators: ours('designator'),
    values: Object.fromEntries(
      properties.flatMap(({ name, value }) =>
        textOf(name).startsWith(isOurs) ? [[textOf(name).slice(isOurs.length), textOf(value)]] : [],
      ),
    ),
    children: level >= MOST_DEPTH ? [] : below(component).map((each) => lineOf(each, below, level + 1)),
  };
}

function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function listOf(value: unknown): readonly Component[] {
  return Array.isArray(value) ? value.filter(isObject) : [];
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value.slice(0, MOST_CELL) : '';
}
