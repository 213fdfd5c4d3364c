/** Carry over: later engineering comes into a bill, and everything that was added or changed in the bill stays. */
import { isSameAmount, sayAmount, timesAmount } from '../bom/amount.js';
import { pairTrees } from '../bom/compare.js';
import { valueAt } from '../collections.js';
import type { AmountRole } from '../model/amount.js';
import { itemKeyOf, type BomLine } from '../bom/line.js';
import { keyFor, rowFrom, treeOf } from './make.js';
import { mergeRows, type Contradiction, type Decisions, type MergeRow } from './merge.js';
import {
  endOf,
  parentsOf,
  type BuildBill,
  type BuildRow,
  type EngineeringBase,
  type EngineeringRow,
} from './model.js';

export interface Newer {
  readonly engineering: EngineeringBase;
  /** As `engineeringRows` gives them; their keys are taken for ways. */
  readonly rows: readonly EngineeringRow[];
}

/** What carrying over brings, in words of rows. */
export interface Brought {
  readonly kind: 'added' | 'removed' | 'changed';
  readonly id: string;
  readonly number: string;
  readonly name: string;
  /** By field: what stood there, and what comes. */
  readonly cells: readonly { readonly field: string; readonly was: string; readonly comes: string }[];
}

export interface CarriedOver {
  readonly bill: BuildBill;
  readonly brought: readonly Brought[];
  readonly contradictions: readonly Contradiction[];
  /** Rows that lie further out because what they lay in is gone. */
  readonly movedOut: readonly string[];
}

/** A change of these alone does not bring back what the bill leaves out. */
const LIGHT = ['version', 'find', 'designators', 'name'];

/** @param decisions where both sides changed the same; the bill's side where nothing is said. `O(rows)` */
export function carryOver(bill: BuildBill, newer: Newer, decisions: Decisions = new Map()): CarriedOver {
  const base = keyed(bill, newer);
  const gone = levelsGone(bill);
  const [was, comes] = [bill.base, base].map((rows) => asIn(bill, rows, gone)) as [BuildRow[], BuildRow[]];
  withDivided(bill.rows, was, comes);
  const [mine, theirs] = [sideOf(bill.rows), sideOf(comes)];
  const merged = mergeRows(was.map(mergeRowOf), mine.merging, theirs.merging, { decisions, light: LIGHT });
  const rows = merged.rows.map((row) => buildRowOf(row, mine.rows, theirs.rows));
  return {
    bill: { ...bill, engineering: newer.engineering, base, rows },
    brought: broughtBy(bill.rows, rows),
    contradictions: merged.contradictions,
    movedOut: merged.movedOut,
  };
}

/** Newer rows under the keys of those that they stand for. */
function keyed(bill: BuildBill, { engineering, rows: newer }: Newer): EngineeringRow[] {
  const [before, after] = [treeOf(bill.base), treeOf(newer)];
  const keyOf = new Map(linesIn(before).map((line, at) => [line, bill.base[at]?.key]));
  const partners = pairTrees(before, after);
  const lines = linesIn(after);
  const taken = new Set([...bill.base.map(({ key }) => key), ...bill.rows.map(({ id }) => id)]);
  return newer.map((row, at) => {
    const line = lines[at];
    const partner = line && partners.get(line);
    const known = partner && keyOf.get(partner);
    if (known !== undefined) return { ...row, key: known };
    const wanted = keyFor(engineering, at);
    let key = wanted;
    for (let times = 2; taken.has(key); times++) key = `${wanted}-${times}`;
    taken.add(key);
    return { ...row, key };
  });
}

/** All lines below a root, in depth-first order. */
function linesIn(root: BomLine): BomLine[] {
  const lines: BomLine[] = [];
  const stack = [...root.children].reverse();
  for (let line = stack.pop(); line; line = stack.pop()) {
    lines.push(line);
    for (let at = line.children.length - 1; at >= 0; at--) {
      const child = line.children[at];
      if (child) stack.push(child);
    }
  }
  return lines;
}

interface LevelsGone {
  /** Keys of levels that the bill does without though it has what lay in them. */
  readonly dissolved: ReadonlySet<string>;
  /** Keys of what comes in one piece. */
  readonly whole: ReadonlySet<string>;
}

function levelsGone({ base, rows }: BuildBill): LevelsGone {
  const had = new Set(rows.flatMap(({ from }) => from ?? []));
  const dissolved = new Set<string>();
  for (const [at, { key }] of base.entries()) {
    const inside = base.slice(at + 1, endOf(base, at));
    if (!had.has(key) && inside.some((row) => had.has(row.key))) dissolved.add(key);
  }
  const whole = new Set(rows.flatMap(({ from, isWhole }) => (isWhole && from !== undefined ? [from] : [])));
  return { dissolved, whole };
}

/** Engineering seen as the bill is laid out: without the levels that it does without, whose quantities go into what lay in them. */
function asIn(
  bill: BuildBill,
  base: readonly EngineeringRow[],
  { dissolved, whole }: LevelsGone,
): BuildRow[] {
  const rows: BuildRow[] = [];
  // Of the levels that are open: how many levels of them are gone, and how often what lies in them counts for that.
  const open: { readonly gone: number; readonly count: string }[] = [];
  for (let at = 0; at < base.length;) {
    const row = base[at];
    if (!row) break;
    open.length = row.level - 1;
    const above = open.at(-1) ?? { gone: 0, count: '1' };
    const amount = timesAmount(row.amount, above.count);
    // What engineering emptied is a part from now on.
    const isGone = dissolved.has(row.key) && endOf(base, at) > at + 1;
    open.push(
      isGone
        ? { gone: above.gone + 1, count: amount.basis === 'each' && amount.unit === '' ? amount.value : '1' }
        : { gone: above.gone, count: '1' },
    );
    if (!isGone) rows.push(rowFrom(row, { level: row.level - above.gone, amount }));
    at = whole.has(row.key) ? endOf(base, at) : at + 1;
  }
  return rows;
}

/** What was divided off a row stays beside it, is of the same item, and goes when engineering drops the row. */
function withDivided(mine: readonly BuildRow[], was: BuildRow[], comes: BuildRow[]): void {
  const [before, after] = [was, comes].map((rows) => new Map(rows.map((row) => [row.id, row])));
  const parents = parentsOf(mine);
  for (const [at, row] of mine.entries()) {
    if (row.from === undefined || row.id === row.from || !before?.has(row.from)) continue;
    const old = before.get(row.from);
    const next = after?.get(row.from);
    const parent = mine[parents[at] ?? -1]?.id;
    putBeside(was, row, parent);
    if (!next || !old) continue;
    const { number, name, version, itemId } = next;
    const isOther = itemKeyOf(next) !== itemKeyOf(old) || next.version !== old.version;
    const { itemId: _, ...plain } = row;
    putBeside(
      comes,
      isOther ? { ...plain, number, name, version, ...(itemId === undefined ? {} : { itemId }) } : row,
      parent,
    );
  }
}

function putBeside(rows: BuildRow[], row: BuildRow, parent: string | undefined): void {
  const at = parent === undefined ? -1 : rows.findIndex(({ id }) => id === parent);
  if (parent !== undefined && at < 0) rows.push({ ...row, level: 1 });
  else if (at < 0) rows.push({ ...row, level: 1 });
  else rows.splice(endOf(rows, at), 0, { ...row, level: (rows[at]?.level ?? 0) + 1 });
}

const ITEM = 'item';

function mergeRowOf(row: BuildRow): MergeRow {
  const { id, level, number, name, version, amount, find, designators, itemId, isPhantom, isWhole, values } =
    row;
  const fields: Record<string, string> = {
    [ITEM]: `${itemKeyOf(row)}${PARTED}${itemId ?? ''}${PARTED}${number}${PARTED}${name}`,
    version,
    find,
    designators,
    amount: canonical(amount),
  };
  if (isPhantom) fields['phantom'] = 'yes';
  if (isWhole) fields['whole'] = 'yes';
  for (const column in values) fields[`column ${column}`] = values[column] ?? '';
  return { id, level, fields };
}

/** Nobody can type it into a number, a name or a unit. */
const PARTED = '\u0000';

/** Amounts in one spelling, so that equal ones are equal texts. */
function canonical({ value, unit, basis, scrap, step, role }: BuildRow['amount']): string {
  return `${value}${PARTED}${unit}${PARTED}${basis}${PARTED}${scrap ?? ''}${PARTED}${step ?? ''}${PARTED}${role ?? ''}`;
}

/** Rows of a side by their ids, with what they are merged as. */
type SideRows = ReadonlyMap<string, { readonly row: BuildRow; readonly fields: MergeRow['fields'] }>;

function sideOf(rows: readonly BuildRow[]): {
  readonly rows: SideRows;
  readonly merging: readonly MergeRow[];
} {
  const merging = rows.map(mergeRowOf);
  const known = new Map<string, { readonly row: BuildRow; readonly fields: MergeRow['fields'] }>();
  for (const [at, row] of rows.entries()) known.set(row.id, { row, fields: valueAt(merging, at).fields });
  return { rows: known, merging };
}

function buildRowOf({ id, level, fields }: MergeRow, mine: SideRows, theirs: SideRows): BuildRow {
  const [one, other] = [mine.get(id), theirs.get(id)];
  const known = one ?? other;
  if (!known) throw new Error(`row ${id} is of neither side`);
  const { row } = known;
  if (fields === known.fields) return row.level === level ? row : { ...row, level };
  const [, itemId = '', number = '', name = ''] = (fields[ITEM] ?? '').split(PARTED);
  const { itemId: _, ...plain } = row;
  return {
    ...plain,
    ...{ id, level, number, name },
    ...(itemId === '' ? {} : { itemId }),
    ...{
      version: fields['version'] ?? '',
      find: fields['find'] ?? '',
      designators: fields['designators'] ?? '',
    },
    amount: amountOf(fields['amount'], row),
  };
}

function amountOf(text: string | undefined, row: BuildRow): BuildRow['amount'] {
  if (text === undefined) return row.amount;
  const [value = '', unit = '', basis, scrap = '', step = '', role = ''] = text.split(PARTED);
  return {
    ...{ value, unit, basis: basis as BuildRow['amount']['basis'] },
    ...(scrap === '' ? {} : { scrap }),
    ...(step === '' ? {} : { step }),
    ...(role === '' ? {} : { role: role as AmountRole }),
  };
}

const SHOWN = ['version', 'amount', 'find', 'designators'] as const;

function broughtBy(before: readonly BuildRow[], after: readonly BuildRow[]): Brought[] {
  const known = new Map(before.map((row) => [row.id, row]));
  const left = new Set(after.map(({ id }) => id));
  const named = ({ id, number, name }: BuildRow): Pick<Brought, 'id' | 'number' | 'name'> => ({
    id,
    number,
    name,
  });
  return [
    ...after.flatMap((row): Brought[] => {
      const was = known.get(row.id);
      if (!was) return [{ kind: 'added', ...named(row), cells: [] }];
      const cells = SHOWN.flatMap((field) => {
        const [old, comes] =
          field === 'amount' ? [sayAmount(was.amount), sayAmount(row.amount)] : [was[field], row[field]];
        return old === comes || (field === 'amount' && isSameAmount(was.amount, row.amount))
          ? []
          : [{ field, was: old, comes }];
      });
      if (itemKeyOf(was) !== itemKeyOf(row))
        cells.unshift({ field: 'number' as never, was: was.number, comes: row.number });
      return cells.length === 0 ? [] : [{ kind: 'changed', ...named(row), cells }];
    }),
    ...before
      .filter(({ id }) => !left.has(id))
      .map((row): Brought => ({ kind: 'removed', ...named(row), cells: [] })),
  ];
}

/** What a side of a contradiction says, for people. */
export function saySide(what: string, text: string | undefined): string {
  if (text === undefined) return 'not there';
  if (what === 'amount') {
    const amount = amountOf(text, { amount: { value: '', unit: '', basis: 'as required' } } as BuildRow);
    return sayAmount(amount);
  }
  if (what === ITEM) {
    const [, , number = '', name = ''] = text.split(PARTED);
    return [number, name].filter(Boolean).join(' ');
  }
  return text;
}
