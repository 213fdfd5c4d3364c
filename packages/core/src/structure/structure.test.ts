import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { effectiveLens, randomHistory } from '../testing/builders.js';
import { StructureTooLarge } from './errors.js';
import { explode } from './explode.js';
import { StructureGraph, type LinkEdge } from './graph.js';
import { NOT_RELEASED, type VersionNode } from '../model/version.js';
import { behindBy, follow, pickVersion } from './lens.js';
import { isIn, type Lens } from '../model/lens.js';
import { topsOf, whereUsed } from './where-used.js';

const lens: fc.Arbitrary<Lens> = fc.oneof(
  fc.constantFrom<Lens>({ kind: 'recorded' }, { kind: 'newest' }, { kind: 'released' }),
  fc.nat(18).map((seconds): Lens => ({ kind: 'date', atMs: seconds * 1000 })),
  effectiveLens,
);

const version = (id: string, ordinal = 1, released = false): VersionNode => ({
  id,
  itemId: id.split('.')[0] ?? '',
  ordinal,
  createdAtMs: ordinal,
  releasedAtMs: released ? ordinal : NOT_RELEASED,
});
const link = (parent: string, child: string, quantity: number, carried = false): LinkEdge => ({
  id: `${parent}>${child}`,
  parentVersion: parent,
  targetItem: child.split('.')[0] ?? '',
  targetVersion: child,
  quantity,
  carried,
  targetText: child,
  occurrences: [],
});

/**
 * Every chain from a root version down to an item, with its quantity, by brute force. An item that a lens has no
 * version of is still named as used; the chain just ends there.
 */
function chainsDown(
  graph: StructureGraph,
  from: VersionNode,
  chosen: Lens,
  quantity = 1,
): { path: string; total: number }[] {
  return graph
    .linksOf(from.id)
    .filter((edge) => isIn(edge, chosen))
    .flatMap((edge) => {
      const child = follow(graph, edge, chosen);
      const total = quantity * edge.quantity;
      if (!child) return [{ path: `${from.itemId}>${edge.targetItem}`, total }];
      return [
        { path: `${from.itemId}>${child.itemId}`, total },
        ...chainsDown(graph, child, chosen, total).map((rest) => ({
          path: `${from.itemId}>${rest.path}`,
          total: rest.total,
        })),
      ];
    });
}

describe('a graph', () => {
  it('filled bit by bit, in any order and with repeats, is the one that is filled at once', () => {
    fc.assert(
      fc.property(randomHistory, fc.nat(), ({ graph, versions, links, items }, seed) => {
        const filled = new StructureGraph([], []);
        for (let step = 0; step < versions.length; step++) {
          const version = versions[(step * 7 + seed) % versions.length];
          filled.add(version ? [version] : [], links.slice(step, step + 2));
        }
        filled.add(versions, links);
        for (const item of items) expect(filled.versionsOf(item)).toEqual(graph.versionsOf(item));
        for (const { id } of versions)
          expect(new Set(filled.linksOf(id))).toEqual(new Set(graph.linksOf(id)));
      }),
    );
  });
});

describe('explode', () => {
  it('multiplies quantities down the tree', () => {
    const graph = new StructureGraph(
      ['a.1', 'b.1', 'c.1', 'd.1'].map((id) => version(id)),
      [link('a.1', 'b.1', 2), link('a.1', 'd.1', 1), link('b.1', 'c.1', 3), link('c.1', 'd.1', 4)],
    );
    const rows = explode(graph, 'a.1', { lens: { kind: 'recorded' } });
    expect(rows.map((row) => [row.level, row.version?.itemId, row.quantity, row.total])).toEqual([
      [1, 'b', 2, 2],
      [2, 'c', 3, 6],
      [3, 'd', 4, 24],
      [1, 'd', 1, 1],
    ]);
    expect(explode(graph, 'a.1', { lens: { kind: 'recorded' }, levels: 1 })).toHaveLength(2);
  });

  it('refuses a tree beyond the limit instead of answering in part', () => {
    const names = Array.from({ length: 20 }, (_, index) => `n${index}`);
    const links = names
      .slice(1)
      .flatMap((name, index) => [
        link(`${names[index]}.1`, `${name}.1`, 1),
        { ...link(`${names[index]}.1`, `${name}.1`, 1), id: `second ${name}` },
      ]);
    const graph = new StructureGraph(
      names.map((name) => version(`${name}.1`)),
      links,
    );
    expect(() => explode(graph, 'n0.1', { lens: { kind: 'newest' }, maxRows: 10_000 })).toThrow(
      StructureTooLarge,
    );
  });

  it('does not open an item inside itself', () => {
    const graph = new StructureGraph(
      [version('a.1'), version('b.1')],
      [link('a.1', 'b.1', 1), link('b.1', 'a.1', 1)],
    );
    expect(explode(graph, 'a.1', { lens: { kind: 'newest' } })).toHaveLength(2);
    expect(whereUsed(graph, 'a', { lens: { kind: 'newest' } })).toHaveLength(2);
  });

  it('agrees with walking every chain by hand', () => {
    fc.assert(
      fc.property(randomHistory, lens, ({ graph, items }, chosen) => {
        for (const item of items) {
          const root = pickVersion(graph, item, chosen);
          if (!root) continue;
          const rows = explode(graph, root.id, { lens: chosen });
          const path = (index: number): string => {
            const row = rows[index];
            return row ? `${row.parentRow < 0 ? item : path(row.parentRow)}>${row.link.targetItem}` : '';
          };
          const exploded = rows.map((row, index) => ({ path: path(index), total: row.total }));
          expect(exploded).toEqual(chainsDown(graph, root, chosen));
        }
      }),
    );
  });
});

describe('lenses', () => {
  const graph = new StructureGraph(
    [version('a.1', 1), version('b.1', 1, true), version('b.2', 2, true), version('b.3', 3)],
    [link('a.1', 'b.1', 1)],
  );
  const edge = graph.linksOf('a.1')[0];
  it.each<[Lens, string | undefined]>([
    [{ kind: 'recorded' }, 'b.1'],
    [{ kind: 'newest' }, 'b.3'],
    [{ kind: 'released' }, 'b.2'],
    [{ kind: 'date', atMs: 1 }, 'b.1'],
    [{ kind: 'date', atMs: 0 }, undefined],
    [{ kind: 'baseline', id: '1', versions: new Set(['a.1', 'b.2']) }, 'b.2'],
    [{ kind: 'baseline', id: '2', versions: new Set(['a.1']) }, undefined],
  ])('%j follows to %s', (chosen, expected) => {
    expect(edge && follow(graph, edge, chosen)?.id).toBe(expected);
  });

  it('say by how much a link is behind, and never of what lives in the same file', () => {
    expect(edge && behindBy(graph, edge)).toBe(2);
    expect(edge && behindBy(graph, { ...edge, carried: true })).toBe(0);
    expect(edge && follow(graph, { ...edge, carried: true }, { kind: 'newest' })?.id).toBe('b.1');
  });
});

describe('where-used', () => {
  it('is the inverse of explode, under every lens', () => {
    fc.assert(
      fc.property(randomHistory, lens, ({ graph, items }, chosen) => {
        for (const item of items) {
          const upwards = whereUsed(graph, item, { lens: chosen });
          const path = (index: number): string => {
            const row = upwards[index];
            return row ? `${row.version.itemId}>${row.childRow < 0 ? item : path(row.childRow)}` : '';
          };
          const fromTops = upwards.flatMap((row, index) =>
            row.top ? [`${row.version.id}: ${path(index)} ×${row.total}`] : [],
          );
          // All products that nothing uses, in the version that the lens shows them in.
          const roots = items
            .flatMap((candidate) => pickVersion(graph, candidate, chosen) ?? [])
            .filter(
              (root) =>
                chosen.kind === 'recorded' ||
                // A file that carries another version of it is no user of this one.
                whereUsed(graph, root.itemId, { lens: chosen, levels: 1 }).every(
                  ({ link: use }) => use.carried && use.targetVersion !== root.id,
                ),
            );
          const downwards = roots.flatMap((root) =>
            chainsDown(graph, root, chosen)
              .filter(({ path: chain }) => chain.endsWith(`>${item}`))
              .map(({ path: chain, total }) => `${root.id}: ${chain} ×${total}`),
          );
          for (const chain of fromTops) expect(downwards).toContain(chain);
          if (chosen.kind !== 'recorded') expect([...fromTops].sort()).toEqual([...downwards].sort());
        }
      }),
    );
  });

  it('under As recorded counts an old version only while something live records it', () => {
    const versions = [version('top.1'), version('mid.1'), version('mid.2', 2), version('part.1')];
    const uses = [link('mid.1', 'part.1', 2)];
    const unused = new StructureGraph(versions, uses);
    expect(whereUsed(unused, 'part', { lens: { kind: 'recorded' } })).toEqual([]);
    const recorded = new StructureGraph(versions, [...uses, link('top.1', 'mid.1', 3)]);
    expect(
      whereUsed(recorded, 'part', { lens: { kind: 'recorded' } }).map((row) => [row.version.id, row.total]),
    ).toEqual([
      ['mid.1', 2],
      ['top.1', 6],
    ]);
    expect(whereUsed(recorded, 'part', { lens: { kind: 'newest' } })).toEqual([]);
  });

  it('adds up all chains to a top-level product', () => {
    const graph = new StructureGraph(
      ['top.1', 'a.1', 'b.1', 'p.1'].map((id) => version(id)),
      [link('top.1', 'a.1', 2), link('top.1', 'b.1', 1), link('a.1', 'p.1', 3), link('b.1', 'p.1', 5)],
    );
    const tops = topsOf(whereUsed(graph, 'p', { lens: { kind: 'newest' } }));
    expect(tops.map(({ row, total }) => [row.version.id, total])).toEqual([['top.1', 11]]);
  });
});
