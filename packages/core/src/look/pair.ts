/** Uses of two assemblies, or of two states of one, that are the same use. */
import type { Placement } from '../model/link.js';

/** A use that is drawn. */
export interface DrawnUse {
  /** Numbers of the items on the way to it, the root left out. */
  readonly way: readonly string[];
  /** What its parent calls it; empty where it has no name. */
  readonly use: string;
  /** What is drawn there: the version of its file. */
  readonly file: string;
  readonly at: Placement;
}

/** `changed`: the same item in the same place, drawn from another file. `replaced`: another item in the same place. */
export type UseChange = 'same' | 'changed' | 'moved' | 'replaced' | 'added' | 'removed';

export interface UsePair {
  readonly kind: UseChange;
  /** Places in the lists; absent where there is none. */
  readonly first?: number;
  readonly second?: number;
  /** How far its origin moved, millimetres. */
  readonly movedMm: number;
  /** Whether it is drawn from another file besides. */
  readonly isOther: boolean;
}

/** Nearer than this stands at the same place, millimetres; placements are written with fewer digits than they have. */
const SAME_MM = 1e-4;
/** Of what turns. */
const SAME_TURN = 1e-6;

/**
 * Pairs what is the same, by ever weaker signs: the same item on the same way with the same name; then at the same place;
 * then the nearest of the same item on the same way; what is left stands where something else stood, or is added or removed.
 *
 * Each use is in one pair. `O(uses + those of an item on one way, squared)`
 */
export function pairUses(first: readonly DrawnUse[], second: readonly DrawnUse[]): UsePair[] {
  const left = new Set(first.keys());
  const right = new Set(second.keys());
  const pairs: UsePair[] = [];
  const pair = (one: number, other: number): void => {
    left.delete(one);
    right.delete(other);
    const [a, b] = [first[one], second[other]];
    if (a && b) pairs.push({ first: one, second: other, ...change(a, b) });
  };
  const match = (keyOf: (use: DrawnUse) => string | undefined): void => {
    const waiting = grouped(right, second, keyOf);
    for (const one of [...left]) {
      const use = first[one];
      const key = use && keyOf(use);
      const other = key === undefined ? undefined : waiting.get(key)?.shift();
      if (other !== undefined) pair(one, other);
    }
  };
  match((use) => `${wayOf(use)}\n${use.use}\n${placeKey(use)}`);
  match((use) => (use.use === '' ? undefined : `${wayOf(use)}\n${use.use}`));
  match((use) => `${wayOf(use)}\n${placeKey(use)}`);
  matchNearest(first, second, { left, right, pair });
  match((use) => `${use.way.slice(0, -1).join('\n')}\n\n${placeKey(use)}`);
  for (const one of left) pairs.push({ kind: 'removed', first: one, movedMm: 0, isOther: false });
  for (const other of right) pairs.push({ kind: 'added', second: other, movedMm: 0, isOther: false });
  return pairs;
}

function wayOf({ way }: DrawnUse): string {
  return way.join('\n');
}

/** Rounded so that what stands at the same place has the same key nearly always; what has not is found as the nearest. */
function placeKey({ at }: DrawnUse): string {
  return at.map((value) => Math.round(value * 1e3) + 0).join(' ');
}

function grouped(
  from: ReadonlySet<number>,
  uses: readonly DrawnUse[],
  keyOf: (use: DrawnUse) => string | undefined,
): Map<string, number[]> {
  const groups = new Map<string, number[]>();
  for (const each of from) {
    const use = uses[each];
    const key = use && keyOf(use);
    if (key === undefined) continue;
    const group = groups.get(key);
    if (group) group.push(each);
    else groups.set(key, [each]);
  }
  return groups;
}

interface Matching {
  readonly left: ReadonlySet<number>;
  readonly right: ReadonlySet<number>;
  readonly pair: (one: number, other: number) => void;
}

/** More of an item on one way than this are paired in their order. */
const MOST_COMPARED = 400;

function matchNearest(
  first: readonly DrawnUse[],
  second: readonly DrawnUse[],
  { left, right, pair }: Matching,
): void {
  const others = grouped(right, second, wayOf);
  for (const [way, ones] of grouped(left, first, wayOf)) {
    const theirs = others.get(way) ?? [];
    if (ones.length * theirs.length > MOST_COMPARED ** 2) {
      ones.slice(0, theirs.length).forEach((one, at) => pair(one, theirs[at] ?? 0));
      continue;
    }
    const ways = ones.flatMap((one) =>
      theirs.map((other) => ({ one, other, far: distance(first[one]?.at, second[other]?.at) })),
    );
    ways.sort((a, b) => a.far - b.far || a.one - b.one || a.other - b.other);
    for (const { one, other } of ways) if (left.has(one) && right.has(other)) pair(one, other);
  }
}

function change(one: DrawnUse, other: DrawnUse): Pick<UsePair, 'kind' | 'movedMm' | 'isOther'> {
  const movedMm = distance(one.at, other.at);
  const hasTurned = [0, 1, 2, 4, 5, 6, 8, 9, 10].some(
    (at) => Math.abs((one.at[at] ?? 0) - (other.at[at] ?? 0)) > SAME_TURN,
  );
  const isOther = one.file !== other.file;
  const isMoved = movedMm > SAME_MM || hasTurned;
  const isReplaced = one.way.at(-1) !== other.way.at(-1);
  return {
    kind: isReplaced ? 'replaced' : isMoved ? 'moved' : isOther ? 'changed' : 'same',
    movedMm: isMoved ? movedMm : 0,
    isOther,
  };
}

function distance(one: Placement = [], other: Placement = []): number {
  return Math.hypot(...[3, 7, 11].map((at) => (one[at] ?? 0) - (other[at] ?? 0)));
}
