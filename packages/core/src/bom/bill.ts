/** A BOM laid out in rows: level by level, or parts only with everything multiplied. */
import type { Amount } from '../model/amount.js';
import { AmountSum, countInside, timesAmount } from './amount.js';
import { itemKeyOf, type LineFacts } from './line.js';

/** A line with what lies below it, whatever else is known of it. */
type Tree<L> = LineFacts & { readonly children: readonly L[] };

export interface BillRow<L> {
  readonly line: L;
  /** 1 for what the root is directly made of. */
  readonly level: number;
  /** In one of the root; what lies in a by-product or a reference is needed 0 times. */
  readonly total: Amount;
}

/** Rows in depth-first order. `O(lines)` */
export function billRows<L extends Tree<L>>(root: L): BillRow<L>[] {
  const rows: BillRow<L>[] = [];
  const stack: { readonly line: L; readonly level: number; readonly count: string }[] = [];
  const push = (lines: readonly L[], level: number, count: string): void => {
    for (const line of [...lines].reverse()) stack.push({ line, level, count });
  };
  push(root.children, 1, '1');
  for (let top = stack.pop(); top; top = stack.pop()) {
    const total = timesAmount(top.line.amount, top.count);
    rows.push({ line: top.line, level: top.level, total });
    push(top.line.children, top.level + 1, countInside(total));
  }
  return rows;
}

export interface PartRow<L> {
  readonly line: L;
  /** What one of the root needs of it; several where they do not add up. */
  readonly amounts: readonly Amount[];
  /** What each user of it needs in all, in the order in which they are met. */
  readonly from: readonly { readonly number: string; readonly amounts: readonly Amount[] }[];
}

/**
 * What is made of nothing further, each item once, in the order in which it is first met. By-products are taken as they are,
 * references are left out. `O(lines)`
 */
export function partRows<L extends Tree<L>>(root: L): PartRow<L>[] {
  interface Adding {
    readonly line: L;
    readonly all: AmountSum;
    readonly from: Map<string, { readonly number: string; readonly sum: AmountSum }>;
  }
  const found = new Map<string, Adding>();
  const stack: { readonly line: L; readonly user: L; readonly count: string }[] = [];
  const push = (user: L, count: string): void => {
    for (const line of [...user.children].reverse()) stack.push({ line, user, count });
  };
  push(root, '1');
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { line, user, count } = top;
    const total = timesAmount(line.amount, count);
    if (total.role === 'reference') continue;
    if (line.children.length > 0 && total.role === undefined) {
      push(line, countInside(total));
      continue;
    }
    const key = itemKeyOf(line);
    const known = found.get(key) ?? { line, all: new AmountSum(), from: new Map() };
    found.set(key, known);
    known.all.add(total);
    const from = known.from.get(itemKeyOf(user)) ?? { number: user.number, sum: new AmountSum() };
    known.from.set(itemKeyOf(user), from);
    from.sum.add(total);
  }
  return [...found.values()].map(({ line, all, from }) => ({
    line,
    amounts: all.amounts,
    from: [...from.values()].map(({ number, sum }) => ({ number, amounts: sum.amounts })),
  }));
}
