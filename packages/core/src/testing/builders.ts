/** Small builders for tests: readings of files, and random histories of a store. */
import fc from 'fast-check';
import { stemOf } from '../intake/locate.js';
import type { FileReading, ItemKind, ProductReading } from '../model/reading.js';
import { IDENTITY_PLACEMENT } from '../model/link.js';
import type { IntakeFile, IntakeStore, KnownItem } from '../intake/plan-types.js';
import { nameFold } from '../names/portable.js';
import { numberKey } from '../numbering/number.js';
import { StructureGraph, type LinkEdge } from '../structure/graph.js';
import type { Effectivity, Spans } from '../model/effectivity.js';
import type { Lens } from '../model/lens.js';
import { NOT_RELEASED, type VersionNode } from '../model/version.js';

/** A product as `id`, or as `id -> locator` where another file defines it. */
export function product(text: string, ref: number, kind: 'assembly' | 'part' = 'part'): ProductReading {
  const [id = '', locator] = text.split(' -> ');
  return {
    ref,
    id,
    name: id,
    description: '',
    versionText: '',
    kind,
    source: 'unknown',
    properties: [],
    ...(locator === undefined ? {} : { locator }),
  };
}

/** A file with products as for `product` and uses as `parent>child`, by index; the first product is the root. */
export function file(
  path: string,
  products: readonly string[],
  uses: readonly string[] = [],
  sha256 = path,
): IntakeFile {
  const parsed = uses.map((use) => use.split('>').map(Number));
  const parents = new Set(parsed.map(([parent]) => parent));
  const reading: FileReading = {
    format: 'step',
    schema: '',
    root: 0,
    products: products.map((text, index) =>
      product(text, index + 1, parents.has(index) ? 'assembly' : 'part'),
    ),
    uses: parsed.map(([parent = 0, child = 0], index) => ({
      parent,
      child,
      name: `use ${index}`,
      placement: IDENTITY_PLACEMENT,
    })),
  };
  return { path, sha256, reading };
}

/** A drawing with the number and the model that its title block names. */
export function drawing(path: string, number = '', shown = ''): IntakeFile {
  const fields = [
    { ref: 10, tag: 'DRAWING_NUMBER', text: number },
    { ref: 20, tag: 'PART_NUMBER', text: shown },
  ];
  return whole(path, 'drawing', { format: 'dxf', titleBlock: fields.filter(({ text }) => text !== '') });
}

export function document(path: string): IntakeFile {
  return whole(path, 'document', { format: 'pdf' });
}

function whole(path: string, kind: ItemKind, about: Pick<FileReading, 'format' | 'titleBlock'>): IntakeFile {
  const root: ProductReading = { ...product('', 0), kind };
  return { path, sha256: path, reading: { schema: '', root: 0, products: [root], uses: [], ...about } };
}

/** An item of a store for planning, by what differs from a plain part that lies at the root. */
export interface StoredItem {
  readonly number: string;
  readonly kind?: ItemKind;
  readonly fileName?: string;
  readonly formerFileNames?: readonly string[];
  readonly place?: string;
  readonly sha256?: string;
  readonly state?: string;
  readonly idInFile?: string;
  /** Number of the item in whose file it lives. */
  readonly carrier?: string;
  /** What its newest version refers to: number by locator, with the version seen where that is not A/1. */
  readonly links?: Readonly<Record<string, string>>;
}

export function store(items: readonly StoredItem[] = []): IntakeStore {
  const known = items.map((item): KnownItem => {
    const { number, kind = 'part', place = '/', sha256 = '', state = 'draft', carrier } = item;
    return {
      id: `id of ${number}`,
      number,
      name: number,
      kind,
      fileName: item.fileName ?? `${number}.stp`,
      formerFileNames: item.formerFileNames ?? [],
      place,
      isVisible: true,
      state,
      newest: { id: `${number}@A/1`, label: 'A/1', sha256, idInFile: item.idInFile ?? number },
      ...(carrier === undefined ? {} : { carrier: `id of ${carrier}` }),
    };
  });
  const byNumber = (number: string): KnownItem | undefined =>
    known.find((item) => numberKey(item.number) === numberKey(number));
  const only = (found: readonly KnownItem[]): KnownItem | undefined =>
    found.length === 1 ? found[0] : undefined;
  const pathOf = ({ place, fileName }: KnownItem): string => `${place === '/' ? '' : place}/${fileName}`;
  return {
    byNumber,
    byPath: (path, spelling) =>
      only(
        known.filter((item) =>
          spelling === 'exact' ? pathOf(item) === path : nameFold(pathOf(item)) === nameFold(path),
        ),
      ),
    byStem: (place, stem) =>
      known.find(
        (item) => item.place === place && stemOf(item.fileName).toLowerCase() === stem.toLowerCase(),
      ),
    linksOf: (itemId) =>
      Object.entries(items.find(({ number }) => `id of ${number}` === itemId)?.links ?? {}).flatMap(
        ([locator, said]) => {
          const [number = '', version = 'A/1'] = said.split('@');
          const target = byNumber(number);
          return target ? [{ locator, target, versionId: `${number}@${version}` }] : [];
        },
      ),
    versionOf: (itemId, label) => `${itemId.slice('id of '.length)}@${label}`,
  };
}

const DAYS = ['2026-01-01', '2026-01-02', '2026-01-03', '2026-01-04'] as const;
const PRODUCTS = ['P-1', 'P-2'] as const;

function spanOf<B>(bound: fc.Arbitrary<B>): fc.Arbitrary<{ from?: B; to?: B }> {
  return fc.record({ from: bound, to: bound }, { requiredKeys: [] });
}

const spans: fc.Arbitrary<Spans> = fc.record(
  {
    days: spanOf(fc.constantFrom(...DAYS)),
    serials: fc
      .subarray([...PRODUCTS])
      .chain((products) =>
        fc.tuple(...products.map((product) => spanOf(fc.nat(3)).map((span) => ({ product, ...span })))),
      ),
  },
  { requiredKeys: [] },
);

/** Limits of days and of serial numbers, planned and known; some hold for nothing. */
export const effectivity: fc.Arbitrary<Effectivity> = fc.record(
  { planned: spans, actual: spans },
  { requiredKeys: [] },
);

/** What is in effect on one of those days, or in one of those pieces. */
export const effectiveLens: fc.Arbitrary<Lens> = fc.oneof(
  fc.record({
    kind: fc.constant('effective' as const),
    at: fc.record({ kind: fc.constant('day' as const), day: fc.constantFrom(...DAYS) }),
    untilMs: fc.nat(25_000),
  }),
  fc.record({
    kind: fc.constant('effective' as const),
    at: fc.record({
      kind: fc.constant('serial' as const),
      product: fc.constantFrom(...PRODUCTS),
      serial: fc.nat(3),
    }),
    untilMs: fc.nat(25_000),
  }),
);

/** A history as links between versions `item.ordinal`; items may only use items with a lower name. */
export interface RandomHistory {
  readonly graph: StructureGraph;
  readonly versions: readonly VersionNode[];
  readonly links: readonly LinkEdge[];
  readonly items: readonly string[];
}

/**
 * Random histories of a few items: check-ins happen one after another, each linking to what there is by then, so
 * that recorded versions may be behind, items may have been dropped, and some are released. Links may belong to some
 * configurations only, two may lead to the same item, and some items live in the file of their user: those get a version
 * with it.
 */
export const randomHistory: fc.Arbitrary<RandomHistory> = fc
  .array(
    fc.record({
      item: fc.nat(6),
      // How long after the check-in.
      released: fc.option(fc.nat(9), { nil: undefined }),
      counts: fc.option(effectivity, { nil: undefined, freq: 1 }),
      uses: fc.array(
        fc.record({
          item: fc.nat(6),
          quantity: fc.integer({ min: 1, max: 4 }),
          old: fc.nat(2),
          carried: fc.nat(5).map((at) => at === 0),
          configurations: fc.oneof({ weight: 2, arbitrary: fc.constant([]) }, fc.subarray(['hot', 'cold'])),
          effectivity: fc.option(effectivity, { nil: undefined, freq: 1 }),
        }),
        { maxLength: 4 },
      ),
    }),
    { minLength: 1, maxLength: 18 },
  )
  .map((checkIns) => {
    const versions: VersionNode[] = [];
    const links: LinkEdge[] = [];
    const byItem = new Map<number, VersionNode[]>();
    const addVersion = (
      item: number,
      createdAtMs: number,
      {
        released: releasedAfter,
        counts,
      }: { readonly released?: number | undefined; readonly counts?: Effectivity | undefined } = {},
    ): VersionNode => {
      const own = byItem.get(item) ?? [];
      const ordinal = own.length + 1;
      const releasedAtMs = releasedAfter === undefined ? NOT_RELEASED : createdAtMs + 1000 * releasedAfter;
      const version = {
        ...{ id: `i${item}.${ordinal}`, itemId: `i${item}`, ordinal, createdAtMs, releasedAtMs },
        ...(counts ? { effectivity: counts } : {}),
      };
      byItem.set(item, [...own, version]);
      versions.push(version);
      return version;
    };
    checkIns.forEach(({ item, released, counts, uses }, at) => {
      const inFile = new Set(uses.flatMap((use) => (use.carried && use.item < item ? [use.item] : [])));
      for (const carried of inFile) addVersion(carried, at * 1000);
      const version = addVersion(item, at * 1000, { released, counts });
      for (const [position, use] of uses.entries()) {
        const targets = use.item < item ? byItem.get(use.item) : undefined;
        if (!targets) continue;
        const carried = inFile.has(use.item);
        const recorded = carried ? targets.at(-1) : targets[Math.max(0, targets.length - 1 - use.old)];
        links.push({
          id: `${version.id}>${position}`,
          parentVersion: version.id,
          targetItem: `i${use.item}`,
          ...(recorded ? { targetVersion: recorded.id } : {}),
          quantity: use.quantity,
          carried,
          configurations: use.configurations,
          ...(use.effectivity ? { effectivity: use.effectivity } : {}),
          targetText: `i${use.item}`,
          occurrences: [],
        });
      }
    });
    return {
      graph: new StructureGraph(versions, links),
      versions,
      links,
      items: [...byItem.keys()].map((item) => `i${item}`),
    };
  });
