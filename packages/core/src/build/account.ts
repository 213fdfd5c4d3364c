/** The account: whether everything that engineering needs is in the bill, and nothing else of it. */
import Big from 'big.js';
import { AmountSum, countInside, isSameAmount, plusAmount, sayAmount, timesAmount } from '../bom/amount.js';
import { itemKeyOf } from '../bom/line.js';
import type { Amount } from '../model/amount.js';
import { areCompatible } from '../quantity/quantity.js';
import { countsOf } from './edit.js';
import { endOf, type BuildBill, type EngineeringRow } from './model.js';

/** `intended`: otherwise, and somebody said why. */
export type AccountStatus = 'same' | 'intended' | 'missing' | 'surplus';

export interface AccountRow {
  /** Of the item, see `itemKeyOf`. */
  readonly key: string;
  readonly number: string;
  readonly name: string;
  /** What one of the product needs; several where they do not add up. */
  readonly engineering: readonly Amount[];
  readonly bill: readonly Amount[];
  readonly status: AccountStatus;
  /** `−2`, `+0.4 m`; empty for the same. */
  readonly difference: string;
  readonly reason: string;
}

/** Parts by item, with all that is needed of each. */
type Needs = Map<string, { readonly row: Pick<EngineeringRow, 'number' | 'name'>; readonly sum: AmountSum }>;

/**
 * Net quantities of parts, through levels, phantoms and divided rows, in whatever unit. Scrap and rounding are the workshop's
 * business and do not count. `O(rows)`
 */
export function accountOf({
  base,
  rows,
  reasons,
}: Pick<BuildBill, 'base' | 'rows' | 'reasons'>): AccountRow[] {
  const wanted = needsOfBase(base);
  const had = needsOfBill(base, rows, wanted);
  return [...wanted].map(([key, { row, sum }]) => {
    const [engineering, bill] = [sum.amounts, had.get(key)?.sum.amounts ?? []];
    const { status, difference } = judge(engineering, bill);
    const said = reasons[key];
    const isMeant = status !== 'same' && said?.difference === difference;
    return {
      ...{ key, number: row.number, name: row.name, engineering, bill, difference },
      status: isMeant ? 'intended' : status,
      reason: isMeant ? said.reason : '',
    };
  });
}

export type AccountCounts = Readonly<Record<AccountStatus, number>>;

export function countAccount(rows: readonly AccountRow[]): AccountCounts {
  const counts = { same: 0, intended: 0, missing: 0, surplus: 0 };
  for (const { status } of rows) counts[status]++;
  return counts;
}

export function isClosed({ missing, surplus }: AccountCounts): boolean {
  return missing === 0 && surplus === 0;
}

function add(needs: Needs, row: Pick<EngineeringRow, 'itemId' | 'number' | 'name'>, amount: Amount): void {
  const key = itemKeyOf(row);
  const known = needs.get(key) ?? { row, sum: new AmountSum() };
  needs.set(key, known);
  const { scrap: _, step: __, ...net } = amount;
  known.sum.add(net);
}

/** References are no matter of the account, nor is what lies in something that is not needed. */
function isNeeded({ role }: Amount, count: string | undefined): boolean {
  return role !== 'reference' && count !== '0';
}

/** Parts are what nothing lies in. */
function needsOfBase(base: readonly EngineeringRow[], count = '1'): Needs {
  const needs: Needs = new Map();
  const counts = countsOf(base);
  for (const [at, row] of base.entries())
    if (endOf(base, at) === at + 1 && isNeeded(row.amount, counts[at]))
      add(needs, row, timesAmount(timesAmount(row.amount, counts[at] ?? '1'), count));
  return needs;
}

function needsOfBill(
  base: readonly EngineeringRow[],
  rows: BuildBill['rows'],
  wanted: ReadonlyMap<string, unknown>,
): Needs {
  const needs: Needs = new Map();
  const counts = countsOf(rows);
  const placeOf = new Map(base.map(({ key }, at) => [key, at]));
  for (const [at, row] of rows.entries()) {
    if (row.kind === 'text' || !isNeeded(row.amount, counts[at])) continue;
    const amount = timesAmount(row.amount, counts[at] ?? '1');
    const place = row.isWhole && row.from !== undefined ? placeOf.get(row.from) : undefined;
    if (place === undefined || endOf(base, place) === place + 1) {
      // A part stays one whatever is put into it. What engineering does not need is no matter of the account.
      if (wanted.has(itemKeyOf(row))) add(needs, row, amount);
      continue;
    }
    const below = base
      .slice(place + 1, endOf(base, place))
      .map((each) => ({ ...each, level: each.level - (base[place]?.level ?? 0) }));
    const inside = needsOfBase(below, countInside(amount));
    for (const { row: part, sum } of inside.values()) for (const each of sum.amounts) add(needs, part, each);
  }
  return needs;
}

function judge(
  engineering: readonly Amount[],
  bill: readonly Amount[],
): { readonly status: 'same' | 'missing' | 'surplus'; readonly difference: string } {
  const left = [...bill];
  const said: string[] = [];
  let status: 'same' | 'missing' | 'surplus' = 'same';
  for (const wanted of engineering) {
    const at = left.findIndex((had) => addsTo(wanted, had));
    const had = left[at];
    if (at >= 0) left.splice(at, 1);
    if (had && isSameAmount(wanted, had)) continue;
    const missing = had ? minus(had, wanted) : minus({ ...wanted, value: '0' }, wanted);
    const isLess = missing === undefined || missing.value.startsWith('-');
    if (isLess) status = 'missing';
    else if (status === 'same') status = 'surplus';
    said.push(missing ? saySigned(missing) : `no ${sayAmount(wanted)}`);
  }
  for (const more of left) {
    if (status === 'same') status = 'surplus';
    said.push(`+${sayAmount(more)}`);
  }
  return { status, difference: said.join(', ') };
}

function addsTo(a: Amount, b: Amount): boolean {
  return a.basis === b.basis && a.role === b.role && (a.unit === b.unit || areCompatible(a.unit, b.unit));
}

/** In the unit of the first; undefined for what is as required. */
function minus(a: Amount, b: Amount): Amount | undefined {
  if (a.basis === 'as required') return undefined;
  return plusAmount(a, { ...b, value: new Big(b.value).times(-1).toFixed() });
}

function saySigned({ value, ...amount }: Amount): string {
  const sign = value.startsWith('-') ? '−' : '+';
  return sign + sayAmount({ ...amount, value: value.replace(/^-/, '') });
}
