import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { chainsBetween, productsOf } from './chains.js';
import { Net, type NetLink, type NetNode } from './net.js';
import { openToLevel, openToNodes, outlineRows } from './outline.js';
import { rollUp } from './roll-up.js';
import { SHIPPED_STATES } from '../../lifecycle/shipped.js';

function node(number: string, more: Partial<NetNode> = {}): NetNode {
  return { number, name: number, state: 'released', isGap: false, isHidden: false, ...more };
}

const link = (from: number, to: number, quantity = 1, behind = 0): NetLink => ({
  from,
  to,
  quantity,
  behind,
});

/** Links only lead to later nodes, so that there are no circles. */
const anyNet = fc
  .record({
    masses: fc.array(fc.option(fc.integer({ min: 1, max: 9 }), { nil: undefined }), {
      minLength: 2,
      maxLength: 8,
    }),
    links: fc.array(
      fc.record({
        from: fc.nat(6),
        by: fc.integer({ min: 1, max: 7 }),
        quantity: fc.integer({ min: 1, max: 3 }),
        behind: fc.nat(2),
      }),
      { maxLength: 14 },
    ),
  })
  .map(({ masses, links }) => {
    const nodes = masses.map((massKg, at) => node(`N${at}`, massKg === undefined ? {} : { massKg }));
    const inside = links.map(({ from, by, quantity, behind }) => link(from, from + by, quantity, behind));
    return new Net(
      nodes,
      inside.filter(({ from, to }) => from < nodes.length && to < nodes.length),
    );
  });

/** The whole tree, the simple way. */
function walk(
  net: Net,
  at: number,
  call: (at: number, total: number, isLine: boolean, via?: NetLink) => void,
  total = 1,
): void {
  call(at, total, false);
  for (const each of net.below(at)) {
    call(each.to, total * each.quantity, true, each);
    walk(net, each.to, call, total * each.quantity);
  }
}

describe('roll-ups', () => {
  it('are what walking the whole tree adds up', () => {
    fc.assert(
      fc.property(anyNet, (net) => {
        const sums = { mass: 0, unknown: 0, of: 0, lines: 0, behind: 0 };
        walk(net, 0, (at, total, isLine, via) => {
          if (isLine) {
            sums.lines++;
            if ((via?.behind ?? 0) > 0) sums.behind++;
            return;
          }
          if (net.below(at).length > 0) return;
          const mass = net.nodes[at]?.massKg;
          sums.mass += total * (mass ?? 0);
          sums.of++;
          if (mass === undefined) sums.unknown++;
        });
        const [root] = rollUp(net, SHIPPED_STATES);
        expect(root?.massKg).toEqual({ value: sums.mass, unknown: sums.unknown, of: sums.of });
        expect([root?.lines, root?.behind]).toEqual([sums.lines, sums.behind]);
      }),
    );
  });

  it('tell the state that wants most attention, and count gaps', () => {
    const net = new Net(
      [
        node('top'),
        node('a', { state: 'in check' }),
        node('gone', { state: null, isGap: true }),
        node('w', { state: 'withdrawn' }),
      ],
      [link(0, 1), link(0, 2, 2), link(1, 3)],
    );
    const rolled = rollUp(net, SHIPPED_STATES);
    expect(rolled[0]).toMatchObject({ worst: 'withdrawn', gaps: 1, lines: 3 });
    expect(rolled[2]).toMatchObject({ worst: null });
  });
});

describe('an outline', () => {
  it('open everywhere has all lines, and closed only those of the root', () => {
    fc.assert(
      fc.property(anyNet, (net) => {
        const rows = outlineRows(net, 0, openToLevel(net, 0, Infinity));
        const expected: [number, number][] = [[0, 1]];
        const visit = (at: number, total: number): void => {
          for (const each of net.below(at)) {
            expected.push([each.to, total * each.quantity]);
            visit(each.to, total * each.quantity);
          }
        };
        visit(0, 1);
        expect(rows.map(({ node: at, total }) => [at, total])).toEqual(expected);
        expect(new Set(rows.map(({ path }) => path)).size).toBe(rows.length);
        expect(outlineRows(net, 0, new Set())).toHaveLength(1 + net.below(0).length);
      }),
    );
  });

  it('in another order has the same rows, each below the same one', () => {
    fc.assert(
      fc.property(anyNet, (net) => {
        const open = openToLevel(net, 0, Infinity);
        const backwards = outlineRows(net, 0, open, (links) => [...links.keys()].reverse());
        const said = (rows: typeof backwards): string[] =>
          rows.map(({ path, node: at, level, total }) => `${path} ${at} ${level} ${total}`).sort();
        expect(said(backwards)).toEqual(said(outlineRows(net, 0, open)));
        // Every row comes after the one that it lies below, with nothing of another branch between.
        const at = new Map(backwards.map(({ path }, index) => [path, index]));
        for (const [index, { path }] of backwards.entries()) {
          const parent = path.includes('.') ? path.slice(0, path.lastIndexOf('.')) : '';
          for (let between = at.get(parent) ?? 0; path !== '' && between < index; between++)
            expect(parent === '' || backwards[between]?.path.startsWith(parent)).toBe(true);
        }
      }),
    );
  });

  it('opened for what is looked for shows every place of it, and no branch without it', () => {
    fc.assert(
      fc.property(anyNet, fc.nat(7), (net, wanted) => {
        const fits = (at: number): boolean => at === wanted;
        const all = outlineRows(net, 0, openToLevel(net, 0, Infinity));
        const some = outlineRows(net, 0, openToNodes(net, 0, fits));
        const places = (rows: typeof all): string[] =>
          rows.filter(({ node: at }) => fits(at)).map(({ path }) => path);
        expect(places(some)).toEqual(places(all));
        for (const row of some)
          if (row.isOpen && row.path !== '')
            expect(all.some(({ path, node: at }) => fits(at) && path.startsWith(`${row.path}.`))).toBe(true);
      }),
    );
  });
});

describe('chains', () => {
  it('are all ways, with quantities multiplied', () => {
    fc.assert(
      fc.property(anyNet, fc.integer({ min: 1, max: 7 }), (net, to) => {
        const found: string[] = [];
        const visit = (at: number, way: string, quantity: number): void => {
          for (const each of net.below(at)) {
            const longer = `${way}>${each.to}×${each.quantity}`;
            if (each.to === to) found.push(`${longer}=${quantity * each.quantity}`);
            else visit(each.to, longer, quantity * each.quantity);
          }
        };
        visit(0, '', 1);
        const { chains, count, quantity } = chainsBetween(net, 0, to);
        const said = chains.map(
          (chain) =>
            `${chain.links.map((each) => `>${each.to}×${each.quantity}`).join('')}=${chain.quantity}`,
        );
        expect(said.sort()).toEqual(found.sort());
        expect(count).toBe(found.length);
        expect(quantity).toBe(found.reduce((sum, text) => sum + Number(text.split('=')[1]), 0));
      }),
    );
  });

  it('are counted where there are too many to list', () => {
    // Ten diamonds in a row: 1024 ways.
    const nodes = Array.from({ length: 31 }, (_, at) => node(`N${at}`));
    const links = Array.from({ length: 10 }, (_, at) => 3 * at).flatMap((at) => [
      link(at, at + 1),
      link(at, at + 2),
      link(at + 1, at + 3),
      link(at + 2, at + 3),
    ]);
    const { chains, count } = chainsBetween(new Net(nodes, links), 0, 30, 50);
    expect([chains.length, count]).toEqual([50, 1024]);
  });

  it('begin at products', () => {
    const net = new Net(
      ['p', 'q', 'a', 'x', 'y'].map((each) => node(each)),
      [link(0, 2), link(1, 2), link(2, 3), link(1, 4)],
    );
    expect(productsOf(net, 3)).toEqual([0, 1]);
    expect(productsOf(net, 0)).toEqual([]);
  });
});

describe('a net with a circle', () => {
  it('leaves out the link that closes it', () => {
    const net = new Net([node('a'), node('b')], [link(0, 1), link(1, 0)]);
    expect(net.below(1)).toEqual([]);
    expect(outlineRows(net, 0, openToLevel(net, 0, Infinity))).toHaveLength(2);
  });
});
