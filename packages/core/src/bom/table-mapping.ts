/** What the columns of a table mean, so that a list that somebody sent becomes rows of a BOM. */
import type { Amount } from '../model/amount.js';
import { AS_REQUIRED, parseAmount, pieces } from './amount.js';
import { parseDesignators } from './designators.js';

/** As a file has it: a number is one, whatever it is shown as. */
export type TableCell = string | number | null;
export type TableRow = readonly TableCell[];

/** What a column can be. */
export const LIST_FIELDS = [
  'number',
  'name',
  'version',
  'quantity',
  'unit',
  'counted',
  'find',
  'designators',
  'level',
] as const;
export type ListField = (typeof LIST_FIELDS)[number];

/** How a table says what lies in what. */
export const LEVEL_KINDS = ['none', 'number', 'dotted', 'indent'] as const;
export type LevelKind = (typeof LEVEL_KINDS)[number];

export interface TableMapping {
  /** Name of the sheet; empty for the first. */
  readonly sheet: string;
  /** Row with the headings, from 0; -1 where there is none. */
  readonly header: number;
  readonly decimal: '.' | ',';
  /** `number`: 1, 2, 3; `dotted`: 1.2.1; `indent`: blanks or points before the number. */
  readonly levels: LevelKind;
  /** Columns from 0. */
  readonly columns: Readonly<Partial<Record<ListField, number>>>;
  /** Further columns, under the names that they are compared by. */
  readonly further: readonly { readonly at: number; readonly name: string }[];
}

/** A row of a list; what the store knows of it is found out elsewhere. */
export interface ListLine {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly amount: Amount;
  readonly find: string;
  readonly designators: readonly string[];
  readonly values: Readonly<Record<string, string>>;
  readonly children: readonly ListLine[];
}

export interface ListProblem {
  /** From 1, as spreadsheets count. */
  readonly row: number;
  readonly says: string;
}

export interface MappedTable {
  readonly lines: readonly ListLine[];
  readonly problems: readonly ListProblem[];
  /** Rows that became lines. */
  readonly count: number;
}

/** Deeper lists are not built by anybody. */
const MOST_LIST_LEVELS = 60;
const MOST_LIST_ROWS = 100_000;
const MOST_PROBLEMS = 200;

type Growing = Omit<ListLine, 'children'> & { readonly children: Growing[] };

/** Rows by what their columns mean; what cannot be read is said with its row, and the row stays. `O(cells)` */
export function mapTable(rows: readonly TableRow[], mapping: TableMapping): MappedTable {
  const problems: ListProblem[] = [];
  const lines: Growing[] = [];
  const open: Growing[] = [];
  let count = 0;
  const base = mapping.levels === 'number' ? leastLevel(rows, mapping) : 1;
  for (const [at, row] of rows.entries()) {
    if (at <= mapping.header || row.every((cell) => said(cell) === '') || isHeaderAgain(rows, at, mapping))
      continue;
    const note = (says: string): void => {
      if (problems.length < MOST_PROBLEMS) problems.push({ row: at + 1, says });
    };
    const number = numberOf(row, mapping);
    if (number === undefined) {
      note('it has no number and was passed over');
      continue;
    }
    if (number.isName) note('it has no number; it goes by its name');
    if (++count > MOST_LIST_ROWS) {
      note(`only the first ${MOST_LIST_ROWS.toLocaleString('en-GB')} rows are read`);
      break;
    }
    const wanted = levelOf(row, mapping, base);
    const level = Math.max(1, Math.min(wanted ?? 1, open.length + 1, MOST_LIST_LEVELS));
    if (wanted === undefined) note('its level cannot be read; it was put on the first');
    else if (wanted > level)
      note(`it is on level ${wanted}, below a row of level ${open.length}; it was put on ${level}`);
    const line: Growing = { ...lineOf(row, number.text, mapping, note), children: [] };
    open.length = level - 1;
    (open.at(-1)?.children ?? lines).push(line);
    open.push(line);
  }
  return { lines, problems, count };
}

/** What a row is called: adhesive and the like often have a name and a quantity alone. Without a quantity it is a heading or a sum. */
function numberOf(
  row: TableRow,
  { columns }: TableMapping,
): { readonly text: string; readonly isName: boolean } | undefined {
  const number = cell(row, columns.number)
    .trim()
    .replace(/^[.\s]+/, '');
  if (number !== '') return { text: number, isName: false };
  const name = cell(row, columns.name).trim();
  return name === '' || cell(row, columns.quantity).trim() === '' ? undefined : { text: name, isName: true };
}

function lineOf(
  row: TableRow,
  number: string,
  { columns, decimal, further }: TableMapping,
  note: (says: string) => void,
): Omit<ListLine, 'children'> {
  const parsed = parseDesignators(cell(row, columns.designators));
  const designators = parsed.kind === 'designators' ? parsed.designators : [];
  if (parsed.kind === 'problem') note(parsed.says);
  return {
    number,
    name: cell(row, columns.name).trim(),
    version: cell(row, columns.version).trim(),
    amount: amountOf(row, { columns, decimal }, designators.length, note),
    find: cell(row, columns.find).trim(),
    designators,
    values: Object.fromEntries(
      further.flatMap(({ at, name }) => {
        const value = valueOf(row[at] ?? null);
        return value === '' ? [] : [[name, value]];
      }),
    ),
  };
}

/** Nobody says how much: as many as there are designators, else it is not known; zero is something else. */
function amountOf(
  row: TableRow,
  { columns, decimal }: Pick<TableMapping, 'columns' | 'decimal'>,
  designators: number,
  note: (says: string) => void,
): Amount {
  if (columns.quantity === undefined) return pieces(Math.max(1, designators));
  const given = row[columns.quantity] ?? null;
  const text = typeof given === 'number' ? decimalText(given) : withPoint(said(given), decimal);
  if (text === '') {
    if (designators > 0) return pieces(designators);
    note('it says no quantity; that counts as not known');
    return AS_REQUIRED;
  }
  const unit = cell(row, columns.unit).trim();
  const more = [unit, cell(row, columns.counted).trim()].filter((each) => each !== '');
  const amount = parseAmount([text, ...more].join(' ')) ?? parseAmount(text);
  if (amount) return amount;
  note(`“${text}” is no quantity; that counts as not known`);
  return AS_REQUIRED;
}

/** A decimal without an exponent. */
function decimalText(value: number): string {
  if (!Number.isFinite(value)) return '';
  const text = String(value);
  return /e/i.test(text) ? value.toFixed(12).replace(/\.?0+$/, '') : text;
}

/** With a point for the decimal sign and nothing that groups digits. */
function withPoint(text: string, decimal: '.' | ','): string {
  const trimmed = text.trim().replace(/(?<=\d)[\u00a0\u202f' ](?=\d{3}(?!\d))/g, '');
  return decimal === ','
    ? trimmed.replace(/(?<=\d)\.(?=\d{3}(?!\d))/g, '').replace(/(?<=\d),(?=\d)/, '.')
    : trimmed.replace(/(?<=\d),(?=\d{3}(?!\d))/g, '');
}

function levelOf(row: TableRow, { levels, columns }: TableMapping, base: number): number | undefined {
  if (levels === 'none') return 1;
  if (levels === 'indent') {
    const before = /^[.\s]*/.exec(cell(row, columns.number))?.[0] ?? '';
    // Points are one a level; blanks often are several, which is for the rows above to tell.
    return before.includes('.') ? before.replace(/[^.]/g, '').length + 1 : Math.ceil(before.length / 2) + 1;
  }
  const text = cell(row, columns.level ?? columns.find).trim();
  if (levels === 'dotted')
    return /^\d+(\.\d+)*\.?$/.test(text) ? text.replace(/\.$/, '').split('.').length : undefined;
  const level = /^[.\s]*(\d{1,3})$/.exec(text)?.[1];
  return level === undefined ? undefined : Number(level) - base + 1;
}

/** The level that a list begins with: some count from 0. */
function leastLevel(rows: readonly TableRow[], { header, columns }: TableMapping): number {
  let least = Infinity;
  for (const row of rows.slice(header + 1)) {
    const level = /^[.\s]*(\d{1,3})$/.exec(cell(row, columns.level).trim())?.[1];
    if (level !== undefined) least = Math.min(least, Number(level));
  }
  return Number.isFinite(least) ? least : 1;
}

/** Printed lists repeat their headings on every page. */
function isHeaderAgain(rows: readonly TableRow[], at: number, { header, columns }: TableMapping): boolean {
  if (header < 0 || columns.number === undefined) return false;
  const [heading, row] = [rows[header] ?? [], rows[at] ?? []];
  return (
    said(heading[columns.number] ?? null) !== '' &&
    heading.every((text, column) => said(text) === said(row[column] ?? null))
  );
}

function said(value: TableCell): string {
  return value === null ? '' : String(value).trim();
}

function cell(row: TableRow, at: number | undefined): string {
  const value = at === undefined ? null : (row[at] ?? null);
  return value === null ? '' : String(value);
}

function valueOf(value: TableCell): string {
  return typeof value === 'number' ? decimalText(value) : said(value);
}

/** Headings as people write them, in the languages that lists come in. */
const HEADINGS: readonly (readonly [ListField, RegExp])[] = [
  [
    'designators',
    /^(ref(erence)?\.? ?des(ignator)?s?|designators?|refdes|references?|bauteile?|rep[eè]res?)$/,
  ],
  [
    'quantity',
    /^(qty|quantity|qt[eé]|quantit[eé]|menge|anzahl|amount|pieces|pcs|st(ü|ue)ck)\.?( per| \/|\/| \[|\(|$)/,
  ],
  [
    'number',
    /^((part|item|article|material|stock|drawing|component|supplier part|sach|teile|artikel|material)[ -]?(number|numbers|no|num|nr|nummer|code|id|#)|your[ -]?(ref|reference|number|no|nr|part|article|item)( ?(no|nr|number))?|p\/?n|mpn|number|nummer|part|code article|r[eé]f[eé]rence article)\.?$/,
  ],
  [
    'name',
    /^(name|description|title|part name|designation|bezeichnung|benennung|d[eé]signation|libell[eé])$/,
  ],
  ['counted', /^counted$/],
  ['unit', /^(unit|units|uom|unit of measure|einheit|me|unit[eé])$/],
  ['version', /^(rev|revision|version|index|indice|issue|änderungsstand)\.?$/],
  ['level', /^(level|lvl|stufe|ebene|niveau|depth|hierarchy)\.?$/],
  ['find', /^(find( ?(no|number|nr))?|pos(ition)?|item|balloon|line|rep)\.?$/],
];

function folded(heading: string): string {
  return heading.trim().toLowerCase().replace(/\s+/g, ' ');
}

/** What a heading most likely means; undefined where nobody can tell. */
export function fieldOfHeading(heading: string): ListField | undefined {
  return HEADINGS.find(([, pattern]) => pattern.test(folded(heading)))?.[0];
}

const ROWS_LOOKED_AT = 25;
const MOST_FURTHER = 12;

/** What the columns most likely mean, by their headings and by what stands below them; for somebody to look at. */
export function proposeMapping(rows: readonly TableRow[], sheet = ''): TableMapping {
  let best: { header: number; columns: TableMapping['columns']; score: number } = {
    header: -1,
    columns: {},
    score: 0,
  };
  for (const [at, row] of rows.slice(0, ROWS_LOOKED_AT).entries()) {
    const columns: Partial<Record<ListField, number>> = {};
    for (const [field, pattern] of HEADINGS) {
      const column = row.findIndex(
        (text, index) => !Object.values(columns).includes(index) && pattern.test(folded(said(text))),
      );
      if (column >= 0) columns[field] = column;
    }
    const score = Object.keys(columns).length;
    if (score > best.score) best = { header: at, columns, score };
  }
  const columns = { number: 0, ...best.columns };
  const below = rows.slice(best.header + 1, best.header + 1 + 200);
  return {
    sheet,
    header: best.header,
    decimal: decimalIn(below, columns.quantity),
    levels: levelsIn(below, columns),
    columns,
    further: (rows[best.header] ?? [])
      .flatMap((text, at) =>
        said(text) === '' || Object.values(columns).includes(at)
          ? []
          : [{ at, name: said(text).slice(0, 80) }],
      )
      .slice(0, MOST_FURTHER),
  };
}

function decimalIn(rows: readonly TableRow[], quantity: number | undefined): '.' | ',' {
  const texts = rows.map((row) => cell(row, quantity));
  const commas = texts.filter((text) => /\d,\d{1,2}(\D|$)|\d,\d{4,}/.test(text)).length;
  const points = texts.filter((text) => /\d\.\d{1,2}(\D|$)|\d\.\d{4,}/.test(text)).length;
  return commas > points ? ',' : '.';
}

function levelsIn(rows: readonly TableRow[], columns: TableMapping['columns']): LevelKind {
  const texts = (at: number | undefined): string[] =>
    rows.map((row) => cell(row, at)).filter((text) => text.trim() !== '');
  const levels = texts(columns.level);
  if (levels.some((text) => /^\s*\d+(\.\d+)+\.?\s*$/.test(text))) return 'dotted';
  if (levels.length > 0) return 'number';
  if (texts(columns.number).some((text) => /^[.\s]+\S/.test(text))) return 'indent';
  return texts(columns.find).some((text) => /^\d+(\.\d+)+$/.test(text.trim())) ? 'dotted' : 'none';
}
