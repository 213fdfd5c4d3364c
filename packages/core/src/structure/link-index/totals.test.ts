/** The index must say what the trees of `explode` and `whereUsed` say, summed up, for any history and lens. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { randomHistory, type RandomHistory } from '../../testing/builders.js';
import { explode } from '../explode.js';
import type { StructureGraph, LinkEdge } from '../graph.js';
import { follow } from '../lens.js';
import type { Lens } from '../../model/lens.js';
import { NOT_RELEASED, type VersionNode } from '../../model/version.js';
import { topsOf, whereUsed } from '../where-used.js';
import { explodeTotals, topTotals, whereUsedSet, whereUsedTotals, type Totals } from './totals.js';
import { dagAbove, dagBelow, type LinkDag } from './dag.js';
import { LinkIndex } from './link-index.js';
import { nearestCommon, unusedWithout } from './sets.js';

/** Some versions of every item and none of some, by what graph and index call them. */
const FROZEN: ReadonlySet<string> = new Set(
  Array.from({ length: 40 }, (_, item) => item)
    .filter((item) => item % 4 !== 3)
    .flatMap((item) =>
      [1, 2, 3, 4].filter((ordinal) => (item + ordinal) % 3 !== 0).map((ordinal) => [item, ordinal]),
    )
    .flatMap(([item = 0, ordinal = 0]) => [`i${item}.${ordinal}`, String(item * 1000 + ordinal)]),
);

const LENSES: readonly Lens[] = [
  { kind: 'recorded' },
  { kind: 'newest' },
  { kind: 'released' },
  { kind: 'date', atMs: 9000 },
  { kind: 'recorded', configuration: 'hot' },
  { kind: 'newest', configuration: 'cold' },
  { kind: 'date', atMs: 12_000, configuration: 'hot' },
  { kind: 'baseline', id: '1', versions: FROZEN },
  { kind: 'baseline', id: '1', versions: FROZEN, configuration: 'hot' },
  { kind: 'effective', at: { kind: 'day', day: '2026-01-02' }, untilMs: 20_000 },
  { kind: 'effective', at: { kind: 'day', day: '2026-01-03' }, untilMs: 12_000, configuration: 'hot' },
  { kind: 'effective', at: { kind: 'serial', product: 'P-1', serial: 2 }, untilMs: 1e9 },
];

const itemNumber = (id: string): number => Number(id.slice(1));
const versionNumber = (id: string): number => {
  const [item = '', ordinal = ''] = id.slice(1).split('.');
  return Number(item) * 1000 + Number(ordinal);
};

/** Versions with their links in the order in which they came in. */
function fill(index: LinkIndex, versions: readonly VersionNode[], links: readonly LinkEdge[]): void {
  let id = index.size.links;
  for (const version of versions) {
    index.addVersion({
      id: versionNumber(version.id),
      item: itemNumber(version.itemId),
      createdAtMs: version.createdAtMs,
      releasedAtMs: version.releasedAtMs,
      ...(version.effectivity ? { effectivity: version.effectivity } : {}),
    });
    for (const link of links.filter(({ parentVersion }) => parentVersion === version.id))
      index.addLink({
        id: ++id,
        parent: versionNumber(version.id),
        targetItem: link.targetItem === undefined ? -1 : itemNumber(link.targetItem),
        targetVersion: link.targetVersion === undefined ? -1 : versionNumber(link.targetVersion),
        quantity: link.quantity,
        ...(link.effectivity ? { effectivity: link.effectivity } : {}),
        carried: link.carried,
        configurations: link.configurations ?? [],
      });
  }
}

function indexOf({ versions, links }: RandomHistory, mergeAfter = 0): LinkIndex {
  const index = new LinkIndex({ items: 4, versions: 4, links: 4 });
  fill(index, versions.slice(0, mergeAfter), links);
  if (mergeAfter > 0) index.merge();
  fill(index, versions.slice(mergeAfter), links);
  return index;
}

/** By version: shortest way, quantity over all ways, whether nothing lies beyond. */
type Summary = Record<string, [level: number, total: number, isEnd: boolean]>;

function summaryOf({ versions, levels, totals, isEnd }: Totals): Summary {
  return Object.fromEntries(
    [...versions].map((version, at) => [version, [levels[at] ?? 0, totals[at] ?? 0, isEnd[at] === 1]]),
  );
}

function summed(rows: readonly { id: string; level: number; total: number; isEnd: boolean }[]): Summary {
  const out: Summary = {};
  for (const { id, level, total, isEnd } of rows) {
    const key = String(versionNumber(id));
    const known = out[key];
    out[key] = [Math.min(level, known?.[0] ?? Infinity), total + (known?.[1] ?? 0), isEnd];
  }
  return out;
}

describe('the link index', () => {
  it.each(LENSES)('says what the trees say, under %j', (lens) => {
    fc.assert(
      fc.property(randomHistory, fc.nat(18), (history, mergeAfter) => {
        const index = indexOf(history, mergeAfter);
        for (const item of history.items) {
          const rows = whereUsed(history.graph, item, { lens });
          expect(summaryOf(whereUsedTotals(index, itemNumber(item), lens))).toEqual(
            summed(
              rows.map(({ version, level, total, top }) => ({ id: version.id, level, total, isEnd: top })),
            ),
          );
          // Without quantities it is the same set, as far away.
          const { versions, levels } = whereUsedTotals(index, itemNumber(item), lens);
          const set = whereUsedSet(index, itemNumber(item), lens);
          expect(new Map([...set.versions].map((version, at) => [version, set.levels[at]]))).toEqual(
            new Map([...versions].map((version, at) => [version, levels[at]])),
          );
          const tops = topsOf(rows);
          expect(summaryOf(topTotals(index, itemNumber(item), lens))).toEqual(
            summed(
              tops.map(({ row, total }) => ({
                id: row.version.id,
                level: Math.min(
                  ...rows.flatMap((each) => (each.version.id === row.version.id ? [each.level] : [])),
                ),
                total,
                isEnd: true,
              })),
            ),
          );
        }
        for (const { id } of history.versions) {
          const rows = explode(history.graph, id, { lens }).flatMap(({ version, level, total }) =>
            version
              ? [{ id: version.id, level, total, isEnd: hasNothingBelow(history.graph, version.id, lens) }]
              : [],
          );
          expect(summaryOf(explodeTotals(index, versionNumber(id), lens))).toEqual(summed(rows));
        }
      }),
      { numRuns: 150 },
    );
  });

  it('gives graphs that sum up to the totals', () => {
    fc.assert(
      fc.property(randomHistory, fc.constantFrom(...LENSES), (history, lens) => {
        const index = indexOf(history);
        for (const { id, itemId } of history.versions) {
          const down = explodeTotals(index, versionNumber(id), lens);
          expect(summedUp(dagBelow(index, versionNumber(id), lens), 'down')).toEqual(byVersion(down));
          const up = whereUsedTotals(index, itemNumber(itemId), lens);
          expect(summedUp(dagAbove(index, versionNumber(id), lens), 'up')).toEqual(byVersion(up));
        }
      }),
    );
  });

  it('finds the nearest that hold all of some items', () => {
    fc.assert(
      fc.property(randomHistory, fc.constantFrom(...LENSES), (history, lens) => {
        const index = indexOf(history);
        const [first, second] = history.items;
        if (first === undefined || second === undefined) return;
        const usersOf = (item: string): Set<string> =>
          new Set(whereUsed(history.graph, item, { lens }).map(({ version }) => version.id));
        const [one, other] = [usersOf(first), usersOf(second)];
        const common = [...one].filter((id) => other.has(id));
        const nearest = common.filter((id) =>
          explode(history.graph, id, { lens, levels: 1 }).every(
            ({ version }) => version === undefined || !common.includes(version.id),
          ),
        );
        const found = nearestCommon(index, [itemNumber(first), itemNumber(second)], lens);
        expect([...found].sort()).toEqual(nearest.map(versionNumber).sort());
      }),
    );
  });

  it('finds what would be unused without an item', () => {
    fc.assert(
      fc.property(randomHistory, fc.constantFrom(...LENSES), (history, lens) => {
        const index = indexOf(history);
        for (const { id } of history.versions) {
          const gone = new Set([id]);
          const below = new Set(
            explode(history.graph, id, { lens }).flatMap(({ version }) => version?.id ?? []),
          );
          // The simple way: again and again, until nothing more goes.
          for (let size = -1; size !== gone.size;) {
            size = gone.size;
            for (const part of below) {
              const users = whereUsed(history.graph, part.split('.')[0] ?? '', { lens, levels: 1 })
                .filter(({ link }) => follow(history.graph, link, lens)?.id === part)
                .map(({ version }) => version.id);
              if (users.every((user) => gone.has(user))) gone.add(part);
            }
          }
          gone.delete(id);
          expect([...unusedWithout(index, versionNumber(id), lens)].sort()).toEqual(
            [...gone].map(versionNumber).sort(),
          );
        }
      }),
    );
  });

  it('answers so many levels, and says whether there is more', () => {
    fc.assert(
      fc.property(randomHistory, fc.integer({ min: 1, max: 3 }), (history, levels) => {
        const index = indexOf(history);
        const lens: Lens = { kind: 'newest' };
        for (const item of history.items) {
          const all = summaryOf(whereUsedTotals(index, itemNumber(item), lens));
          const some = summaryOf(whereUsedTotals(index, itemNumber(item), lens, levels));
          expect(Object.keys(some).sort()).toEqual(
            Object.keys(all)
              .filter((key) => (all[key]?.[0] ?? 0) <= levels)
              .sort(),
          );
          for (const [key, [level, , isEnd]] of Object.entries(some)) {
            expect(level).toBe(all[key]?.[0]);
            expect(isEnd).toBe(all[key]?.[2]);
          }
        }
      }),
    );
  });

  it('follows releases and filled gaps', () => {
    const index = new LinkIndex({ items: 1, versions: 1, links: 1 });
    const version = (id: number, item: number): void =>
      index.addVersion({ id, item, createdAtMs: id, releasedAtMs: NOT_RELEASED });
    version(10, 1);
    index.addLink({ id: 1, parent: 10, targetItem: -1, targetVersion: -1, quantity: 3, carried: false });
    version(20, 2);
    expect(whereUsedTotals(index, 2, { kind: 'newest' }).versions).toHaveLength(0);
    index.fillGap(1, 2, 20);
    expect([...whereUsedTotals(index, 2, { kind: 'recorded' }).totals]).toEqual([3]);
    expect(whereUsedTotals(index, 2, { kind: 'released' }).versions).toHaveLength(0);
    index.setReleased(10, { releasedAtMs: 7 });
    expect([...whereUsedTotals(index, 2, { kind: 'released' }).versions]).toEqual([10]);
  });

  it('follows what an order says of versions later', () => {
    const index = new LinkIndex({ items: 1, versions: 1, links: 1 });
    index.addVersion({ id: 1, item: 1, createdAtMs: 0, releasedAtMs: 0 });
    for (const id of [2, 3]) index.addVersion({ id, item: 2, createdAtMs: id, releasedAtMs: 0 });
    index.addLink({ id: 1, parent: 1, targetItem: 2, targetVersion: 2, quantity: 1, carried: false });
    const below = (day: string): number[] => [
      ...explodeTotals(index, 1, { kind: 'effective', at: { kind: 'day', day }, untilMs: 1 }).versions,
    ];
    expect(below('2026-03-01')).toEqual([3]);
    index.setReleased(3, { releasedAtMs: 0, effectivity: { planned: { days: { from: '2026-03-02' } } } });
    expect([below('2026-03-01'), below('2026-03-02')]).toEqual([[2], [3]]);
    index.setReleased(3, { releasedAtMs: 0 });
    expect(below('2026-03-01')).toEqual([3]);
  });

  it('follows what is said of uses later', () => {
    const index = new LinkIndex({ items: 1, versions: 1, links: 1 });
    for (const id of [1, 2, 3]) index.addVersion({ id, item: id, createdAtMs: 0, releasedAtMs: 0 });
    for (const target of [2, 3])
      index.addLink({
        ...{ id: target, parent: 1, targetItem: target, targetVersion: target, quantity: 1, carried: false },
        ...(target === 3 ? { configurations: ['hot'] } : {}),
      });
    const below = (configuration?: string): number[] => [
      ...explodeTotals(index, 1, {
        ...{ kind: 'effective', at: { kind: 'day', day: '2026-03-01' }, untilMs: 1 },
        ...(configuration === undefined ? {} : { configuration }),
      }).versions,
    ];
    index.setEffectivities(1, [{ planned: { days: { from: '2026-03-02' } } }, undefined]);
    expect([below(), below('cold')]).toEqual([[3], []]);
    index.setEffectivities(1, [undefined, { planned: { days: { to: '2026-02-02' } } }]);
    expect([below(), below('hot')]).toEqual([[2], [2]]);
    index.setEffectivities(1, [undefined, undefined]);
    expect([below(), below('cold')]).toEqual([[2, 3], [2]]);
  });

  it('leaves out the edge that closes a circle, and ends', () => {
    const index = new LinkIndex({ items: 2, versions: 2, links: 2 });
    for (const id of [1, 2]) index.addVersion({ id, item: id, createdAtMs: 0, releasedAtMs: NOT_RELEASED });
    for (const [id, parent, target] of [
      [1, 1, 2],
      [2, 2, 1],
    ] as const)
      index.addLink({ id, parent, targetItem: target, targetVersion: target, quantity: 1, carried: false });
    expect(whereUsedTotals(index, 1, { kind: 'newest' }).versions).toHaveLength(2);
  });

  it('refuses links that come out of order', () => {
    const index = new LinkIndex({ items: 2, versions: 2, links: 2 });
    const link = (id: number, parent: number): void =>
      index.addLink({ id, parent, targetItem: 1, targetVersion: 1, quantity: 1, carried: false });
    expect(() => link(1, 5)).toThrow(/not known/);
    for (const id of [1, 2, 3])
      index.addVersion({ id, item: id, createdAtMs: 0, releasedAtMs: NOT_RELEASED });
    link(1, 2);
    link(2, 3);
    expect(() => link(3, 2)).toThrow(/do not come together/);
  });
});

function byVersion({ versions, levels, totals }: Totals): Record<string, [level: number, total: number]> {
  return Object.fromEntries(
    [...versions].map((version, at) => [version, [levels[at] ?? 0, totals[at] ?? 0]]),
  );
}

/** Quantities along all ways from the first version, by walking every one of them. */
function summedUp(
  { versions, levels, from, to, quantities }: LinkDag,
  way: 'down' | 'up',
): ReturnType<typeof byVersion> {
  const totals = new Map<number, number>();
  const walk = (slot: number, quantity: number): void => {
    for (const [at, parent] of from.entries()) {
      const [here, next] = way === 'down' ? [parent, to[at] ?? -1] : [to[at] ?? -1, parent];
      if (here !== slot || next < 0) continue;
      const total = quantity * (quantities[at] ?? 0);
      totals.set(next, (totals.get(next) ?? 0) + total);
      walk(next, total);
    }
  };
  walk(0, 1);
  return Object.fromEntries(
    [...totals].map(([slot, total]) => [versions[slot] ?? -1, [levels[slot] ?? 0, total]]),
  );
}

function hasNothingBelow(graph: StructureGraph, versionId: string, lens: Lens): boolean {
  return explode(graph, versionId, { lens, levels: 1 }).every(({ version }) => version === undefined);
}
