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
/**
 * The last items are large products for comparing and deriving: a line of stations that are mostly built of the same
 * modules, a variant of it, and one that shares nothing within itself. All have about so many rows on all levels.
 */
const LARGE = { products: 3, rows: 10_000, stations: 8, modules: 0.8 } as const;
/** Share of the assemblies that the first part starts in, as the washer does that is in everything. */
const WASHER = 0.85;

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
  /** Rows of each item's newest version, all levels, about: a line may have recorded an older one. */
  const rows = new Float64Array(items);
  const large = new LargeProducts(items, { below, rows, next });
  for (let index = 0; index < items; index++) {
    const level = levelOf(index, below);
    const isAssembly = level > 0;
    const count = 1 + Math.floor(next() * 5);
    const start = START_MS + Math.floor(next() * 3000) * DAY_MS;
    let lines = large.linesOf(index) ?? (isAssembly ? firstLines(index, { level, below, next }) : []);
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
    rows[index] = lines.reduce((sum, { item }) => sum + 1 + (rows[item] ?? 0), 0);
    yield {
      index,
      number: numberOf(index, level),
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

interface Below {
  readonly level: number;
  /** Index of the first item of each level. */
  readonly below: readonly number[];
  readonly next: () => number;
}

function firstLines(index: number, { level, below, next }: Below): Line[] {
  const limit = below[level] ?? index;
  const length = Math.max(2, Math.round(LINES * (0.4 + 1.2 * next())));
  const chosen = new Map<number, number>();
  if (next() < WASHER) chosen.set(0, 4);
  while (chosen.size < Math.min(length, limit))
    chosen.set(pickBelow(level, limit, below, next), 1 + Math.floor(next() * next() * 9));
  return [...chosen].map(([item, quantity]) => ({ item, quantity }));
}

/** Numbers of the large products of a store of so many items: a line, its variant, and one of ever different parts. */
export function largeProducts(items: number): { line: string; variant: string; wide: string } {
  const at = (back: number): string => numberOf(items - back, LEVELS.length);
  return { line: at(2), variant: at(1), wide: at(3) };
}

function numberOf(index: number, level: number): string {
  return `S${level}-${String(index).padStart(6, '0')}`;
}

/** Decides what the large products and their stations are made of; a small store has them in small. */
class LargeProducts {
  private readonly top = LEVELS.length;
  private readonly target: number;
  private modules: readonly number[] = [];
  private line: Line[] | undefined;

  constructor(
    private readonly items: number,
    private readonly plan: {
      readonly below: readonly number[];
      readonly rows: Float64Array;
      readonly next: () => number;
    },
  ) {
    this.target = Math.min(LARGE.rows, items / 10);
  }

  /** Lines of a large product or a station; undefined for any other item. */
  linesOf(index: number): Line[] | undefined {
    const { below, next } = this.plan;
    const [stationsEnd = 0, modulesEnd = 0] = [below[this.top], below[this.top - 1]];
    const isLarge = stationsEnd - modulesEnd > LARGE.stations && this.items - stationsEnd > LARGE.products;
    if (!isLarge) return undefined;
    if (index >= stationsEnd - LARGE.stations && index < stationsEnd) {
      if (this.modules.length === 0)
        this.modules = this.assemblies(this.top - 2, this.target / LARGE.stations / LARGE.modules);
      return this.modules.filter(() => next() < LARGE.modules).map((item) => ({ item, quantity: 1 }));
    }
    switch (this.items - index) {
      case 3:
        return this.assemblies(this.top - 1, this.target).map((item) => ({ item, quantity: 1 }));
      case 2:
        this.line = Array.from({ length: LARGE.stations }, (_, at) => ({
          item: stationsEnd - 1 - at,
          quantity: 1,
        }));
        return this.line;
      case 1:
        // Of the same stations, some in other versions.
        return this.line;
      default:
        return undefined;
    }
  }

  /** Assemblies of a level until they have so many rows together. */
  private assemblies(level: number, target: number): number[] {
    const { below, rows, next } = this.plan;
    const [from = 0, end = 0] = [below[level], below[level + 1]];
    const chosen = new Set<number>();
    for (let sum = 0; sum < target && chosen.size < end - from;) {
      const item = from + Math.floor(next() * (end - from));
      if (!chosen.has(item)) sum += 1 + (rows[item] ?? 0);
      chosen.add(item);
    }
    return [...chosen];
  }
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
