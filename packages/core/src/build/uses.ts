/** What a bill uses, item by item: the other way round it answers in which bills an item is. */
import { AmountSum, timesAmount } from '../bom/amount.js';
import type { Amount } from '../model/amount.js';
import { countsOf } from './edit.js';
import type { BuildRow } from './model.js';

export interface BillUse {
  readonly itemId: string;
  /** In one of what the bill makes; several where they do not add up, none where it is only pointed at. */
  readonly amounts: readonly Amount[];
  readonly rows: number;
}

/** Items of the store alone, in the order in which they are met. What lies in something that is not needed adds nothing. `O(rows)` */
export function billUses(rows: readonly BuildRow[]): BillUse[] {
  const counts = countsOf(rows);
  const found = new Map<string, { readonly sum: AmountSum; rows: number }>();
  for (const [at, { itemId, amount }] of rows.entries()) {
    if (itemId === undefined) continue;
    const known = found.get(itemId) ?? { sum: new AmountSum(), rows: 0 };
    found.set(itemId, known);
    known.rows++;
    const count = counts[at] ?? '1';
    if (count !== '0') known.sum.add(timesAmount(amount, count));
  }
  return [...found].map(([itemId, { sum, rows: met }]) => ({ itemId, amounts: sum.amounts, rows: met }));
}
