/** What must be right before a bill is released. */
import { isSameAmount, pieces } from '../bom/amount.js';
import { parseDesignators } from '../bom/designators.js';
import { valueAt } from '../collections.js';
import { checkEffectivity } from '../model/effectivity.js';
import type { StateBook } from '../lifecycle/diagram.js';
import { countsAsReleased } from '../lifecycle/states.js';
import { toSi } from '../quantity/quantity.js';
import { accountOf, countAccount, isClosed } from './account.js';
import { effectivitiesOf, effectivityColumns } from './counting.js';
import { endOf, parentsOf, type BuildBill, type BuildRow } from './model.js';

/** Rules, each of which an administrator can turn off. */
export const READINESS_RULES = {
  amounts: 'Every row has a quantity in a unit that is known',
  'base released': 'The engineering version that it was taken from is released',
  withdrawn: 'Nothing in it is withdrawn',
  behind: 'It is not behind engineering',
  gaps: 'Everything that it names is in the store',
  designators: 'Each row has as many designators as pieces, or none',
  columns: 'Required columns are filled in',
  effectivity: 'Rows that follow one another under a find number neither overlap nor leave a hole',
  account: 'Every engineering part is accounted for',
} as const;

export type ReadinessRule = keyof typeof READINESS_RULES;

export const ALL_RULES = Object.keys(READINESS_RULES) as readonly ReadinessRule[];

/** What the store knows and the bill does not say. */
export interface ReadinessFacts {
  readonly baseState: string;
  /** Versions of engineering that came since. */
  readonly behind: number | null;
  /** By item id. */
  readonly states: ReadonlyMap<string, string>;
  readonly book: StateBook;
}

export interface ReadinessFailure {
  readonly rule: ReadinessRule;
  /** Row and field that it is about; empty where it is about the bill. */
  readonly id: string;
  readonly field: string;
  readonly says: string;
}

/** @returns what is not right, rule by rule, row by row. `O(rows)` */
export function checkReadiness(
  bill: BuildBill,
  facts: ReadinessFacts,
  rules: readonly ReadinessRule[] = ALL_RULES,
): ReadinessFailure[] {
  const wanted = new Set(rules);
  const about = (rule: ReadinessRule, says: string): ReadinessFailure[] =>
    wanted.has(rule) ? [{ rule, id: '', field: '', says }] : [];
  const { version, number } = bill.engineering;
  return [
    ...(countsAsReleased(facts.book, facts.baseState)
      ? []
      : about('base released', `${number} ${version} is ${facts.baseState}, not released`)),
    ...(facts.behind === 0
      ? []
      : about(
          'behind',
          facts.behind === null
            ? `it cannot be told whether ${number} has moved on: not all of it can be read`
            : `${number} has moved on by ${facts.behind}; carry it over`,
        )),
    ...bill.rows.flatMap((row, at) =>
      rowFailures(row, endOf(bill.rows, at) > at + 1, bill, facts).filter(({ rule }) => wanted.has(rule)),
    ),
    ...effectivityFailures(bill).filter(({ rule }) => wanted.has(rule)),
    ...accountFailures(bill).filter(({ rule }) => wanted.has(rule)),
  ];
}

function nameOf({ number, name }: BuildRow): string {
  return number === '' ? `“${name}”` : number;
}

function rowFailures(
  row: BuildRow,
  isLevel: boolean,
  { columns }: BuildBill,
  { states, book }: ReadinessFacts,
): ReadinessFailure[] {
  const { id, amount, itemId, kind } = row;
  const named = nameOf(row);
  const failures: ReadinessFailure[] = [];
  const fail = (rule: ReadinessRule, field: string, says: string): unknown =>
    failures.push({ rule, id, field, says: `${named} ${says}` });
  if (amount.basis !== 'as required' && !(Number(amount.value) > 0))
    fail('amounts', 'amount', 'has no quantity above 0');
  if (amount.unit !== '' && !toSi(1, amount.unit))
    fail('amounts', 'amount', `has the unknown unit “${amount.unit}”`);
  const state = itemId === undefined ? undefined : states.get(itemId);
  if (state !== undefined && book.get(state)?.lane === 'out of use')
    fail('withdrawn', 'number', `is ${state}`);
  if (kind !== 'text' && itemId === undefined) fail('gaps', 'number', 'is not in the store');
  const parsed = parseDesignators(row.designators);
  const count = parsed.kind === 'problem' ? 0 : parsed.designators.length;
  if (count > 0 && !isSameAmount({ ...pieces(count) }, bare(amount)))
    fail('designators', 'designators', `has ${count} designators for ${amount.value} pieces`);
  if (!isLevel)
    for (const column of columns)
      if (column.isRequired && (row.values[column.id] ?? '') === '')
        fail('columns', column.id, `has no ${column.name}`);
  return failures;
}

function bare({ scrap: _, step: __, ...amount }: BuildRow['amount']): BuildRow['amount'] {
  return amount;
}

function effectivityFailures({ rows, columns }: BuildBill): ReadinessFailure[] {
  const first = effectivityColumns(columns)[0];
  if (!first) return [];
  const parents = parentsOf(rows);
  const placed = effectivitiesOf({ rows, columns }).map((read, at) => {
    const row = valueAt(rows, at);
    const place = row.find === '' ? '' : `${parents[at]} ${row.find}`;
    return { row, read, place, named: nameOf(row) };
  });
  const fail = ({ id }: BuildRow, text: string): ReadinessFailure => ({
    ...{ rule: 'effectivity', id, field: first.id, says: text },
  });
  const unreadable = placed.flatMap(({ row, read, named }) =>
    'says' in read ? fail(row, `${named}: ${read.says}`) : [],
  );
  const readable = placed.flatMap(({ read, ...each }) =>
    'says' in read ? [] : { ...each, ...(read.effectivity ? { effectivity: read.effectivity } : {}) },
  );
  return [
    ...unreadable,
    ...checkEffectivity(readable).map(({ at, says: text }) =>
      fail(at.row, `find number ${at.row.find}: ${text}`),
    ),
  ];
}

function accountFailures(bill: BuildBill): ReadinessFailure[] {
  const rows = accountOf(bill);
  if (isClosed(countAccount(rows))) return [];
  const first = new Map<string, string>();
  for (const { number, id } of bill.rows) if (!first.has(number)) first.set(number, id);
  return rows
    .filter(({ status }) => status === 'missing' || status === 'surplus')
    .map(({ number, status, difference }) => ({
      ...{ rule: 'account', id: first.get(number) ?? '', field: 'amount' },
      says: `${number}: ${status}, ${difference}`,
    }));
}
