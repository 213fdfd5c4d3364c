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

export interface Pair {
  readonly before: BomLine;
  readonly after: BomLine;
  readonly by: PairedBy;
}

type KeyOf = (line: BomLine) => string | undefined;

const DETAILS: readonly KeyOf[] = [
  (line) =>
    `${line.find}\n${line.designators.join(' ')}\n${line.configurations.join(' ')}\n${placesOf(line)}`,
  (line) => (line.find === '' ? undefined : line.find),
  (line) => (line.placements.length === 0 ? undefined : placesOf(line)),
  () => '',
];

const KEYS: Readonly<Record<Exclude<PairKey, 'designator'>, KeyOf>> = {
  item: itemKeyOf,
  lineage: ({ stem }) => stem,
  find: ({ find }) => (find === '' ? undefined : find),
  place: (line) => (line.placements.length === 0 ? undefined : placesOf(line)),
};

/**
 * Pairs lines that stand beside each other. `O(lines)`
 *
 * @param by in order: what is paired by an earlier one is not looked at by a later one
 * @param isFree whether a line may be paired at all
 */
export function pairSiblings(
  from: readonly BomLine[],
  to: readonly BomLine[],
  by: readonly PairKey[],
  isFree: (line: BomLine) => boolean = () => true,
): Pair[] {
  const pairs: Pair[] = [];
  let [left, right] = [from.filter(isFree), to.filter(isFree)];
  const take = (key: PairKey, found: readonly (readonly [BomLine, BomLine])[]): void => {
    const taken = new Set<BomLine>(found.flat());
    pairs.push(...found.map(([before, after]) => ({ before, after, by: key })));
    left = left.filter((line) => !taken.has(line));
    right = right.filter((line) => !taken.has(line));
  };
  for (const key of by) {
    if (left.length === 0 || right.length === 0) break;
    if (key === 'designator') take(key, byDesignators(left, right));
    else if (key === 'find' || key === 'place') take(key, byUnique(left, right, KEYS[key]));
    else {
      // What both sides have once needs no details to be told apart.
      take(key, onlyOnce(left, right, KEYS[key]));
      for (const detail of DETAILS) {
        const keyOf: KeyOf = (line) => {
          const own = KEYS[key](line);
          const more = own === undefined ? undefined : detail(line);
          return more === undefined ? undefined : `${own}\n${more}`;
        };
        take(key, inOrder(left, right, keyOf));
      }
    }
  }
  return pairs;
}

/** Lines whose key no other line of their side has. */
function onlyOnce(
  left: readonly BomLine[],
  right: readonly BomLine[],
  keyOf: KeyOf,
): (readonly [BomLine, BomLine])[] {
  const [before, after] = [left, right].map((lines) => {
    const known = new Map<string, BomLine | undefined>();
    for (const line of lines) {
      const key = keyOf(line);
      if (key !== undefined) known.set(key, known.has(key) ? undefined : line);
    }
    return known;
  });
  const pairs: (readonly [BomLine, BomLine])[] = [];
  for (const [key, line] of after ?? []) {
    const partner = line && before?.get(key);
    if (partner) pairs.push([partner, line]);
  }
  return pairs;
}

/** The first with the first, the second with the second of those with the same key. */
function inOrder(
  left: readonly BomLine[],
  right: readonly BomLine[],
  keyOf: KeyOf,
): (readonly [BomLine, BomLine])[] {
  const waiting = new Map<string, BomLine[]>();
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
function byUnique(
  left: readonly BomLine[],
  right: readonly BomLine[],
  keyOf: KeyOf,
): (readonly [BomLine, BomLine])[] {
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
function byDesignators(left: readonly BomLine[], right: readonly BomLine[]): (readonly [BomLine, BomLine])[] {
  const users = new Map<string, BomLine>();
  for (const line of left) for (const name of line.designators) if (!users.has(name)) users.set(name, line);
  const named = new Set<string>();
  const shared = new Map<BomLine, Map<BomLine, { count: number; least: string }>>();
  for (const after of right) {
    for (const name of after.designators) {
      const before = users.get(name);
      // A name that is given twice is the first one's, on both sides.
      if (!before || named.has(name)) continue;
      named.add(name);
      const counts = shared.get(after) ?? new Map<BomLine, { count: number; least: string }>();
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
  const taken = new Set<BomLine>();
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
