/** Stems over HTTP: what was derived from what, what each side has changed since, and all variants beside each other. */
import type { CompareAnswer, FamilyAnswer, IntakeView, StemAnswer, ThreeAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { board } from '../testing/board.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(new Map([['board.stp', FIRST]]), { place: '/boards' });
  // One with copies of everything, one that shares all but itself, and a variant of the first variant.
  await store.derive({ item: 'BOARD', copy: 'all', prefix: 'V-', place: '/boards/v' });
  await store.derive({ item: 'BOARD', copy: 'none', prefix: 'S-', place: '/boards/s' });
  await store.derive({ item: 'V-BOARD', copy: 'all', prefix: 'W-', place: '/boards/w' });
});
afterAll(() => store.close());

const PARTS = [
  { id: 'R10K', at: [['1', 0, 'R1'], ['2', 10, 'R2'], ['3', 20, 'R3']] }, // prettier-ignore
  { id: 'C1U', at: [['4', 30]] },
  { id: 'WIRE', at: [['5', 40]] },
] as const;
const FIRST = board('BOARD', PARTS);
/** The wire is gone, a socket has come. */
const SECOND = board('BOARD', [PARTS[0], PARTS[1], { id: 'SOCKET', at: [['7', 60]] }]);

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
  const answer = await stem('V-BOARD');
  expect(
    answer.rows.map(({ level, number, from }) => [
      level,
      number,
      from?.number ?? null,
      from?.version ?? null,
    ]),
  ).toEqual([
    [1, 'BOARD', null, null],
    [2, 'V-BOARD', 'BOARD', 'A/1'],
    [3, 'W-V-BOARD', 'V-BOARD', 'A/1'],
    [2, 'S-BOARD', 'BOARD', 'A/1'],
  ]);
  expect(answer).toMatchObject({ hidden: 0, cut: 0 });
  expect(drifts(answer)).toEqual({
    BOARD: 'none',
    'V-BOARD': '0 0 0',
    'W-V-BOARD': '0 0 0',
    'S-BOARD': '0 0 0',
  });
  expect((await stem('C1U')).rows.map(({ number, drift }) => [number, drift])).toEqual([
    ['C1U', null],
    ['V-C1U', null],
    ['W-V-C1U', null],
  ]);
});

it('tells what the origin changed, what the variant changed, and what both did', async () => {
  // The origin loses the wire and gets a socket; the first variant has more of a resistor.
  const { id } = await store.json<IntakeView>('POST', '/api/intakes', { place: '/boards', prefix: '' });
  await store.call('POST', '/api/holds', { items: ['BOARD', 'V-BOARD'], reason: '' });
  await store.call('PUT', `/api/intakes/${id}/files?path=board.stp`, SECOND);
  await store.carryOut(id, 'A socket instead of the wire');
  await store.call('POST', '/api/bill/rows', {
    ...{ item: 'V-BOARD', version: 'A/1', comment: '', checkOut: false },
    rows: [{ position: 0, amount: '5' }],
  });
  const answer = await stem('BOARD');
  expect(drifts(answer)).toEqual({
    BOARD: 'none',
    // One removed and one added there, one quantity here.
    'V-BOARD': '2 1 0',
    'W-V-BOARD': '1 0 0',
    'S-BOARD': '2 0 0',
  });
  const variant = answer.rows.find(({ number }) => number === 'V-BOARD');
  expect(variant).toMatchObject({ originVersions: 1, ownVersions: 1 });
  // The rows behind these counts, as Compare has them.
  const three = await store.json<ThreeAnswer>(
    'GET',
    '/api/compare/three?base=BOARD@A/1&one=BOARD&other=V-BOARD',
  );
  expect(three.counts).toMatchObject({ one: 2, other: 1, contradict: 0, apart: 0 });
});

it('lays all variants beside what they come from, position by position', async () => {
  const answer = await family('W-V-BOARD');
  expect(answer.origin).toMatchObject({ number: 'BOARD', version: 'A/2' });
  expect(answer.variants.map(({ number }) => number)).toEqual(['V-BOARD', 'S-BOARD', 'W-V-BOARD']);
  expect(cells(answer)).toEqual({
    R10K: 'same same same',
    C1U: 'same same same',
    SOCKET: 'omitted omitted omitted',
    // Copies and the shared one are one position, since they are of one stem.
    'V-WIRE': 'added added added',
  });
  expect(answer.rows[0]?.cells.map(({ amount }) => amount)).toEqual(['5', '', '']);
  expect(answer.shares.positions).toEqual({ common: 1, all: 3 });
  // A part that moves on in one variant is a version of its own there.
  await store.call('POST', '/api/items/properties', {
    ...{ items: ['V-C1U'], set: { Material: 'X7R' }, comment: '' },
    checkOut: true,
  });
  const later = await family('BOARD', '&lens=newest');
  expect(cells(later)['C1U']).toBe('own same same');
  expect(later.rows.find(({ number }) => number === 'C1U')?.kinds).toBe(2);
});

it('tells nothing of what may not be seen, but that there is something', async () => {
  const boss = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  const close = (inherits: boolean): Promise<unknown> =>
    store.call('PUT', '/api/places/access', { place: '/boards/v', inherits, grants: [] }, boss);
  await close(false);
  const eve = { Authorization: `Bearer ${await store.tokenFor('eve', 'viewer')}` };
  const seen = async (path: string): Promise<string> =>
    (await store.call('GET', `${path}?item=W-V-BOARD`, undefined, eve)).text();
  const [tree, matrix] = [await seen('/api/stem'), await seen('/api/family')];
  // Names of copies of copies hold the name that they were given; the item itself is nowhere.
  expect(tree + matrix).not.toContain('"V-');
  expect(JSON.parse(tree)).toMatchObject({
    hidden: 1,
    rows: [{ number: 'BOARD' }, { number: 'S-BOARD' }, { from: null, drift: null }],
  });
  expect(JSON.parse(matrix)).toMatchObject({ hidden: 1, origin: { number: 'BOARD' } });
  await close(true);
});

it('compares a variant with its origin as before', async () => {
  const { counts } = await store.json<CompareAnswer>('GET', '/api/compare?from=V-BOARD@A/1&to=W-V-BOARD@A/1');
  expect(counts).toMatchObject({ added: 0, removed: 0, changed: 0, same: 3 });
});
