/** From when until when rows count, over HTTP: said beside versions, looked at by a lens, kept by later versions, and checked. */
import type { BillAnswer, BillRow, EffectivityRequest, StepAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { board } from '../testing/board.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let checker: Readonly<Record<string, string>>;
let root: Readonly<Record<string, string>>;
beforeAll(async () => {
  store = await TestStore.open();
  checker = { Authorization: `Bearer ${await store.tokenFor('eff-checker', 'checker')}` };
  root = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  const parts = ['OLD', 'NEW', 'PIN'].map((id, at) => ({ id, at: [[String(at), at * 10] as const] }));
  await store.intake(new Map([['board.stp', board('BOARD', parts)]]), { place: '/boards' });
  await store.intake(new Map([['rack.stp', board('RACK', [{ id: 'SLOT', at: [['1', 0]] }])]]), {
    place: '/racks',
  });
});
afterAll(() => store.close());

const bill = (item: string, lens = 'newest'): Promise<BillAnswer> =>
  store.json('GET', `/api/bill?item=${item}&lens=${encodeURIComponent(lens)}`);
const numbersIn = async (lens: string): Promise<string[]> =>
  (await bill('BOARD', lens)).rows.map(({ number }) => number).sort();
const rowOf = async (number: string): Promise<BillRow> => {
  const row = (await bill('BOARD')).rows.find((each) => each.number === number);
  if (!row) throw new Error(`no row of ${number}`);
  return row;
};
async function say(
  said: Readonly<Record<string, readonly [planned: string, actual?: string]>>,
  headers = {},
): Promise<void> {
  const rows: EffectivityRequest['rows'][number][] = [];
  let item = '';
  for (const [number, [planned, actual = '']] of Object.entries(said)) {
    const row = await rowOf(number);
    item = `${row.user}@${row.userVersion}`;
    rows.push({ position: row.position ?? -1, planned, actual });
  }
  await store.call('PUT', '/api/effectivity', { item, rows }, headers);
}
async function number(finds: Readonly<Record<string, string>>): Promise<void> {
  const { item } = await bill('BOARD');
  const rows = await Promise.all(
    Object.entries(finds).map(async ([of, find]) => ({ position: (await rowOf(of)).position, find })),
  );
  await store.call('POST', '/api/bill/rows', {
    ...{ item: 'BOARD', version: item.version, rows, comment: '', checkOut: true },
  });
}

it('is said beside the version, kept by the next, and told in BOM and structure', async () => {
  await number({ OLD: '10', NEW: '10', PIN: '20' });
  await say({ OLD: ['to 2026-05-31'], NEW: ['from 2026-06-01; rack from 100', 'from 2026-06-09'] });
  expect((await bill('BOARD')).item.version).toBe('A/2');
  expect(await rowOf('NEW')).toMatchObject({
    ...{ planned: 'from 2026-06-01; RACK from 100', actual: 'from 2026-06-09' },
    ...{ user: 'BOARD', userVersion: 'A/2' },
  });
  // The actual beginning leaves a hole; that both have one find number is no fault by itself.
  expect((await bill('BOARD')).faults.map(({ says }) => says)).toEqual([
    'neither OLD nor NEW counts from 2026-06-01 to 2026-06-08',
  ]);
  const { rows } = await store.made('BOARD', '&lens=newest');
  expect(rows.map(({ number: of, effectivity }) => [of, effectivity ?? ''])).toEqual([
    ['OLD', 'planned to 2026-05-31'],
    ['NEW', 'planned from 2026-06-01; RACK from 100 · actual from 2026-06-09'],
    ['PIN', ''],
  ]);
  // Another version, in which rows are numbered otherwise.
  await number({ PIN: '5' });
  expect((await bill('BOARD')).item.version).toBe('A/3');
  expect(await rowOf('OLD')).toMatchObject({ planned: 'to 2026-05-31', actual: '' });
  await number({ OLD: '11' });
  expect(await rowOf('OLD')).toMatchObject({ find: '11', planned: 'to 2026-05-31' });
  await number({ OLD: '10' });
});

it('stands in the way of a check and a release while it leaves a hole', async () => {
  const step = (name: string, headers = {}): Promise<Response> =>
    store.call('POST', '/api/steps', { items: ['BOARD'], step: name, reason: 'x', below: true }, headers);
  await expect(step('ask for check')).rejects.toThrow(
    /BOARD: find number 10: neither OLD nor NEW counts from 2026-06-01 to 2026-06-08/,
  );
  await say({
    OLD: ['to 2026-05-31', 'to 2026-06-08'],
    NEW: ['from 2026-06-01; RACK from 100', 'from 2026-06-09'],
  });
  const asked = (await (await step('ask for check')).json()) as StepAnswer;
  expect(asked.sheet).toBeTruthy();
  await step('release', checker);
});

it('is looked at on a day and in one piece of a product', async () => {
  const now = new Date().toISOString().slice(0, 10);
  expect(await numbersIn(`effective ${now}`)).toEqual(['NEW', 'PIN']);
  expect(await numbersIn('effective 99 of RACK')).toEqual(['OLD', 'PIN']);
  expect(await numbersIn('effective 100 of rack')).toEqual(['NEW', 'OLD', 'PIN']);
  const used = await store.used('NEW', `&lens=${encodeURIComponent('effective 99 of RACK')}`);
  expect(used.rows).toEqual([]);
  expect((await store.used('NEW', `&lens=effective ${now}`)).rows.map((row) => row.number)).toEqual([
    'BOARD',
  ]);
  // Nothing was released before today.
  await expect(store.made('BOARD', '&lens=effective 2020-01-01')).rejects.toThrow(
    /had no released version then/,
  );
  await expect(numbersIn('effective 7 of NOWHERE')).rejects.toThrow(/no item NOWHERE/);
});

it('of what is locked is for those who release', async () => {
  const said = { PIN: ['from 2026-01-01'] } as const;
  await expect(say(said)).rejects.toThrow(/You may not release BOARD/);
  await say(said, root);
  expect(await rowOf('PIN')).toMatchObject({ planned: 'from 2026-01-01' });
  await say({ PIN: [''] }, root);
  expect(await rowOf('PIN')).toMatchObject({ planned: '', actual: '' });
});

it.each([
  ['what is no range', ['soon'], /“soon” is no range.*Nothing was changed/],
  ['an unknown product', ['NOWHERE from 1'], /no item NOWHERE/],
  [
    'an end before its beginning',
    ['from 2026-02-01', 'to 2026-01-01'],
    /ends \(2026-01-01\) before it begins/,
  ],
] as const)('refuses %s', async (_, said, says) => {
  await expect(say({ PIN: said }, root)).rejects.toThrow(says);
});

it('refuses a row that is not there, and the same row twice', async () => {
  const { item } = await bill('BOARD');
  const put = (...positions: number[]): Promise<Response> =>
    store.call(
      ...(['PUT', '/api/effectivity'] as const),
      {
        item: `BOARD@${item.version}`,
        rows: positions.map((position) => ({ position, planned: '', actual: '' })),
      },
      root,
    );
  await expect(put(77)).rejects.toThrow(/has no such row/);
  await expect(put(0, 0)).rejects.toThrow(/stands there twice/);
});

it('tells nothing of a product that one may not see', async () => {
  await say({ PIN: ['RACK 1 to 9; SLOT from 5'] }, root);
  await store.call('PUT', '/api/places/access', { place: '/racks', inherits: false, grants: [] }, root);
  expect(await rowOf('NEW')).toMatchObject({
    planned: 'from 2026-06-01; a product that you may not see from 100',
  });
  // Two that are hidden are two, so that what limits one is no fault of the other.
  expect(await rowOf('PIN')).toMatchObject({
    planned: 'a product that you may not see 1 to 9; a product that you may not see (2) from 5',
  });
  const hidden = await numbersIn('effective 99 of RACK').catch(String);
  const unknown = await numbersIn('effective 99 of RICK').catch(String);
  expect(String(hidden).replace('RACK', 'RICK')).toBe(unknown);
  await expect(say({ PIN: ['RACK from 1'] })).rejects.toThrow(/no item RACK|may not release/);
});
