/** Rows of a BOM as a table shows them: filtered, down to a level, in groups with sums. */
import type { BillRow } from '@stem-trace/contract';
import { AmountSum, sayAmount } from '@stem-trace/core';
import type { BillColumn } from './bill-columns.js';

export type BillLine =
  | { readonly kind: 'row'; readonly row: BillRow }
  | { readonly kind: 'head'; readonly value: string; readonly says: string };

export interface LinesWanted {
  readonly words: string;
  /** Deepest level; all where infinite. */
  readonly levels: number;
  /** Column whose values are groups; none where absent. */
  readonly group: BillColumn | undefined;
}

/** @param rows in the order in which they are shown; within a group they keep it */
export function linesOf(
  rows: readonly BillRow[],
  { words, levels, group }: LinesWanted,
): readonly BillLine[] {
  const wanted = words.trim().toLowerCase();
  const shown = rows.filter(
    (row) =>
      row.level <= levels &&
      (wanted === '' ||
        [row.number, row.name, row.find, row.designators, ...Object.values(row.values)].some((text) =>
          text.toLowerCase().includes(wanted),
        )),
  );
  if (!group) return shown.map((row) => ({ kind: 'row', row }));
  const groups = new Map<string, BillRow[]>();
  for (const row of shown) {
    const value = group.text(row);
    const list = groups.get(value);
    if (list) list.push(row);
    else groups.set(value, [row]);
  }
  return [...groups]
    .sort(([a], [b]) => (a === '' ? 1 : b === '' ? -1 : a < b ? -1 : 1))
    .flatMap(([value, list]): BillLine[] => [
      { kind: 'head', value: value || `no ${group.title.toLowerCase()}`, says: saySums(list) },
      ...list.map((row) => ({ kind: 'row', row }) as const),
    ]);
}

/** How many rows there are, and what they add up to. */
function saySums(rows: readonly BillRow[]): string {
  const sum = new AmountSum();
  for (const { total, kind } of rows)
    if (kind !== 'drawing' && kind !== 'document')
      for (const { said: _, ...amount } of total) sum.add(amount);
  const count = `${rows.length.toLocaleString('en-GB')} ${rows.length === 1 ? 'row' : 'rows'}`;
  const said = sum.amounts.map((amount) => (amount.unit === '' && amount.basis === 'each' && amount.role === undefined ? `${amount.value} pieces` : sayAmount(amount))); // prettier-ignore
  return [count, ...said].join(', ');
}
