/** One line of time: what happened to an item and to what it is made of, as far as the reader may know. */
import type { HistoryAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  const files = new Map([
    ['part.stp', stepFile({ id: 'PART' })],
    ['asm.stp', stepFile({ id: 'ASM', uses: [{ id: 'PART', locator: 'part.stp' }] })],
  ]);
  await store.intake(files, { place: '/open' });
});
afterAll(() => store.close());

const history = (item: string, more = '', token = store.token): Promise<HistoryAnswer> =>
  store
    .call('GET', `/api/history?item=${item}${more}`, undefined, { Authorization: `Bearer ${token}` })
    .then((response) => response.json() as Promise<HistoryAnswer>);
const says = async (item: string, more = ''): Promise<string[]> =>
  (await history(item, more)).rows.map((row) => `${row.number}: ${row.says}`);

it('has check-outs with their reasons, moves, names and steps, newest first', async () => {
  await store.json('POST', '/api/holds', { items: ['PART'], reason: 'bore' });
  await store.call('POST', '/api/items/rename', { item: 'PART', name: 'Tube' });
  await store.json('POST', '/api/holds/let-go', { items: ['PART'] });
  await store.json('POST', '/api/steps', { items: ['PART'], step: 'ask for check', reason: 'for the pilot' });
  const told = await says('PART');
  expect(told.slice(0, 4)).toEqual([
    'PART: ada sent PART A/1 for checking: for the pilot',
    'PART: ada let PART go',
    'PART: ada renamed PART: ‘Tube’, before ‘PART’',
    expect.stringMatching(/^PART: ada checked out PART/),
  ]);
  expect(await says('PART', '&kind=move')).toHaveLength(1);
});

it('has what happened below an assembly, where that is asked for', async () => {
  expect((await says('ASM')).every((line) => line.startsWith('ASM'))).toBe(true);
  expect(await says('ASM', '&below=true')).toContain('PART: ada let PART go');
});

it('goes on from an event, until there is none before it', async () => {
  const all = (await history('PART')).rows;
  const older = await history('PART', `&before=${all[1]?.id}`);
  expect(older.rows).toEqual(all.slice(2));
  expect(older.more).toBe(false);
});

it('names nothing that the reader does not see', async () => {
  await store.json('POST', '/api/derive', { item: 'ASM', copy: 'all', prefix: 'V-', place: '/secret' });
  await store.call('POST', '/api/items/move', { items: ['ASM'], place: '/secret' });
  await store.call('POST', '/api/items/move', { items: ['ASM'], place: '/open' });
  const administrator = await store.tokenFor('root', 'administrator');
  const access = { place: '/secret', inherits: false, grants: [] };
  await store.call('PUT', '/api/places/access', access, { Authorization: `Bearer ${administrator}` });
  const viewer = await store.tokenFor('vi', 'viewer');
  const told = (await history('ASM', '&below=true', viewer)).rows.map((row) => row.says);
  expect(told.join('\n')).not.toMatch(/V-|secret/);
  expect(told).toContain('ada derived with ASM');
  expect(told).toContain('ada moved ASM');
});
