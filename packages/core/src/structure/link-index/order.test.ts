import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NOT_RELEASED } from '../../model/version.js';
import { LinkIndex } from './link-index.js';
import { ItemOrder, usedPage, type PageAsk } from './order.js';
import { whereUsedTotals } from './totals.js';

const NEWEST = { kind: 'newest' } as const;

interface Made {
  readonly index: LinkIndex;
  readonly order: ItemOrder;
  readonly keyOf: (version: number) => string;
  readonly placeOf: (version: number) => number;
}

/** One part, item 1, and assemblies of one or two versions that use it, in no order. */
const assemblies = fc.array(
  fc.record({
    key: fc.string({ unit: fc.constantFrom('a', 'b', 'B', '1', 'é', '部'), maxLength: 4 }),
    place: fc.integer({ min: 1, max: 3 }),
    versions: fc.integer({ min: 1, max: 2 }),
    quantities: fc.array(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 3 }),
  }),
  { maxLength: 14 },
);
type Assemblies = typeof assemblies extends fc.Arbitrary<infer A> ? A : never;

function make(parts: Assemblies): Made {
  const index = new LinkIndex({ items: 4, versions: 4, links: 4 });
  const order = new ItemOrder();
  const about = new Map<number, { key: string; place: number }>();
  let id = 0;
  const add = (item: number): number => {
    index.addVersion({ id: ++id, item, createdAtMs: id, releasedAtMs: NOT_RELEASED });
    return id;
  };
  const part = add(1);
  order.set(index.item(1), 'part', 1);
  let link = 0;
  for (const [at, { key, place, versions, quantities }] of parts.entries()) {
    const item = 10 + at;
    for (let each = 0; each < versions; each++) {
      const version = add(item);
      about.set(version, { key, place });
      for (const quantity of quantities)
        index.addLink({
          id: ++link,
          parent: version,
          targetItem: 1,
          targetVersion: part,
          quantity,
          carried: false,
        });
    }
    order.set(index.item(item), key, place);
  }
  index.merge();
  return {
    index,
    order,
    keyOf: (version) => about.get(version)?.key ?? '',
    placeOf: (version) => about.get(version)?.place ?? 0,
  };
}

const ask = (page: Partial<PageAsk>): { of: number; lens: typeof NEWEST; page: PageAsk } => ({
  of: 1,
  lens: NEWEST,
  page: { tops: false, hiddenPlaces: [], limit: Infinity, offset: 0, ...page },
});

describe('a page of what uses an item', () => {
  it('is a piece of all of it in order, whatever the size of pages', () => {
    fc.assert(
      fc.property(assemblies, fc.integer({ min: 1, max: 5 }), fc.boolean(), (parts, limit, tops) => {
        const { index, order, keyOf } = make(parts);
        const paged: number[] = [];
        for (let offset = 0; offset <= parts.length; offset += limit) {
          const page = usedPage(index, order, ask({ limit, offset, tops }));
          expect(page.counts[0]).toBe(parts.length);
          paged.push(...page.versions);
        }
        const all = whereUsedTotals(index, 1, NEWEST);
        expect([...paged].sort((a, b) => a - b)).toEqual([...all.versions].sort((a, b) => a - b));
        const keys = paged.map(keyOf);
        expect(keys).toEqual([...keys].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0)));
      }),
    );
  });

  it('has the quantities of the whole, and leaves out hidden places, counted', () => {
    fc.assert(
      fc.property(assemblies, (parts) => {
        const { index, order, placeOf } = make(parts);
        const all = whereUsedTotals(index, 1, NEWEST);
        const totals = new Map([...all.versions].map((version, at) => [version, all.totals[at]]));
        const page = usedPage(index, order, ask({ hiddenPlaces: [2] }));
        const hidden = parts.filter(({ place }) => place === 2).length;
        expect([...page.counts]).toEqual([parts.length - hidden, hidden]);
        for (const [at, version] of page.versions.entries()) {
          expect(placeOf(version)).not.toBe(2);
          expect(page.totals[at]).toBe(totals.get(version));
          expect(page.isEnd[at]).toBe(1);
        }
      }),
    );
  });

  it('follows an item that gets another number or place', () => {
    const { index, order } = make(
      ['c', 'a', 'b'].map((key) => ({ key, place: 1, versions: 1, quantities: [1] })),
    );
    const shown = (page: Partial<PageAsk> = {}): number[] => [...usedPage(index, order, ask(page)).versions];
    expect(shown()).toEqual([3, 4, 2]);
    order.set(index.item(10), '0', 1);
    expect(shown()).toEqual([2, 3, 4]);
    order.set(index.item(11), 'a', 3);
    expect(shown({ hiddenPlaces: [3] })).toEqual([2, 4]);
  });

  it('of an item that nobody knows is empty', () => {
    const { index, order } = make([]);
    expect([...usedPage(index, order, { ...ask({}), of: 99 }).versions]).toEqual([]);
  });
});
