/** What is begun with a template: new numbers, held, and its files say so when they are fetched. */
import type { BeginResult, HoldRow, ItemView, StemAnswer } from '@stem-trace/contract';
import { annotateStepPart, readStep, writeStepAssembly } from '@stem-trace/formats';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { CUBE } from '../testing/random-trees.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
const ben: Record<string, string> = {};
beforeAll(async () => {
  store = await TestStore.open();
  ben.Authorization = `Bearer ${await store.tokenFor('ben', 'engineer')}`;
  const part = (id: string, source: 'made' | 'bought'): Uint8Array =>
    annotateStepPart(CUBE, {
      ...{ id, name: `Name of ${id}`, description: '', version: '', source, fileName: `${id}.stp`, time: '' },
      properties: [{ name: 'material', kind: 'text', text: 'S355' }],
    });
  const children = ['T-PLATE', 'SCREW'];
  const frame = writeStepAssembly({
    ...{ id: 'T-FRAME', name: 'Frame', fileName: 'T-FRAME.stp', time: '' },
    children: children.map((id) => ({ id, name: id, locator: `${id}.stp` })),
    uses: children.map((_, child) => ({
      ...{ child, name: `use ${child}`, placement: [1, 0, 0, child, 0, 1, 0, 0, 0, 0, 1, 0] },
    })),
  });
  await store.intake(
    new Map([
      ['T-FRAME.stp', frame],
      ['T-PLATE.stp', part('T-PLATE', 'made')],
      ['SCREW.stp', part('SCREW', 'bought')],
    ]),
    { place: '/templates' },
  );
  await store.json('POST', '/api/holds', { items: ['T-FRAME', 'T-PLATE'], reason: '' });
  for (const item of ['T-FRAME', 'T-PLATE'])
    await store.json('POST', '/api/items/properties', { items: [item], set: { Template: 'yes' } });
  await store.json('POST', '/api/holds/let-go', { items: ['T-FRAME', 'T-PLATE'] });
});
afterAll(() => store.close());

const begin = (item: string, more: object = {}): Promise<BeginResult> =>
  store.json('POST', '/api/begin', { item, place: '/new', ...more });

it('is found as a template, and what is begun with it is none', async () => {
  const found = async (): Promise<string[]> => {
    const { rows } = await store.json<{ rows: { number: string }[] }>(
      ...(['GET', `/api/items?words=${encodeURIComponent('template = yes')}`] as const),
    );
    return rows.map(({ number }) => number).sort();
  };
  expect(await found()).toEqual(['T-FRAME', 'T-PLATE']);
  const { number, version, made } = await begin('T-PLATE', { name: 'Left cheek' });
  expect([version, made]).toEqual(['A/1', [number]]);
  expect(await found()).toEqual(['T-FRAME', 'T-PLATE']);
  const view = await store.json<ItemView>('GET', `/api/item?item=${number}`);
  expect(view).toMatchObject({ name: 'Left cheek', place: '/new', heldBy: { login: 'ada' } });
  expect(view.properties).toEqual([{ kind: 'text', name: 'material', text: 'S355' }]);
});

it('is fetched with its number and name already in the file, and put back by whoever began it', async () => {
  const { number } = await begin('T-PLATE', { name: 'Right cheek' });
  const { files } = await store.fetch(number);
  const [[path, bytes] = ['', new Uint8Array()]] = files;
  expect(readStep(bytes).products[0]).toMatchObject({ id: number, name: 'Right cheek' });
  const changed = new TextDecoder('latin1').decode(bytes).replace('DATA;', 'DATA;\n/* made longer */');
  const { versions, refused } = await store.intake(
    new Map([[path.split('/').at(-1) ?? '', new TextEncoder().encode(changed)]]),
    { place: '/new' },
  );
  expect([versions, refused]).toEqual([1, []]);
});

it('takes what is proposed along, each under a number of its own, and holds that too', async () => {
  const admin = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  await store.call('PUT', '/api/numbers', { name: 'parts', prefix: 'P-', digits: 4, suffix: '' }, admin);
  // The only scheme that there is says the numbers.
  const { number, made } = await begin('T-FRAME', { name: 'Side frame' });
  expect(made).toHaveLength(2);
  expect(made.every((one) => /^P-\d{4}$/.test(one))).toBe(true);
  const rows = (await store.made(number)).rows.map((row) => row.number);
  expect(rows).toContain('SCREW');
  expect(rows.filter((one) => made.includes(one))).toHaveLength(1);
  const holds = await store.json<HoldRow[]>('GET', '/api/holds');
  expect(made.every((one) => holds.some((hold) => hold.number === one))).toBe(true);
  await expect(begin('T-FRAME', { scheme: 'none such' })).rejects.toThrow(/none such/);
  // What was begun with one template is no family.
  const { rows: stem } = await store.json<StemAnswer>('GET', '/api/stem?item=T-FRAME&lens=newest');
  expect(stem.map((row) => row.number)).toEqual(['T-FRAME']);
});

it('of many people at once has a number for each of them', async () => {
  const begun = await Promise.all(
    Array.from({ length: 6 }, async (_, at) => {
      const body = { item: 'T-PLATE', place: '/many' };
      const response = await store.call('POST', '/api/begin', body, at % 2 === 0 ? ben : {});
      return ((await response.json()) as BeginResult).number;
    }),
  );
  expect(new Set(begun).size).toBe(6);
});
