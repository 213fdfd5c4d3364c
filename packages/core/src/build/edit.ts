/**
 * Changing the rows of a bill, as one does in a spreadsheet. Every function returns new rows and leaves those it was given alone,
 * so undoing is taking the old ones again. What lies in a row goes where the row goes. `O(rows)` each.
 */
import Big from 'big.js';
import { AmountSum, countInside, parseAmount, sayAmount, timesAmount } from '../bom/amount.js';
import { parseDesignators, sayDesignators } from '../bom/designators.js';
import { itemKeyOf } from '../bom/line.js';
import type { Amount } from '../model/amount.js';
import { parseSpans, saySpans } from '../model/effectivity.js';
import { areCompatible } from '../quantity/quantity.js';
import { endOf, isEffectivity, parentsOf, type BuildColumn, type BuildRow } from './model.js';

/** Rows that were changed, or a sentence that says why they could not be. */
export type Edited =
  | { readonly kind: 'rows'; readonly rows: readonly BuildRow[] }
  | { readonly kind: 'problem'; readonly says: string };

export type Where = 'above' | 'below' | 'inside';

const MOST_TEXT = 500;

function done(rows: readonly BuildRow[]): Edited {
  return { kind: 'rows', rows };
}

function problem(says: string): Edited {
  return { kind: 'problem', says };
}

/** The row under an id, with where it stands. */
function placeOf(rows: readonly BuildRow[], id: string): number {
  return rows.findIndex((row) => row.id === id);
}

/** Moves a block to a level. */
function atLevel(block: readonly BuildRow[], level: number): BuildRow[] {
  const shift = level - (block[0]?.level ?? level);
  return shift === 0 ? [...block] : block.map((row) => ({ ...row, level: row.level + shift }));
}

/**
 * Puts a block beside a row, or into it.
 *
 * @param beside id of a row; at the end where there is no such row
 */
export function insertRows(
  rows: readonly BuildRow[],
  block: readonly BuildRow[],
  beside: string,
  where: Where,
): readonly BuildRow[] {
  const at = placeOf(rows, beside);
  const row = rows[at];
  if (!row) return [...rows, ...atLevel(block, 1)];
  const place = where === 'above' ? at : endOf(rows, at);
  const level = where === 'inside' ? row.level + 1 : row.level;
  const opened = where === 'inside' && row.isWhole ? rows.with(at, { ...row, isWhole: false }) : rows;
  return [...opened.slice(0, place), ...atLevel(block, level), ...opened.slice(place)];
}

/** Takes rows out, with what lies in them. */
export function removeRows(rows: readonly BuildRow[], ids: ReadonlySet<string>): readonly BuildRow[] {
  const kept: BuildRow[] = [];
  for (let at = 0; at < rows.length;) {
    const row = rows[at];
    if (row && ids.has(row.id)) at = endOf(rows, at);
    else {
      if (row) kept.push(row);
      at++;
    }
  }
  return kept;
}

export type Direction = 'up' | 'down' | 'in' | 'out';

/** Moves a row with what lies in it: past its neighbour, into the one above, or out behind what it lies in. */
export function moveRow(rows: readonly BuildRow[], id: string, direction: Direction): readonly BuildRow[] {
  const at = placeOf(rows, id);
  const row = rows[at];
  if (!row) return rows;
  const end = endOf(rows, at);
  const block = rows.slice(at, end);
  const rest = [...rows.slice(0, at), ...rows.slice(end)];
  const above = siblingAbove(rows, at);
  switch (direction) {
    case 'up':
      return above === undefined ? rows : insertRows(rest, block, above.id, 'above');
    case 'down': {
      const below = rows[end];
      return below?.level === row.level ? insertRows(rest, block, below.id, 'below') : rows;
    }
    case 'in':
      return above === undefined ? rows : insertRows(rest, block, above.id, 'inside');
    case 'out': {
      const parent = rows[parentsOf(rows)[at] ?? -1];
      return parent ? insertRows(rest, block, parent.id, 'below') : rows;
    }
  }
}

function siblingAbove(rows: readonly BuildRow[], at: number): BuildRow | undefined {
  const level = rows[at]?.level ?? 0;
  for (let place = at - 1; place >= 0; place--) {
    const row = rows[place];
    if (!row || row.level < level) return undefined;
    if (row.level === level) return row;
  }
  return undefined;
}

/** Moves a row somewhere else. Nothing changes where it would come to lie in itself. */
export function moveTo(
  rows: readonly BuildRow[],
  id: string,
  beside: string,
  where: Where,
): readonly BuildRow[] {
  const at = placeOf(rows, id);
  const end = endOf(rows, at);
  const target = placeOf(rows, beside);
  if (at < 0 || target < 0 || (target >= at && target < end)) return rows;
  return insertRows([...rows.slice(0, at), ...rows.slice(end)], rows.slice(at, end), beside, where);
}

/** Takes a level away: what lay in it lies where it lay, as often as all of them need it. */
export function dissolve(rows: readonly BuildRow[], id: string): Edited {
  const at = placeOf(rows, id);
  const row = rows[at];
  const end = endOf(rows, at);
  if (!row || end === at + 1)
    return problem('Nothing lies in this row, so that there is no level to dissolve.');
  if (row.amount.basis !== 'each' || row.amount.unit !== '' || row.amount.role !== undefined)
    return problem(
      `${row.number || row.name} is needed as “${sayAmount(row.amount)}”, so that what lies in it cannot be multiplied. Give it a number of pieces first.`,
    );
  // Levels that were made here are no things: what lies in them is multiplied, not they.
  const open: boolean[] = [true];
  const inside = rows.slice(at + 1, end).map((each, place): BuildRow => {
    const depth = each.level - row.level;
    const isCounted = open[depth - 1] === true;
    const isMadeLevel = each.kind === 'text' && (rows[at + 2 + place]?.level ?? 0) > each.level;
    open.length = depth;
    open[depth] = isCounted && isMadeLevel;
    const amount = isCounted && !isMadeLevel ? timesAmount(each.amount, row.amount.value) : each.amount;
    return { ...each, level: each.level - 1, amount };
  });
  return done([...rows.slice(0, at), ...inside, ...rows.slice(end)]);
}

/** Makes a level around rows that stand beside each other without a gap. */
export function wrap(rows: readonly BuildRow[], ids: ReadonlySet<string>, level: BuildRow): Edited {
  const first = rows.findIndex(({ id }) => ids.has(id));
  const depth = rows[first]?.level;
  if (depth === undefined) return problem('Select the rows that the new level is to hold.');
  let end = first;
  while (end < rows.length && rows[end]?.level === depth && ids.has(rows[end]?.id ?? ''))
    end = endOf(rows, end);
  const block = rows.slice(first, end);
  const left = [...ids].filter((id) => !block.some((row) => row.id === id));
  if (left.length > 0)
    return problem('A level holds rows that stand beside each other. Move them together first.');
  return done([
    ...rows.slice(0, first),
    { ...level, level: depth },
    ...block.map((row) => ({ ...row, level: row.level + 1 })),
    ...rows.slice(end),
  ]);
}

/** Divides a row's quantity: the row keeps the rest, a new one below takes the share. */
export function divide(rows: readonly BuildRow[], id: string, share: string, newId: string): Edited {
  const at = placeOf(rows, id);
  const row = rows[at];
  const amount = parseAmount(share);
  if (!row) return problem('There is no such row any more.');
  if (endOf(rows, at) > at + 1) return problem('Only rows in which nothing lies are divided.');
  if (amount?.basis !== row.amount.basis || amount.unit !== row.amount.unit || amount.basis === 'as required')
    return problem(`“${share}” is no share of ${sayAmount(row.amount)}. Write it in the same unit.`);
  const rest = new Big(row.amount.value).minus(amount.value);
  if (rest.lte(0) || new Big(amount.value).lte(0))
    return problem(`The share must be above 0 and below ${sayAmount(row.amount)}.`);
  return done(
    rows.toSpliced(
      at,
      1,
      { ...row, amount: { ...row.amount, value: rest.toFixed() } },
      { ...row, id: newId, designators: '', amount: { ...row.amount, value: amount.value } },
    ),
  );
}

/** Makes one row of several of the same item, the first of them, with all that they need together. */
export function combine(rows: readonly BuildRow[], ids: ReadonlySet<string>): Edited {
  const chosen = rows.filter(({ id }) => ids.has(id));
  const [first, ...others] = chosen;
  if (!first || others.length === 0) return problem('Select two rows or more of the same item.');
  if (others.some((row) => itemKeyOf(row) !== itemKeyOf(first)) || first.kind === 'text')
    return problem('Only rows of the same item can be combined.');
  const parents = parentsOf(rows);
  if (new Set(chosen.map((row) => parents[rows.indexOf(row)])).size > 1)
    return problem('Only rows that lie in the same level can be combined: elsewhere they count differently.');
  if (chosen.some((row) => endOf(rows, rows.indexOf(row)) > rows.indexOf(row) + 1))
    return problem('Only rows in which nothing lies can be combined.');
  const sum = new AmountSum();
  for (const { amount } of chosen) sum.add(amount);
  const [amount, second] = sum.amounts;
  if (!amount || second)
    return problem(
      `${chosen.map((row) => sayAmount(row.amount)).join(' and ')} do not add up to one quantity.`,
    );
  const names = chosen.flatMap(({ designators }) => {
    const parsed = parseDesignators(designators);
    return parsed.kind === 'problem' ? [] : parsed.designators;
  });
  const gone = new Set(others.map(({ id }) => id));
  return done(
    rows.flatMap((row) =>
      gone.has(row.id)
        ? []
        : row === first
          ? [{ ...row, amount, designators: sayDesignators(names) }]
          : [row],
    ),
  );
}

/** Takes an assembly as one piece: what lies in it is not listed any more. */
export function takeWhole(rows: readonly BuildRow[], id: string): readonly BuildRow[] {
  const at = placeOf(rows, id);
  const row = rows[at];
  if (!row?.from || endOf(rows, at) === at + 1) return rows;
  return [...rows.slice(0, at), { ...row, isWhole: true, isPhantom: false }, ...rows.slice(endOf(rows, at))];
}

/** Fields of a row that are edited as cells; any other name is a column. */
export const ROW_FIELDS = ['find', 'number', 'name', 'amount', 'designators'] as const;
export type RowField = (typeof ROW_FIELDS)[number];

function isRowField(field: string): field is Exclude<RowField, 'amount'> {
  return (ROW_FIELDS as readonly string[]).includes(field);
}

/** What a cell shows. */
export function cellOf(row: BuildRow, field: string): string {
  if (field === 'amount') return sayAmount(row.amount);
  return isRowField(field) ? row[field] : (row.values[field] ?? '');
}

/** @returns the row with another text in a cell, or why it cannot say that */
export function setCell(
  row: BuildRow,
  field: string,
  text: string,
  columns: readonly BuildColumn[],
): BuildRow | string {
  const value = text.trim();
  if (value.length > MOST_TEXT) return `A cell has at most ${MOST_TEXT} characters.`;
  switch (field) {
    case 'amount': {
      // A bare number is more or fewer of the same: 3 over 2 ml is 3 ml, over 2 + 5 % it is 3 + 5 %.
      const isMore = BARE.test(value) && row.amount.basis !== 'as required';
      const amount = isMore ? { ...row.amount, value } : parseAmount(value);
      return amount ? { ...row, amount } : `“${value}” is no quantity, such as 4, 0.4 m or as required.`;
    }
    case 'designators': {
      const parsed = parseDesignators(value);
      return parsed.kind === 'problem'
        ? `${parsed.says}.`
        : { ...row, designators: sayDesignators(parsed.designators) };
    }
    case 'find':
      return value.length > 20 ? 'A find number has at most 20 characters.' : { ...row, find: value };
    case 'name':
      if (row.kind !== 'text') return 'The name belongs to the item; it is changed there.';
      return value === '' ? 'A row of text needs a text.' : { ...row, name: value };
    case 'number':
      return 'Another item is another row: add it, and remove this one.';
    default: {
      const column = columns.find(({ id }) => id === field);
      if (!column) return 'There is no such column.';
      const refusal = value === '' ? undefined : refuseValue(column, value);
      return refusal ?? { ...row, values: { ...row.values, [field]: written(column, value) } };
    }
  }
}

/** As a column keeps it. */
function written({ type }: BuildColumn, value: string): string {
  const read = isEffectivity(type) ? parseSpans(value) : undefined;
  return read?.kind === 'spans' ? saySpans(read.spans) : value;
}

const BARE = /^\d+(\.\d+)?$/;
const DAY = /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/;
const LINK = /^https?:\/\/\S+$/i;

/** @returns why a column cannot hold a value; undefined where it can */
export function refuseValue({ name, type, unit, choices }: BuildColumn, value: string): string | undefined {
  switch (type) {
    case 'number': {
      const amount = parseAmount(value);
      if (amount?.basis !== 'each')
        return `${name} takes a number${unit === '' ? '' : ` in ${unit}`}, not “${value}”.`;
      return amount.unit === '' || amount.unit === unit || areCompatible(amount.unit, unit)
        ? undefined
        : `${name} is in ${unit === '' ? 'plain numbers' : unit}, not in ${amount.unit}.`;
    }
    case 'choice':
      return choices.includes(value) ? undefined : `${name} is one of ${choices.join(', ')}.`;
    case 'day':
      return DAY.test(value) && !Number.isNaN(Date.parse(value))
        ? undefined
        : `${name} takes a day such as 2026-03-31, not “${value}”.`;
    case 'planned effectivity':
    case 'actual effectivity': {
      const read = parseSpans(value);
      return read.kind === 'problem' ? `${name}: ${read.says}` : undefined;
    }
    case 'link':
      return LINK.test(value) ? undefined : `${name} takes an address that begins with http:// or https://.`;
    default:
      return undefined;
  }
}

/** A cell whose new text could not be taken. */
export interface CellProblem {
  readonly id: string;
  readonly field: string;
  readonly says: string;
}

export interface Pasted {
  readonly rows: readonly BuildRow[];
  readonly changed: number;
  readonly problems: readonly CellProblem[];
}

/**
 * Lays a block of a spreadsheet over the cells from one cell on. Cells beyond the last row or field are left out and counted as a
 * problem of the last row.
 *
 * @param shown rows and fields in the order in which they are seen
 */
export function pasteBlock(
  rows: readonly BuildRow[],
  block: readonly (readonly string[])[],
  {
    shown,
    fields,
    at,
    columns,
  }: {
    readonly shown: readonly string[];
    readonly fields: readonly string[];
    readonly at: { readonly id: string; readonly field: string };
    readonly columns: readonly BuildColumn[];
  },
): Pasted {
  const [top, left] = [shown.indexOf(at.id), fields.indexOf(at.field)];
  const texts = new Map<string, Map<string, string>>();
  let beyond = 0;
  for (const [down, line] of block.entries()) {
    const id = shown[top + down];
    for (const [right, text] of line.entries()) {
      const field = fields[left + right];
      if (id === undefined || field === undefined) beyond++;
      else texts.set(id, (texts.get(id) ?? new Map<string, string>()).set(field, text));
    }
  }
  const pasted = setCells(rows, texts, columns);
  if (beyond === 0) return pasted;
  const says = `${beyond} cells lie beyond the last row or column and were left out. Insert rows first.`;
  return { ...pasted, problems: [...pasted.problems, { id: shown.at(-1) ?? '', field: '', says }] };
}

/** Writes many cells; those that cannot say it stay as they are. */
export function setCells(
  rows: readonly BuildRow[],
  texts: ReadonlyMap<string, ReadonlyMap<string, string>>,
  columns: readonly BuildColumn[],
): Pasted {
  const problems: CellProblem[] = [];
  let changed = 0;
  const written = rows.map((row) => {
    let next = row;
    for (const [field, text] of texts.get(row.id) ?? []) {
      if (text.trim() === cellOf(next, field)) continue;
      const set = setCell(next, field, text, columns);
      if (typeof set === 'string') problems.push({ id: row.id, field, says: set });
      else {
        next = set;
        changed++;
      }
    }
    return next;
  });
  return { rows: written, changed, problems };
}

/** Replaces a text wherever cells of these fields have it. */
export function replaceText(
  rows: readonly BuildRow[],
  {
    find,
    by,
    fields,
    columns,
  }: { find: string; by: string; fields: readonly string[]; columns: readonly BuildColumn[] },
): Pasted {
  const texts = new Map<string, Map<string, string>>();
  if (find !== '')
    for (const row of rows)
      for (const field of fields) {
        const text = cellOf(row, field);
        if (text.includes(find))
          texts.set(
            row.id,
            (texts.get(row.id) ?? new Map<string, string>()).set(field, text.replaceAll(find, by)),
          );
      }
  return setCells(rows, texts, columns);
}

/**
 * How much a row's parent counts, by the place of the row: what its levels multiply to; 0 in what is not needed. Text levels
 * without pieces count once.
 */
export function countsOf(rows: readonly { readonly level: number; readonly amount: Amount }[]): string[] {
  const parents = parentsOf(rows);
  const inside: string[] = [];
  return rows.map(({ amount }, at) => {
    const count = parents[at] === -1 ? '1' : (inside[parents[at] ?? -1] ?? '1');
    inside[at] = count === '0' ? '0' : countInside(timesAmount(amount, count));
    return count;
  });
}
