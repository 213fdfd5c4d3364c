/**
 * Which row of one BOM stands for which row of another. Everything here is the same seen from the other side: no pair depends on
 * which list is called the first.
 */
import { addTo } from '../collections.js';
import { itemKeyOf, placesOf, type BomLine } from './line.js';

/** What rows are paired by, besides by hand. */
export const PAIR_KEYS = ['item', 'lineage', 'find', 'designator', 'place'] as const;
export type PairKey = (typeof PAIR_KEYS)[number];
export type PairedBy = PairKey | 'hand';

/** A line while partners are looked for. */
export interface Pairable {
  readonly line: BomLine;
  /** What tells its item, see `itemKeyOf`. */
  readonly key: string;
  /** Whether it has a partner, or is to stay alone. */
  isTaken: boolean;
}

export interface Pair<L> {
  readonly before: L;
  readonly after: L;
  readonly by: PairedBy;
}

type KeyOf = (pairable: Pairable) => string | undefined;

const DETAILS: readonly KeyOf[] = [
  ({ line }) =>
    `${line.find}\n${line.designators.join(' ')}\n${line.configurations.join(' ')}\n${placesOf(line)}`,
  ({ line }) => (line.find === '' ? undefined : line.find),
  ({ line }) => (line.placements.length === 0 ? undefined : placesOf(line)),
  () => '',
];

const KEYS: Readonly<Record<Exclude<PairKey, 'designator'>, KeyOf>> = {
  item: ({ key }) => key,
  lineage: ({ line }) => line.stem,
  find: ({ line }) => (line.find === '' ? undefined : line.find),
  place: ({ line }) => (line.placements.length === 0 ? undefined : placesOf(line)),
};

/** Lines that are to be paired with those of another list. */
export function pairable(lines: readonly BomLine[]): Pairable[] {
  return lines.map((line) => ({ line, key: itemKeyOf(line), isTaken: false }));
}

const isFree = ({ isTaken }: Pairable): boolean => !isTaken;

/**
 * Pairs lines that stand beside each other, and marks them as taken; what is taken already is not looked at. `O(lines)`
 *
 * @param by in order: what is paired by an earlier one is not looked at by a later one
 */
export function pairSiblings<L extends Pairable>(
  from: readonly L[],
  to: readonly L[],
  by: readonly PairKey[],
): Pair<L>[] {
  const pairs: Pair<L>[] = [];
  let [left, right] = [from.filter(isFree), to.filter(isFree)];
  const take = (key: PairKey, found: readonly (readonly [L, L])[]): void => {
    if (found.length === 0) return;
    for (const [before, after] of found) {
      before.isTaken = true;
      after.isTaken = true;
      pairs.push({ before, after, by: key });
    }
    left = left.filter(isFree);
    right = right.filter(isFree);
  };
  for (const key of by) {
    if (left.length === 0 || right.length === 0) break;
    if (key === 'designator') take(key, byDesignators(left, right));
    else if (key === 'find' || key === 'place') take(key, byUnique(left, right, KEYS[key]));
    else {
      // What both sides have once needs no details to be told apart.
      take(key, onlyOnce(left, right, KEYS[key]));
      for (const detail of DETAILS) {
        if (left.length === 0 || right.length === 0) break;
        const keyOf: KeyOf = (each) => {
          const own = KEYS[key](each);
          const more = own === undefined ? undefined : detail(each);
          return more === undefined ? undefined : `${own}\n${more}`;
        };
        take(key, inOrder(left, right, keyOf));
      }
    }
  }
  return pairs;
}

/** Met by several of a side. */
const SEVERAL = -2;
const NONE = -1;

/** Lines whose key no other line of their side has. */
function onlyOnce<L extends Pairable>(
  left: readonly L[],
  right: readonly L[],
  keyOf: KeyOf,
): (readonly [L, L])[] {
  const places = new Map<string, number>();
  for (const [at, line] of left.entries()) {
    const key = keyOf(line);
    if (key !== undefined) places.set(key, places.has(key) ? SEVERAL : at);
  }
  const partners = new Int32Array(left.length).fill(NONE);
  for (const [at, line] of right.entries()) {
    const key = keyOf(line);
    const place = key === undefined ? undefined : places.get(key);
    if (place !== undefined && place >= 0) partners[place] = partners[place] === NONE ? at : SEVERAL;
  }
  const pairs: (readonly [L, L])[] = [];
  for (const [at, before] of left.entries()) {
    const after = right[partners[at] ?? NONE];
    if (after) pairs.push([before, after]);
  }
  return pairs;
}

/** The first with the first, the second with the second of those with the same key. */
function inOrder<L extends Pairable>(
  left: readonly L[],
  right: readonly L[],
  keyOf: KeyOf,
): (readonly [L, L])[] {
  const waiting = new Map<string, L[]>();
  for (const line of left) {
    const key = keyOf(line);
    if (key !== undefined) addTo(waiting, key, line);
  }
  const next = new Map<string, number>();
  return right.flatMap((line) => {
    const key = keyOf(line);
    if (key === undefined) return [];
    const at = next.get(key) ?? 0;
    const match = waiting.get(key)?.[at];
    if (!match) return [];
    next.set(key, at + 1);
    return [[match, line] as const];
  });
}

/** A key that several lines of a side have says nothing about which is which, unless both sides have as many. */
function byUnique<L extends Pairable>(
  left: readonly L[],
  right: readonly L[],
  keyOf: KeyOf,
): (readonly [L, L])[] {
  const counts = [left, right].map((lines) => {
    const count = new Map<string, number>();
    for (const line of lines) {
      const key = keyOf(line);
      if (key !== undefined) count.set(key, (count.get(key) ?? 0) + 1);
    }
    return count;
  });
  return inOrder(left, right, (line) => {
    const key = keyOf(line);
    return key !== undefined && counts[0]?.get(key) === counts[1]?.get(key) ? key : undefined;
  });
}

/** Lines that share designators, those that share the most first. `O(designators)` */
function byDesignators<L extends Pairable>(left: readonly L[], right: readonly L[]): (readonly [L, L])[] {
  const users = new Map<string, L>();
  for (const each of left)
    for (const name of each.line.designators) if (!users.has(name)) users.set(name, each);
  const named = new Set<string>();
  const shared = new Map<L, Map<L, { count: number; least: string }>>();
  for (const after of right) {
    for (const name of after.line.designators) {
      const before = users.get(name);
      // A name that is given twice is the first one's, on both sides.
      if (!before || named.has(name)) continue;
      named.add(name);
      const counts = shared.get(after) ?? new Map<L, { count: number; least: string }>();
      const known = counts.get(before);
      counts.set(before, {
        count: (known?.count ?? 0) + 1,
        least: known && known.least < name ? known.least : name,
      });
      shared.set(after, counts);
    }
  }
  const candidates = [...shared].flatMap(([after, counts]) =>
    [...counts].map(([before, { count, least }]) => ({ before, after, count, least })),
  );
  // The name decides between equals: it is the same seen from either side.
  candidates.sort((a, b) => b.count - a.count || (a.least < b.least ? -1 : 1));
  const taken = new Set<L>();
  return candidates.flatMap(({ before, after }) => {
    if (taken.has(before) || taken.has(after)) return [];
    taken.add(before);
    taken.add(after);
    return [[before, after] as const];
  });
}

/** Rows that somebody paired, or parted, by their ways; an empty way stands for nothing. */
export interface HandPair {
  readonly from: string;
  readonly to: string;
}
