/** Files taken apart and put together by the store: what a kernel that others wrote finds in them stays the same. */
import type { CustodyAnswer, IntakeView } from '@stem-trace/contract';
import { readStep } from '@stem-trace/formats';
import { afterAll, beforeAll, expect, it } from 'vitest';
import {
  readExchangeFile,
  readExchangeSet,
} from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

async function reviewed(sheet: IntakeView): Promise<IntakeView> {
  for (;;) {
    const view = await store.json<IntakeView>('GET', `/api/intakes/${sheet.id}`);
    if (!['unpacking', 'reading', 'waiting', 'carrying out'].includes(view.state)) return view;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

async function joined(number: string): Promise<Uint8Array> {
  const response = await store.call('GET', `/api/fetch/joined?item=${encodeURIComponent(number)}`);
  return new Uint8Array(await response.arrayBuffer());
}

const rootOf = (bytes: Uint8Array, name: string): string => {
  const { products, root } = readStep(bytes, name);
  return products[root]?.id ?? '';
};

const tree = (bytes: Uint8Array, name: string): string[] => {
  const { products, uses } = readStep(bytes, name);
  return uses
    .map(
      ({ parent, child, placement }) =>
        `${products[parent]?.id} > ${products[child]?.id} ${placement.map((v) => v.toFixed(2)).join(' ')}`,
    )
    .sort();
};

it('a file that holds several items is taken apart, so that each can be revised by itself', async () => {
  const bytes = readExchangeFile('as1-oc-214.stp');
  await store.intake(new Map([['as1-oc-214.stp', bytes]]), { place: '/whole' });
  const top = rootOf(bytes, 'as1-oc-214.stp');
  const { rows: before } = await store.made(top);
  const names = [top, ...new Set(before.map(({ number }) => number))];
  await expect(store.json('POST', '/api/intakes/split', { item: 'nothing' })).rejects.toThrow(/nothing/);
  const held = await store.json<CustodyAnswer>('POST', '/api/holds', { items: [top], reason: 'take apart' });
  expect(held.refused).toEqual([]);
  const sheet = await reviewed(await store.json<IntakeView>('POST', '/api/intakes/split', { item: top }));
  expect([sheet.expected.versions, sheet.expected.items, sheet.expected.refused]).toEqual([
    names.length,
    0,
    [],
  ]);
  await store.json('POST', `/api/intakes/${sheet.id}/carry-out`, { comment: 'Taken apart', letGo: true });
  const done = await reviewed(sheet);
  expect([done.state, done.result?.versions, done.result?.gaps]).toEqual(['done', names.length, []]);

  const { rows: after } = await store.made(top);
  expect(after.map(({ level, number, quantity }) => [level, number, quantity])).toEqual(
    before.map(({ level, number, quantity }) => [level, number, quantity]),
  );
  const { files } = await store.fetch(top);
  expect(files.size).toBe(names.length);
  // Together again they say what the file said before.
  expect(tree(await joined(top), 'as1-oc-214.stp')).toEqual(tree(bytes, 'as1-oc-214.stp'));
  // Now a part can be shared while its assembly is copied.
  const leaf =
    after.find(
      ({ number }) =>
        !after.some((row, at) => row.number === number && (after[at + 1]?.level ?? 0) > row.level),
    )?.number ?? '';
  const variant = await store.derive({
    item: top,
    copy: 'all',
    prefix: 'V',
    place: '/whole/variant',
    share: [leaf],
  });
  expect([variant.shared, variant.proof.faults]).toEqual([[leaf], []]);
});

it('an assembly of many files is fetched as one', async () => {
  const files = readExchangeSet('s1-c5-214');
  await store.intake(files, { place: '/many' });
  const top = rootOf(files.get('s1-c5-214.stp') ?? new Uint8Array(), 's1-c5-214.stp');
  const { products } = readStep(await joined(top), 's1-c5-214.stp');
  expect(products.filter(({ locator }) => locator !== undefined)).toEqual([]);
  const { rows } = await store.made(top);
  expect(new Set(products.map(({ id }) => id))).toEqual(new Set([top, ...rows.map(({ number }) => number)]));
});
