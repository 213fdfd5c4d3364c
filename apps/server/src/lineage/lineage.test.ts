/** Stems over HTTP: what was derived from what, what each side has changed since, and all variants beside each other. */
import type { BillAnswer, CompareAnswer, FamilyAnswer, StemAnswer, ThreeAnswer } from '@stem-trace/contract';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  // One with copies of everything, one that shares all but itself, and a variant of the first variant.
  await store.derive({ item: 'TAIL_ASM', copy: 'all', prefix: 'V-', place: '/plane/v' });
  await store.derive({ item: 'TAIL_ASM', copy: 'none', prefix: 'S-', place: '/plane/s' });
  await store.derive({ item: 'V-TAIL_ASM', copy: 'all', prefix: 'W-', place: '/plane/w' });
});
afterAll(() => store.close());

/** A new version with the same file. */
const change = (item: string, note: string): Promise<unknown> =>
  store.call('POST', '/api/items/properties', {
    ...{ items: [item], set: { Note: note }, comment: note },
    checkOut: true,
  });
/** What an assembly needs of its first row. */
const need = async (item: string, amount: string): Promise<unknown> => {
  const bill = await store.json<BillAnswer>('GET', `/api/bill?item=${item}&lens=newest`);
  const position = bill.rows.find(({ level }) => level === 1)?.position ?? 0;
  return store.call('POST', '/api/bill/rows', {
    ...{ item, version: bill.item.version, rows: [{ position, amount }], comment: '' },
    checkOut: true,
  });
};

const stem = (item: string, more = ''): Promise<StemAnswer> =>
  store.json('GET', `/api/stem?item=${item}${more}`);
const family = (item: string, more = ''): Promise<FamilyAnswer> =>
  store.json('GET', `/api/family?item=${item}${more}`);
const drifts = ({ rows }: StemAnswer): Record<string, string> =>
  Object.fromEntries(
    rows.map(({ number, drift }) => [
      number,
      drift ? `${drift.origin} ${drift.variant} ${drift.apart + drift.contradict}` : 'none',
    ]),
  );
const cells = ({ rows }: FamilyAnswer): Record<string, string> =>
  Object.fromEntries(
    rows.map(({ number, cells: all }) => [number, all.map(({ verdict }) => verdict).join(' ')]),
  );

it('is a tree of what was derived from what, whichever of it is asked about', async () => {
  const answer = await stem('V-TAIL_ASM');
  expect(
    answer.rows.map(({ level, number, from }) => [level, number, from && `${from.number} ${from.version}`]),
  ).toEqual([
    [1, 'TAIL_ASM', null],
    [2, 'V-TAIL_ASM', 'TAIL_ASM A/1'],
    [3, 'W-V-TAIL_ASM', 'V-TAIL_ASM A/1'],
    [2, 'S-TAIL_ASM', 'TAIL_ASM A/1'],
  ]);
  expect(answer).toMatchObject({ hidden: 0, cut: 0 });
  expect(drifts(answer)).toEqual({
    ...{ TAIL_ASM: 'none', 'V-TAIL_ASM': '0 0 0', 'W-V-TAIL_ASM': '0 0 0', 'S-TAIL_ASM': '0 0 0' },
  });
  // A part has no rows that could drift.
  expect((await stem('TAIL_TURBINE')).rows.map(({ number, drift }) => [number, drift])).toEqual([
    ['TAIL_TURBINE', null],
    ['V-TAIL_TURBINE', null],
    ['W-V-TAIL_TURBINE', null],
  ]);
});

it('tells what the origin changed, what the variant changed, and what both did', async () => {
  await change('TAIL_TURBINE', 'quieter');
  await need('V-TAIL_ASM', '5');
  const answer = await stem('TAIL_ASM', '&lens=newest');
  expect(drifts(answer)).toEqual({
    TAIL_ASM: 'none',
    // The turbine there, a quantity here.
    'V-TAIL_ASM': '1 1 0',
    // Its own origin is the first variant.
    'W-V-TAIL_ASM': '1 0 0',
    // It shares the turbine, so that both have the newer one.
    'S-TAIL_ASM': '0 0 0',
  });
  expect(answer.rows.find(({ number }) => number === 'V-TAIL_ASM')).toMatchObject({
    originVersions: 0,
    ownVersions: 1,
  });
  // Under the lens that shows what was recorded, nothing has changed there.
  expect(drifts(await stem('TAIL_ASM'))['V-TAIL_ASM']).toBe('0 1 0');
  // The rows behind these counts, as Compare has them.
  const three = await store.json<ThreeAnswer>(
    'GET',
    '/api/compare/three?base=TAIL_ASM@A/1&one=TAIL_ASM&other=V-TAIL_ASM&lens=newest',
  );
  expect(three.counts).toMatchObject({ one: 1, other: 1, contradict: 0, apart: 0 });
  await change('V-TAIL_TURBINE', 'smaller');
  expect(drifts(await stem('TAIL_ASM', '&lens=newest'))['V-TAIL_ASM']).toBe('0 1 1');
});

it('lays all variants beside what they come from, position by position', async () => {
  const answer = await family('W-V-TAIL_ASM', '&lens=newest');
  expect(answer.origin).toMatchObject({ number: 'TAIL_ASM', version: 'A/1' });
  expect(answer.variants.map(({ number }) => number)).toEqual(['V-TAIL_ASM', 'S-TAIL_ASM', 'W-V-TAIL_ASM']);
  // The copy of the copy still is what the turbine was.
  expect(cells(answer)).toMatchObject({ TAIL_TURBINE: 'own same own', TAIL_MIDDLE_PART: 'same same same' });
  expect(answer.rows.find(({ number }) => number === 'TAIL_TURBINE')?.kinds).toBe(3);
  const [first] = answer.rows;
  expect(first?.cells.map(({ amount }) => amount)).toEqual(['5', '', '']);
  const { positions } = answer.shares;
  expect(positions.common).toBeLessThan(positions.all);
  // As they were recorded, all have the turbine that the first had.
  expect(cells(await family('TAIL_ASM'))['TAIL_TURBINE']).toBe('same same same');
});

it('tells nothing of what may not be seen, but that there is something', async () => {
  const boss = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  const close = (inherits: boolean): Promise<unknown> =>
    store.call('PUT', '/api/places/access', { place: '/plane/v', inherits, grants: [] }, boss);
  await close(false);
  const eve = { Authorization: `Bearer ${await store.tokenFor('eve', 'viewer')}` };
  const seen = async (path: string): Promise<string> =>
    (await store.call('GET', `${path}?item=W-V-TAIL_ASM`, undefined, eve)).text();
  const [tree, matrix] = [await seen('/api/stem'), await seen('/api/family')];
  // Names of copies of copies hold the name that they were given; the item itself is nowhere.
  expect(tree + matrix).not.toContain('"V-TAIL_ASM"');
  expect(JSON.parse(tree)).toMatchObject({
    hidden: 1,
    rows: [{ number: 'TAIL_ASM' }, { number: 'S-TAIL_ASM' }, { from: null, drift: null }],
  });
  expect(JSON.parse(matrix)).toMatchObject({ hidden: 1, origin: { number: 'TAIL_ASM' } });
  await close(true);
});

it('does not tell that something has changed which may not be seen', async () => {
  const boss = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  await store.call('POST', '/api/items/move', { items: ['TAIL_TURBINE'], place: '/secret' }, boss);
  await store.call('PUT', '/api/places/access', { place: '/secret', inherits: false, grants: [] }, boss);
  const compared = async (asker: Record<string, string>): Promise<CompareAnswer> =>
    (await (
      await store.call('GET', '/api/compare?from=TAIL_ASM&to=TAIL_ASM&toLens=newest', undefined, asker)
    ).json()) as CompareAnswer;
  expect((await compared(boss)).counts).toMatchObject({ changed: 1 });
  const eve = { Authorization: `Bearer ${await store.tokenFor('eve', 'viewer')}` };
  expect((await compared(eve)).counts).toMatchObject({ changed: 0, same: 2 });
  const seen = (await (
    await store.call('GET', '/api/family?item=S-TAIL_ASM&lens=newest', undefined, eve)
  ).json()) as FamilyAnswer;
  const turbine = seen.rows.find(({ number }) => number === 'not visible to you');
  // Nor how the copies that one sees stand to it.
  expect(turbine?.cells.map(({ verdict }) => verdict)).toEqual(['hidden', 'hidden', 'hidden']);
});
