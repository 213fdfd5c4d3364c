/**
 * A made-up store of any size, the same for the same seed. Items stand in levels: parts at the bottom, products at the
 * top, and each assembly uses items of lower levels only. A few parts are used nearly everywhere, as fasteners are; most
 * in a few places. Every version of an assembly changes a little of the one before.
 */

export interface SeedOptions {
  readonly items: number;
  readonly seed: number;
}

export interface SeedItem {
  readonly index: number;
  readonly number: string;
  readonly name: string;
  readonly kind: 'assembly' | 'part';
  readonly place: number;
  readonly versions: readonly SeedVersion[];
}

export interface SeedVersion {
  readonly revision: number;
  readonly seq: number;
  readonly createdAt: Date;
  readonly author: number;
  readonly comment: string;
  readonly links: readonly SeedLink[];
}

export interface SeedLink {
  readonly item: number;
  /** Ordinal of the version recorded, from 1. */
  readonly ordinal: number;
  readonly quantity: number;
}

export const PLACES = 240;
const DAY_MS = 86_400_000;
const START_MS = Date.UTC(2016, 0, 4);
/** Part of the items at each level, bottom first; the rest are products. */
const LEVELS = [0.72, 0.14, 0.08, 0.04, 0.014] as const;
/** Lines of an assembly, on average. */
const LINES = 12.6;
/** A product of ten thousand lines for comparing and deriving; only in stores that are large enough. */
const BIG = { fans: 100, lines: 99, fromItems: 20_000 } as const;

const NOUNS = [
  'bracket',
  'plate',
  'housing',
  'shaft',
  'cover',
  'flange',
  'spacer',
  'bolt',
  'washer',
  'gasket',
  'rail',
  'clamp',
  'lever',
  'frame',
  'tube',
  'bearing',
  'spring',
  'panel',
  'valve',
  'board',
] as const;
const WORDS = [
  'upper',
  'lower',
  'left',
  'right',
  'inner',
  'outer',
  'long',
  'short',
  'heavy',
  'light',
  'rear',
  'front',
  'main',
  'spare',
] as const;
const REASONS = [
  'Hole moved for the new cable',
  'Wall thicker after the vibration test',
  'Chamfer against burrs',
  'Cheaper material',
  'Fits the new supplier’s part',
  'Drawing error corrected',
  'First model',
] as const;

/** Small, fast and good enough for made-up data (mulberry32, public domain). */
export function random(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** Items in order, lower levels first. `O(items + links)`, one item in memory at a time but for counts. */
export function* planSeed({ items, seed }: SeedOptions): Generator<SeedItem> {
  const next = random(seed);
  const below = levelStarts(items);
  const versionCounts = new Uint8Array(items);
  const big = items >= BIG.fromItems ? items - 1 : -1;
  for (let index = 0; index < items; index++) {
    const level = levelOf(index, below);
    const isAssembly = level > 0;
    const count = 1 + Math.floor(next() * 5);
    const start = START_MS + Math.floor(next() * 3000) * DAY_MS;
    let lines = isAssembly ? firstLines(index, level, { below, next, big }) : [];
    const versions: SeedVersion[] = [];
    for (let ordinal = 1; ordinal <= count; ordinal++) {
      if (ordinal > 1) lines = changed(lines, below[level] ?? index, next);
      versions.push({
        revision: 1 + Math.floor((ordinal - 1) / 3),
        seq: 1 + ((ordinal - 1) % 3),
        createdAt: new Date(start + ordinal * 40 * DAY_MS + Math.floor(next() * 9 * 3_600_000)),
        author: Math.floor(next() * 1000),
        comment: ordinal === 1 ? 'First model' : (REASONS[Math.floor(next() * REASONS.length)] ?? ''),
        links: lines.map(({ item, quantity }) => ({
          item,
          quantity,
          // Mostly the newest there is, sometimes an older one: that is what being behind looks like.
          ordinal: Math.max(1, (versionCounts[item] ?? 1) - (next() < 0.15 ? 1 : 0)),
        })),
      });
    }
    versionCounts[index] = count;
    yield {
      index,
      number: `S${String(level)}-${String(index).padStart(6, '0')}`,
      name: `${WORDS[Math.floor(next() * WORDS.length)]} ${NOUNS[Math.floor(next() * NOUNS.length)]} ${1 + Math.floor(next() * 900)}`,
      kind: isAssembly ? 'assembly' : 'part',
      place: Math.floor(next() * PLACES),
      versions,
    };
  }
}

/** Index of the first item of each level. */
function levelStarts(items: number): number[] {
  const starts = [0];
  let sum = 0;
  for (const share of LEVELS) starts.push(Math.floor((sum += share) * items));
  return starts;
}

function levelOf(index: number, starts: readonly number[]): number {
  let level = 0;
  while (level + 1 < starts.length && index >= (starts[level + 1] ?? Infinity)) level++;
  return level;
}

interface Line {
  readonly item: number;
  readonly quantity: number;
}

function firstLines(
  index: number,
  level: number,
  { below, next, big }: { below: readonly number[]; next: () => number; big: number },
): Line[] {
  const limit = below[level] ?? index;
  const length = index === big ? BIG.fans : Math.max(2, Math.round(LINES * (0.4 + 1.2 * next())));
  const chosen = new Map<number, number>();
  while (chosen.size < Math.min(length, limit)) {
    const item = pickBelow(level, limit, below, next);
    chosen.set(item, 1 + Math.floor(next() * next() * 9));
  }
  return [...chosen].map(([item, quantity]) => ({ item, quantity }));
}

/** From the level right below half of the time, else anything below, the first ones far more often. */
function pickBelow(level: number, limit: number, below: readonly number[], next: () => number): number {
  const from = below[level - 1] ?? 0;
  if (next() < 0.35 && level > 1) return from + Math.floor(next() * (limit - from));
  // A power law: the first few parts are in most assemblies.
  const skew = next() ** 3.2;
  return Math.min(limit - 1, Math.floor(skew * (below[1] ?? limit)));
}

/** What another version changes: one line gone, one new, one quantity. */
function changed(lines: readonly Line[], limit: number, next: () => number): Line[] {
  const kept = lines.filter(() => next() > 0.06);
  const used = new Set(kept.map(({ item }) => item));
  const added = Math.floor(next() * limit);
  const out = kept.map((line) => (next() < 0.06 ? { ...line, quantity: line.quantity + 1 } : line));
  return used.has(added) || limit === 0 ? out : [...out, { item: added, quantity: 1 }];
}
