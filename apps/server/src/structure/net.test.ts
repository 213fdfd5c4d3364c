/** Nets and effects over HTTP: the same structure as the trees, and nothing that one may not see. */
import type { EffectAnswer, FindAnswer, NetAnswer } from '@stem-trace/contract';
import { chainsBetween, Net, openToLevel, outlineRows, productsOf } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let top: string;
beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  const tops = await store.used('TAIL_TURBINE', '&tops=true');
  top = tops.rows[0]?.number ?? '';
});
afterAll(() => store.close());

async function netOf(
  item: string,
  side: 'made' | 'used',
  headers: Record<string, string> = {},
): Promise<NetAnswer> {
  const path = `/api/net?item=${encodeURIComponent(item)}&side=${side}&papers=true`;
  return (await (await store.call('GET', path, undefined, headers)).json()) as NetAnswer;
}

function built({ nodes, links }: NetAnswer): Net<NetAnswer['nodes'][number]> {
  return new Net(
    nodes,
    links.map(([from, to, quantity, behind]) => ({ from, to, quantity, behind })),
  );
}

describe('a net', () => {
  it('opens into the tree that the store tells', async () => {
    const net = built(await netOf(top, 'made'));
    const rows = outlineRows(net, 0, openToLevel(net, 0, Infinity)).slice(1);
    const { rows: tree } = await store.made(top);
    expect(rows.map(({ node, level, total }) => [net.nodes[node]?.number, level - 1, total])).toEqual(
      tree.map(({ number, level, total }) => [number, level, total]),
    );
  });

  it('leads up to the products, by as many chains as there are', async () => {
    const net = built(await netOf('TAIL_TURBINE', 'used'));
    const products = productsOf(net, 0);
    expect(products.map((at) => net.nodes[at]?.number)).toEqual([top]);
    const { quantity, count } = chainsBetween(net, products[0] ?? -1, 0);
    const tops = await store.used('TAIL_TURBINE', '&tops=true');
    expect(quantity).toBe(tops.rows[0]?.total);
    const { rows } = await store.used('TAIL_TURBINE');
    expect(count).toBe(rows.filter(({ more }) => !more).length);
  });

  it('shows that something is hidden, but neither what nor what it is made of', async () => {
    const admin = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
    const viewer = { Authorization: `Bearer ${await store.tokenFor('eve', 'viewer')}` };
    await store.call('POST', '/api/items/move', { items: ['TAIL_ASM'], place: '/shut' }, admin);
    await store.call('PUT', '/api/places/access', { place: '/shut', inherits: false, grants: [] }, admin);
    const net = await netOf(top, 'made', viewer);
    expect(net.hidden).toBe(1);
    expect(JSON.stringify(net)).not.toContain('TAIL_ASM');
    expect(JSON.stringify(net)).not.toContain('TAIL_TURBINE');
    const hidden = net.nodes.findIndex(({ isHidden }) => isHidden);
    expect(net.links.some(([from]) => from === hidden)).toBe(false);
    const body = { items: ['TAIL_TURBINE'], lens: 'newest' };
    const effect = (await (await store.call('POST', '/api/effect', body, viewer)).json()) as EffectAnswer;
    expect(effect.hidden).toBe(1);
    expect(JSON.stringify(effect)).not.toContain('TAIL_ASM');
    await store.call('POST', '/api/items/move', { items: ['TAIL_ASM'], place: '/plane' }, admin);
  });
});

describe('an effect', () => {
  it('has products and assemblies with quantities, drawings, documents and variants', async () => {
    const document = new TextEncoder().encode('How to balance it.');
    await store.intake(new Map([['TAIL_TURBINE.txt', document]]), { place: '/plane' });
    const { rows: found } = await store.json<FindAnswer>('GET', '/api/items?words=kind%20%3D%20document');
    const item = found[0]?.number ?? '';
    await store.json('POST', '/api/holds', { items: [item], reason: '' });
    await store.json('POST', '/api/items/belong', { item, model: 'TAIL_TURBINE' });
    const { variant } = await store.derive({ item: 'TAIL_TURBINE', prefix: 'V-', copy: 'all' });
    const { rows } = await store.json<EffectAnswer>('POST', '/api/effect', {
      items: ['TAIL_TURBINE'],
      lens: 'newest',
    });
    const used = await store.used('TAIL_TURBINE', '&lens=newest');
    const numbers = (part: string): string[] =>
      rows.filter((row) => row.part === part).map(({ number }) => number);
    expect([...numbers('product'), ...numbers('assembly')].sort()).toEqual(
      [...new Set(used.rows.map(({ number }) => number))].sort(),
    );
    expect(rows.find(({ number }) => number === top)).toMatchObject({
      part: 'product',
      quantity: used.rows.filter(({ number }) => number === top).reduce((sum, { total }) => sum + total, 0),
      // The assembly between, by which it is reached.
      through: ['TAIL_ASM'],
    });
    expect(numbers('document')).toHaveLength(1);
    expect(numbers('copy')).toEqual([variant]);
  });

  it('shows copies, and copies of those, that may need the change too, with how far behind they are', async () => {
    const copy = 'V-TAIL_TURBINE';
    const { variant: second } = await store.derive({ item: copy, prefix: 'W-', copy: 'all' });
    const set = async (item: string, text: string): Promise<unknown> =>
      store.json('POST', '/api/items/properties', {
        ...{ items: [item], set: { Note: text }, comment: '', checkOut: true },
      });
    await set('TAIL_TURBINE', 'first');
    await set('TAIL_TURBINE', 'second');
    const copiesOf = async (item: string): Promise<unknown[]> => {
      const { rows } = await store.json<EffectAnswer>('POST', '/api/effect', {
        items: [item],
        lens: 'newest',
      });
      return rows
        .filter(({ part }) => part === 'copy')
        .map(({ number, through, origin }) => [number, through, origin?.version, origin?.newer]);
    };
    expect(await copiesOf('TAIL_TURBINE')).toEqual([
      [copy, ['TAIL_TURBINE'], 'A/1', 2],
      [second, [copy], 'A/1', 0],
    ]);
    // What it was made of is of the same stem, and no copy of it.
    expect(await copiesOf(second)).toEqual([]);
    expect(await copiesOf(copy)).toEqual([[second, [copy], 'A/1', 0]]);
  });

  it('takes no newer version that nobody records for a product of its own', async () => {
    await store.json('POST', '/api/items/properties', {
      ...{ items: ['TAIL_ASM'], set: { Note: 'newer than what the product records' }, comment: '' },
      checkOut: true,
    });
    const { rows, cut } = await store.json<EffectAnswer>('POST', '/api/effect', {
      items: ['TAIL_TURBINE'],
      lens: 'recorded',
    });
    const parts = rows.filter(({ number }) => number === 'TAIL_ASM').map(({ part }) => part);
    expect(new Set(parts)).toEqual(new Set(['assembly']));
    expect(cut).toBe(0);
  });

  it('says what nobody would need any more', async () => {
    const { rows } = await store.json<EffectAnswer>('POST', '/api/effect', { items: [top], lens: 'newest' });
    const made = await store.made(top, '&lens=newest');
    const unused = rows.filter(({ part }) => part === 'unused without it').map(({ number }) => number);
    // One product only: all that it is made of, but for what its variant shares.
    expect(unused.length).toBeGreaterThan(0);
    expect(made.rows.map(({ number }) => number)).toEqual(expect.arrayContaining(unused));
  });

  it('finds the nearest assembly that holds several', async () => {
    const { rows } = await store.json<EffectAnswer>('POST', '/api/common', {
      items: ['TAIL_TURBINE', 'TAIL_ASM'],
      lens: 'newest',
    });
    const above = await store.used('TAIL_ASM', '&lens=newest');
    const direct = above.rows.filter(({ level }) => level === 1).map(({ number }) => number);
    expect(rows.map(({ number }) => number)).toEqual(direct);
  });

  it('goes as far as is asked', async () => {
    const { rows } = await store.json<EffectAnswer>('POST', '/api/effect', {
      items: ['TAIL_TURBINE'],
      levels: 1,
    });
    expect(rows.filter(({ level }) => level > 0).every(({ level }) => level <= 1)).toBe(true);
  });
});
