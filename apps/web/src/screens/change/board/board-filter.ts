/** Which changes are shown, as it stands in the address, so that a figure opens its list and a colleague sees the same. */
import type { ChangeRow } from '@stem-trace/contract';
import { isFinished, lateDays, type BoardChange } from '@stem-trace/core';

export interface BoardFilter {
  readonly kind: '' | 'request' | 'order';
  readonly state: string;
  readonly product: string;
  readonly waits: string;
  /** Numbers that a figure stands for; empty for no such choice. */
  readonly of: readonly string[];
  readonly late: boolean;
  /** Whether those that are done are shown too. */
  readonly done: boolean;
}

export const FILTER_NAMES = ['kind', 'state', 'product', 'waits', 'of', 'late', 'done'] as const;

export function filterOf(search: URLSearchParams): BoardFilter {
  const kind = search.get('kind');
  const of = search.get('of') ?? '';
  return {
    kind: kind === 'request' || kind === 'order' ? kind : '',
    state: search.get('state') ?? '',
    product: search.get('product') ?? '',
    waits: search.get('waits') ?? '',
    of: of === '' ? [] : of.split(','),
    late: search.get('late') === 'yes',
    done: search.get('done') === 'yes',
  };
}

/** Said under those that stand in no product, or wait for nobody. */
export const NO_PRODUCT = 'no product';
export const NOBODY = 'nobody';

export function isShown(row: ChangeRow, filter: BoardFilter, now: number): boolean {
  const { kind, state, product, waits, of, late, done } = filter;
  const chosen = of.length > 0;
  return (
    (!chosen || of.includes(row.number)) &&
    (done || chosen || state === row.state || !isFinished(row.lane)) &&
    (kind === '' || row.kind === kind) &&
    (state === '' || row.state === state) &&
    (product === '' || (row.products.length === 0 ? [NO_PRODUCT] : row.products).includes(product)) &&
    (waits === '' || (row.waitsFor.length === 0 ? [NOBODY] : row.waitsFor).includes(waits)) &&
    (!late || lateDays(forFigures(row), now) > 0)
  );
}

export function forFigures(row: ChangeRow): BoardChange {
  const { number, lane, openedAt, closedAt, dueAt, stays, products, waitsFor } = row;
  return {
    ...{ number, lane, products, waitsFor, openedAt: Date.parse(openedAt) },
    dueAt: dueAt === null ? null : Date.parse(dueAt),
    closedAt: closedAt === null ? null : Date.parse(closedAt),
    stays: stays.map(({ state, from, to }) => ({
      ...{ state, from: Date.parse(from), to: to === null ? null : Date.parse(to) },
    })),
  };
}

/** When it came to where it stands, in milliseconds. */
export function sinceOf({ stays, openedAt }: ChangeRow): number {
  return Date.parse(stays.at(-1)?.from ?? openedAt);
}
