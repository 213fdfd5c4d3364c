/** What a change request or a change order says. It is written into the file of each of its versions. */
import { isDay } from '../model/day.js';
import type { ItemKind } from '../model/reading.js';

/** Items that are changes themselves. */
export const CHANGE_KINDS = ['request', 'order'] as const satisfies readonly ItemKind[];
export type ChangeKind = (typeof CHANGE_KINDS)[number];

export function isChange(kind: ItemKind): kind is ChangeKind {
  return kind === 'request' || kind === 'order';
}

/**
 * `shows in`: where the trouble is. `affects`: what has to change. `refers to`: requirements, standards, tests, evidence.
 * `answers`: requests that an order was made for. `joins`: the request that another one was joined with.
 */
export const CHANGE_RELATIONS = ['shows in', 'affects', 'refers to', 'answers', 'joins'] as const;
export type ChangeRelation = (typeof CHANGE_RELATIONS)[number];

export const URGENCIES = ['whenever it fits', 'soon', 'at once'] as const;
export type Urgency = (typeof URGENCIES)[number];

export const COST_KINDS = ['parts', 'tools', 'scrap', 'work', 'other'] as const;
export type CostKind = (typeof COST_KINDS)[number];

/** An item that a change has to do with. */
export interface ChangeLine {
  readonly relation: ChangeRelation;
  readonly itemId: string;
  readonly note: string;
  /** Pieces in stock, and on order or in work, as somebody said; empty where nobody knows. */
  readonly inStock: string;
  readonly inWork: string;
}

/** A look at something that shows what is meant: an address within this application. */
export interface Evidence {
  readonly says: string;
  readonly address: string;
}

export interface ChangeTask {
  /** Tells the task from all others of the change, for ever. */
  readonly key: string;
  readonly what: string;
  /** Login of whoever does it; empty where nobody is named. */
  readonly who: string;
  /** `2026-03-31`; empty where no day is named. */
  readonly until: string;
}

export interface ChangeCost {
  readonly kind: CostKind;
  readonly what: string;
  /** Decimal digits with a sign for what is saved: `-120.50`. */
  readonly amount: string;
}

/** From when on what the change makes is built. */
export type TakesEffect =
  | { readonly kind: 'when released' }
  | { readonly kind: 'on'; readonly day: string }
  | { readonly kind: 'from serial'; readonly product: string; readonly serial: string }
  | { readonly kind: 'when used up' };

export interface ChangeContents {
  /** What is wrong or wanted. */
  readonly why: string;
  readonly urgency: Urgency;
  /** Login of whoever sees to it; empty for nobody yet. */
  readonly owner: string;
  /** When it shall be done: `2026-03-31`, or empty. */
  readonly until: string;
  readonly takesEffect: TakesEffect;
  readonly lines: readonly ChangeLine[];
  readonly evidence: readonly Evidence[];
  readonly tasks: readonly ChangeTask[];
  readonly costs: readonly ChangeCost[];
  /** Of all costs: `EUR`. */
  readonly currency: string;
}

export const NO_CHANGE: ChangeContents = {
  ...{ why: '', urgency: 'whenever it fits', owner: '', until: '', takesEffect: { kind: 'when released' } },
  ...{ lines: [], evidence: [], tasks: [], costs: [], currency: '' },
};

const MOST_LINES = 5000;
const MOST_OTHERS = 500;
const AMOUNT = /^-?\d{1,12}(\.\d{1,4})?$/;

/** Why something cannot be kept, as sentences that say where; undefined where it can. `O(n)` */
export function refuseContents(kind: ChangeKind, contents: ChangeContents): string | undefined {
  const { why, lines, tasks, costs, currency, evidence, takesEffect } = contents;
  if (why.trim() === '') return 'Say what is wrong or wanted.';
  if (lines.length > MOST_LINES) return `A change names at most ${MOST_LINES} items.`;
  for (const list of [tasks, costs, evidence])
    if (list.length > MOST_OTHERS)
      return `A change has at most ${MOST_OTHERS} tasks, costs or pieces of evidence.`;
  const twice = firstTwice(lines.map(({ relation, itemId }) => `${relation} ${itemId}`));
  if (twice !== undefined) return 'An item stands twice under the same heading. Name it once.';
  if (firstTwice(tasks.map(({ key }) => key)) !== undefined) return 'Two tasks have the same key.';
  if (tasks.some(({ what }) => what.trim() === '')) return 'Say of each task what is to be done.';
  if (kind === 'request' && lines.some(({ relation }) => relation === 'answers'))
    return 'A request answers no other request.';
  if (kind === 'order' && lines.some(({ relation }) => relation === 'joins'))
    return 'An order is not joined with a request.';
  const wrong = costs.find(({ amount }) => !AMOUNT.test(amount));
  if (wrong) return `“${wrong.amount}” is no amount. Write digits, as in 120 or -35.50.`;
  if (costs.length > 0 && currency.trim() === '') return 'Say in which currency the costs are.';
  const days = [contents.until, ...tasks.map(({ until }) => until)].filter((day) => day !== '');
  if (takesEffect.kind === 'on') days.push(takesEffect.day);
  const noDay = days.find((day) => !isDay(day));
  if (noDay !== undefined) return `“${noDay}” is no day. Write it as 2026-03-31.`;
  if (
    takesEffect.kind === 'from serial' &&
    (takesEffect.product.trim() === '' || takesEffect.serial.trim() === '')
  )
    return 'Say from which serial number of which product it takes effect.';
  const outside = evidence.find(({ address }) => !isOwnAddress(address));
  if (outside) return `“${outside.address}” is no view of this application.`;
  return undefined;
}

function firstTwice(keys: readonly string[]): string | undefined {
  const seen = new Set<string>();
  for (const key of keys) {
    if (seen.has(key)) return key;
    seen.add(key);
  }
  return undefined;
}

/** A path here, and nothing that a browser would take for another site or a script. */
function isOwnAddress(address: string): boolean {
  return /^\/(?![/\\])[^\s\\]*$/.test(address);
}

export interface CostSum {
  readonly kind: CostKind;
  readonly amount: string;
}

/** Sums of costs by kind, in the order of `COST_KINDS`, and of all of them. Exact: amounts are added as whole ten-thousandths. */
export function sumCosts(costs: readonly ChangeCost[]): {
  readonly kinds: readonly CostSum[];
  readonly all: string;
} {
  const by = new Map<CostKind, bigint>();
  let all = 0n;
  for (const { kind, amount } of costs) {
    const value = tenThousandths(amount);
    by.set(kind, (by.get(kind) ?? 0n) + value);
    all += value;
  }
  return {
    kinds: COST_KINDS.flatMap((kind) => {
      const sum = by.get(kind);
      return sum === undefined ? [] : [{ kind, amount: sayTenThousandths(sum) }];
    }),
    all: sayTenThousandths(all),
  };
}

function tenThousandths(amount: string): bigint {
  if (!AMOUNT.test(amount)) return 0n;
  const [whole = '0', digits = ''] = amount.replace('-', '').split('.');
  const value = BigInt(whole) * 10_000n + BigInt(digits.padEnd(4, '0'));
  return amount.startsWith('-') ? -value : value;
}

function sayTenThousandths(value: bigint): string {
  const size = value < 0n ? -value : value;
  const rest = String(size % 10_000n)
    .padStart(4, '0')
    .replace(/0{1,2}$/, '');
  const digits = rest === '00' ? '' : `.${rest}`;
  return `${value < 0n ? '-' : ''}${size / 10_000n}${digits}`;
}
