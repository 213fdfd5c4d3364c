/** What a bill says otherwise than engineering, or than another version of itself: cell by cell. */
import { isSameAmount } from '../bom/amount.js';
import { itemKeyOf } from '../bom/line.js';
import { cellOf, ROW_FIELDS } from './edit.js';
import { rowFrom } from './make.js';
import { endOf, parentsOf, type BuildBill, type BuildRow, type EngineeringRow } from './model.js';

/** What a row is, seen from what it is held against. */
export type RowChange = 'same' | 'changed' | 'added' | 'divided' | 'moved';

export interface RowChanges {
  readonly change: RowChange;
  /** By field: what stood there. */
  readonly was: Readonly<Record<string, string>>;
}

export interface BillChanges {
  /** By the id of the row. */
  readonly rows: ReadonlyMap<string, RowChanges>;
  /** What is not there any more, or not yet. */
  readonly removed: readonly {
    readonly id: string;
    readonly number: string;
    readonly name: string;
    readonly amount: string;
  }[];
}

const SAME: RowChanges = { change: 'same', was: {} };

/** @returns by field what another row says otherwise */
function cellsThatDiffer(row: BuildRow, before: BuildRow, fields: readonly string[]): Record<string, string> {
  const was: Record<string, string> = {};
  for (const field of fields) {
    const [is, other] = [cellOf(row, field), cellOf(before, field)];
    if (is === other || (field === 'amount' && isSameAmount(row.amount, before.amount))) continue;
    was[field] = other;
  }
  if (itemKeyOf(row) !== itemKeyOf(before)) was['number'] = before.number;
  if (row.version !== before.version) was['version'] = before.version;
  return was;
}

/** Against engineering, as it was taken. A divided row is no changed quantity: the account says whether anything is lacking. */
export function changesFromEngineering({ base, rows }: Pick<BuildBill, 'base' | 'rows'>): BillChanges {
  const known = new Map(base.map((row, at) => [row.key, { row, at }]));
  const parents = parentsOf(base);
  const lies = parentsOf(rows);
  const times = new Map<string, number>();
  for (const { from } of rows) if (from !== undefined) times.set(from, (times.get(from) ?? 0) + 1);
  const found = new Map<string, RowChanges>();
  for (const [at, row] of rows.entries()) {
    const of = row.from === undefined ? undefined : known.get(row.from);
    if (!of) {
      found.set(row.id, { change: 'added', was: {} });
      continue;
    }
    const was = cellsThatDiffer(row, rowFrom(of.row), ['name', 'amount', 'find', 'designators']);
    const isDivided = (times.get(row.from ?? '') ?? 0) > 1;
    if (isDivided) delete was['amount'];
    const parent = base[parents[of.at] ?? -1]?.key;
    const isMoved = rows[lies[at] ?? -1]?.from !== parent;
    const change = isDivided
      ? 'divided'
      : Object.keys(was).length > 0
        ? 'changed'
        : isMoved
          ? 'moved'
          : 'same';
    found.set(row.id, change === 'same' ? SAME : { change, was });
  }
  return { rows: found, removed: leftOut(base, rows, times) };
}

/** Engineering rows that no row of the bill is from, but for what lies in those that come in one piece. */
function leftOut(
  base: readonly EngineeringRow[],
  rows: readonly BuildRow[],
  times: ReadonlyMap<string, number>,
): BillChanges['removed'] {
  const whole = new Set(rows.flatMap(({ from, isWhole }) => (isWhole && from !== undefined ? [from] : [])));
  const removed: { id: string; number: string; name: string; amount: string }[] = [];
  for (let at = 0; at < base.length;) {
    const row = base[at];
    if (!row) break;
    if (!times.has(row.key))
      removed.push({
        id: row.key,
        number: row.number,
        name: row.name,
        amount: cellOf(rowFrom(row), 'amount'),
      });
    at = whole.has(row.key) ? endOf(base, at) : at + 1;
  }
  return removed;
}

/** Against another version of the bill. */
export function changesSince(
  before: Pick<BuildBill, 'rows' | 'columns'>,
  { rows, columns }: Pick<BuildBill, 'rows' | 'columns'>,
): BillChanges {
  const fields = [...new Set([...ROW_FIELDS, ...[...before.columns, ...columns].map(({ id }) => id)])].filter(
    (field) => field !== 'number',
  );
  const known = new Map(before.rows.map((row, at) => [row.id, { row, at }]));
  const [lay, lies] = [parentsOf(before.rows), parentsOf(rows)];
  const found = new Map<string, RowChanges>();
  for (const [at, row] of rows.entries()) {
    const of = known.get(row.id);
    if (!of) {
      found.set(row.id, { change: 'added', was: {} });
      continue;
    }
    const was = cellsThatDiffer(row, of.row, fields);
    const isMoved = before.rows[lay[of.at] ?? -1]?.id !== rows[lies[at] ?? -1]?.id;
    const change = Object.keys(was).length > 0 ? 'changed' : isMoved ? 'moved' : 'same';
    found.set(row.id, change === 'same' ? SAME : { change, was });
  }
  const ids = new Set(rows.map(({ id }) => id));
  const removed = before.rows
    .filter(({ id }) => !ids.has(id))
    .map((row) => ({ id: row.id, number: row.number, name: row.name, amount: cellOf(row, 'amount') }));
  return { rows: found, removed };
}
