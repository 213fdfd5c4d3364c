/**
 * From when until when a use counts: for some days, or for some serial numbers of a product (ISO 10303-44 knows both, as dated and
 * as serial numbered effectivity). What is planned and what became of it stand side by side; what became of it counts.
 */
import { numberKey } from '../numbering/number.js';
import { isDay, shiftDay } from './day.js';

/** The first and the last that counts; open at the end that is absent. */
export interface Span<B extends string | number> {
  readonly from?: B;
  readonly to?: B;
}

export interface SerialSpan extends Span<number> {
  /** Number of the product whose serial numbers are counted. */
  readonly product: string;
}

/** Limits of one sort or of several; all of them must hold. */
export interface Spans {
  /** Days as ISO 8601 writes them: `2026-03-31`. */
  readonly days?: Span<string>;
  /** One for each product. */
  readonly serials?: readonly SerialSpan[];
}

export interface Effectivity {
  readonly planned?: Spans;
  readonly actual?: Spans;
}

/** What is looked at: a day, or one piece of a product. */
export type EffectiveAt =
  | { readonly kind: 'day'; readonly day: string }
  | { readonly kind: 'serial'; readonly product: string; readonly serial: number };

/** The largest serial number; what has more digits is no count. */
export const MOST_SERIAL = 999_999_999;
const MOST_PRODUCTS = 20;

/** Bound by bound what became of it, or where nobody knows yet what is planned. */
function settled<B extends string | number>(planned: Span<B> = {}, actual: Span<B> = {}): Span<B> {
  return { ...planned, ...actual };
}

function holds<B extends string | number>({ from, to }: Span<B>, at: B): boolean {
  return (from === undefined || from <= at) && (to === undefined || at <= to);
}

function serialsOf(spans: Spans | undefined, product: string): SerialSpan | undefined {
  const key = numberKey(product);
  return spans?.serials?.find((each) => numberKey(each.product) === key);
}

/** The days that count, whether planned or known. */
function daysOf({ planned, actual }: Effectivity): Span<string> {
  return settled(planned?.days, actual?.days);
}

/** The serial numbers of a product that count; all where nothing is said of it. */
function serialsThatCount({ planned, actual }: Effectivity, product: string): Span<number> {
  return settled<number>(serialsOf(planned, product), serialsOf(actual, product));
}

/** Numbers of the products that something is said of, each once. */
export function productsIn({ planned, actual }: Effectivity): string[] {
  const products = [planned, actual].flatMap((spans) => spans?.serials ?? []).map(({ product }) => product);
  return [...new Map(products.map((product) => [numberKey(product), product])).values()];
}

/** The same with other numbers for the products. */
export function renamed({ planned, actual }: Effectivity, nameOf: (product: string) => string): Effectivity {
  const spans = ({ days, serials }: Spans): Spans => ({
    ...(days ? { days } : {}),
    ...(serials ? { serials: serials.map((each) => ({ ...each, product: nameOf(each.product) })) } : {}),
  });
  return {
    ...(planned ? { planned: spans(planned) } : {}),
    ...(actual ? { actual: spans(actual) } : {}),
  };
}

/**
 * Whether a use counts on a day, or in a piece of a product. What is limited in another way is not limited by this: a day says
 * nothing of serial numbers, nor the serial numbers of one product of those of another.
 */
export function isInEffect(effectivity: Effectivity | undefined, at: EffectiveAt): boolean {
  if (!effectivity) return true;
  return at.kind === 'day'
    ? holds(daysOf(effectivity), at.day)
    : holds(serialsThatCount(effectivity, at.product), at.serial);
}

const DAY = String.raw`\d{4}-\d{2}-\d{2}`;
const RANGE = new RegExp(
  String.raw`^(?:(?<product>.*?\S)\s+)??(?:(?:from\s+(?<from>${DAY}|\d+)(?:\s+to\s+(?<to>${DAY}|\d+))?)|(?:(?<first>${DAY}|\d+)\s+to\s+(?<last>${DAY}|\d+))|(?:to\s+(?<until>${DAY}|\d+))|(?<only>${DAY}|\d+))$`,
  'u',
);

export type ParsedSpans =
  { readonly kind: 'spans'; readonly spans: Spans } | { readonly kind: 'problem'; readonly says: string };

/**
 * Reads limits as a person writes them, several with semicolons between: `2026-03-01 to 2026-05-31`, `from 2026-03-01`,
 * `to 2026-05-31`, `2026-03-01` for a single day, and `FM-1000 1 to 99`, `FM-1000 from 100` for serial numbers of a product. An
 * empty text limits nothing. `saySpans` writes what this reads.
 */
export function parseSpans(text: string): ParsedSpans {
  let days: Span<string> | undefined;
  const serials = new Map<string, SerialSpan>();
  for (const part of text.split(';').map((each) => each.trim())) {
    if (part === '') continue;
    const read = parseRange(part);
    if (typeof read === 'string') return { kind: 'problem', says: read };
    if ('product' in read) {
      if (serials.has(numberKey(read.product)))
        return problem(`${read.product} is limited twice. Say one range of its serial numbers.`);
      serials.set(numberKey(read.product), read);
    } else if (days) return problem('Days are limited twice. Say one range of days.');
    else days = read;
  }
  if (serials.size > MOST_PRODUCTS)
    return problem(`Serial numbers of at most ${MOST_PRODUCTS} products can be told apart.`);
  return {
    kind: 'spans',
    spans: { ...(days ? { days } : {}), ...(serials.size > 0 ? { serials: [...serials.values()] } : {}) },
  };
}

function problem(says: string): ParsedSpans {
  return { kind: 'problem', says };
}

function parseRange(part: string): Span<string> | SerialSpan | string {
  const found = RANGE.exec(part)?.groups;
  if (!found)
    return `“${part}” is no range. Write days as “from 2026-03-01” or “2026-03-01 to 2026-05-31”, serial numbers as “FM-1000 from 100” or “FM-1000 1 to 99”.`;
  const { product, only } = found;
  const from = found['from'] ?? found['first'] ?? only;
  const to = found['to'] ?? found['last'] ?? found['until'] ?? only;
  const bounds = [from, to].flatMap((bound) => bound ?? []);
  const areDays = bounds.map((bound) => bound.includes('-'));
  if (areDays.includes(true) && areDays.includes(false))
    return `“${part}” mixes a day with a serial number. Say either.`;
  if (areDays[0] === true) {
    if (product !== undefined) return `“${part}”: days belong to no product. Leave “${product}” away.`;
    const wrong = bounds.find((day) => !isDay(day));
    if (wrong !== undefined) return `There is no day ${wrong}. Write days as 2026-03-31.`;
    return inOrder(part, { ...(from === undefined ? {} : { from }), ...(to === undefined ? {} : { to }) });
  }
  if (product === undefined)
    return `“${part}”: say which product's serial numbers are meant, as in “FM-1000 ${part}”.`;
  const wrong = bounds.find((serial) => !(Number(serial) <= MOST_SERIAL));
  if (wrong !== undefined) return `${wrong} is no serial number: it has too many digits.`;
  return inOrder(part, {
    product,
    ...(from === undefined ? {} : { from: Number(from) }),
    ...(to === undefined ? {} : { to: Number(to) }),
  });
}

function inOrder<S extends Span<string> | SerialSpan>(part: string, span: S): S | string {
  const { from, to } = span;
  return from !== undefined && to !== undefined && from > to
    ? `“${part}” ends before it begins. Change one of its ends.`
    : span;
}

/** As `parseSpans` reads it; empty for what limits nothing. */
export function saySpans({ days, serials = [] }: Spans = {}): string {
  return [
    ...(days && isLimit(days) ? [saySpan(days)] : []),
    ...serials.filter(isLimit).map((span) => `${span.product} ${saySpan(span)}`),
  ].join('; ');
}

function isLimit({ from, to }: Span<string | number>): boolean {
  return from !== undefined || to !== undefined;
}

function saySpan({ from, to }: Span<string | number>): string {
  if (from === undefined) return `to ${to}`;
  if (to === undefined) return `from ${from}`;
  return from === to ? String(from) : `${from} to ${to}`;
}

/** `planned from 2026-03-01 · actual from 2026-03-09`; empty for what limits nothing. */
export function sayEffectivity({ planned, actual }: Effectivity = {}): string {
  return [
    ...(saySpans(planned) === '' ? [] : [`planned ${saySpans(planned)}`]),
    ...(saySpans(actual) === '' ? [] : [`actual ${saySpans(actual)}`]),
  ].join(' · ');
}

/** From what was written of it; undefined where nothing is limited. */
export function effectivityFrom(
  planned: string,
  actual: string,
): { readonly effectivity: Effectivity | undefined } | { readonly says: string } {
  const [plans, became] = [parseSpans(planned), parseSpans(actual)];
  if (plans.kind === 'problem') return { says: plans.says };
  if (became.kind === 'problem') return { says: became.says };
  const effectivity: Effectivity = {
    ...(saySpans(plans.spans) === '' ? {} : { planned: plans.spans }),
    ...(saySpans(became.spans) === '' ? {} : { actual: became.spans }),
  };
  const backwards = [
    daysOf(effectivity),
    ...productsIn(effectivity).map((each) => serialsThatCount(effectivity, each)),
  ].find(({ from, to }) => from !== undefined && to !== undefined && from > to);
  if (backwards)
    return {
      says: `With what became of it, it ends (${backwards.to}) before it begins (${backwards.from}). Change what is planned or what became of it.`,
    };
  return { effectivity: Object.keys(effectivity).length === 0 ? undefined : effectivity };
}

/** One that follows others in one place of an assembly or a bill. */
export interface Placed {
  /** What is told of it: `FM-3304`. */
  readonly named: string;
  /** What shares it is in one place: the find number, in its parent. Empty for none. */
  readonly place: string;
  readonly effectivity?: Effectivity;
}

export interface EffectivityFault<P extends Placed> {
  readonly kind: 'overlap' | 'hole';
  /** The later of the two. */
  readonly at: P;
  readonly says: string;
}

/**
 * What is wrong with what follows one another in one place: two that count at once, or a time between them in which none does.
 * Rows of one place of which none is limited are left alone: that they share a find number is for others to say. Days and the
 * serial numbers of each product are looked at apart, and a row that is limited by another of them does not take part.
 * `O(rows log rows)`.
 */
export function checkEffectivity<P extends Placed>(rows: readonly P[]): EffectivityFault<P>[] {
  const places = new Map<string, P[]>();
  for (const row of rows)
    if (row.place !== '') places.set(row.place, [...(places.get(row.place) ?? []), row]);
  return [...places.values()].flatMap((sharing) => (sharing.length < 2 ? [] : faultsIn(sharing)));
}

function faultsIn<P extends Placed>(rows: readonly P[]): EffectivityFault<P>[] {
  const products = new Map(
    rows.flatMap(({ effectivity = {} }) =>
      productsIn(effectivity).map((each) => [numberKey(each), each] as const),
    ),
  );
  const dayFaults = along(
    rows.flatMap((row) => spanOf(row, daysOf(row.effectivity ?? {}))),
    { step: shiftDay, says: (first, last) => (first === last ? `on ${first}` : between(first, last)) },
  );
  const serialFaults = [...products.values()].flatMap((product) =>
    along(
      rows.flatMap((row) => spanOf(row, serialsThatCount(row.effectivity ?? {}, product))),
      {
        step: (serial, by) => serial + by,
        says: (first, last) => `for ${product} ${first === last ? first : between(first, last)}`,
      },
    ),
  );
  return [...dayFaults, ...serialFaults];
}

function between(first: string | number | undefined, last: string | number | undefined): string {
  if (first === undefined && last === undefined) return 'always';
  if (first === undefined) return `to ${last}`;
  return last === undefined ? `from ${first}` : `from ${first} to ${last}`;
}

interface Along<P, B> {
  readonly row: P;
  readonly span: { readonly from?: B; readonly to?: B };
}

/** A row in one kind of limit; a row that is limited only in another does not take part. */
function spanOf<P extends Placed, B extends string | number>(row: P, span: Span<B>): Along<P, B>[] {
  return isLimit(span) || sayEffectivity(row.effectivity) === '' ? [{ row, span }] : [];
}

function along<P extends Placed, B extends string | number>(
  all: readonly Along<P, B>[],
  {
    step,
    says,
  }: { step: (bound: B, by: 1 | -1) => B; says: (first: B | undefined, last: B | undefined) => string },
): EffectivityFault<P>[] {
  if (!all.some(({ span }) => isLimit(span))) return [];
  const sorted = [...all].sort((a, b) => startsBefore(a.span.from, b.span.from));
  const faults: EffectivityFault<P>[] = [];
  let [furthest] = sorted;
  for (const each of sorted.slice(1)) {
    if (!furthest) break;
    const { from, to } = each.span;
    const end = furthest.span.to;
    if (end === undefined || from === undefined || from <= end) {
      const last = end === undefined || (to !== undefined && to < end) ? to : end;
      faults.push({
        ...{ kind: 'overlap', at: each.row },
        says: `${furthest.row.named} and ${each.row.named} both count ${says(from, last)}`,
      });
    } else if (step(end, 1) < from)
      faults.push({
        ...{ kind: 'hole', at: each.row },
        says: `neither ${furthest.row.named} nor ${each.row.named} counts ${says(step(end, 1), step(from, -1))}`,
      });
    if (end !== undefined && (to === undefined || to > end)) furthest = each;
  }
  return faults;
}

function startsBefore<B extends string | number>(a: B | undefined, b: B | undefined): number {
  if (a === b) return 0;
  if (a === undefined) return -1;
  return b === undefined || a > b ? 1 : -1;
}
