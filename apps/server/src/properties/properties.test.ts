import type { AlignAnswer, CustodyAnswer, FindAnswer, ItemView, NumberSchemeRow } from '@stem-trace/contract';
import { sayValue } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { annotateStepPart } from '@stem-trace/formats';
import { CUBE } from '../testing/random-trees.js';
import { TestStore, type Files } from '../testing/test-store.js';

let store: TestStore;
let boss: string;

beforeAll(async () => {
  store = await TestStore.open();
  boss = await store.tokenFor('dora', 'administrator');
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  await put('/api/properties/definition', { name: 'Wall', kind: 'number', unit: 'mm' });
  await put('/api/properties/definition', { name: 'Finish', kind: 'choice', choices: ['Raw', 'Painted'] });
  await put('/api/properties/class', {
    name: 'Shell',
    properties: [
      { name: 'Wall', isRequired: true },
      { name: 'Finish', isRequired: false },
    ],
  });
});
afterAll(() => store.close());

async function put<T>(path: string, body: unknown): Promise<T> {
  const response = await store.call('PUT', path, body, { Authorization: `Bearer ${boss}` });
  return (await response.json()) as T;
}
const post = <T>(path: string, body: unknown): Promise<T> => store.json('POST', path, body);
const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);
const said = async (item: string): Promise<string[]> =>
  (await view(item)).properties.map((property) => `${property.name}=${sayValue(property)}`);

describe('properties', () => {
  it('are edited on held items, each with a new version, and found', async () => {
    const edit = { items: ['TAIL_ASM', 'HEAD_ASM'], set: { wall: '3.2', finish: 'painted', Note: 'any' } };
    await expect(post('/api/items/properties', edit)).rejects.toMatchObject({
      problem: { code: 'NOT_HELD' },
    });
    await post('/api/holds', { items: edit.items, reason: '' });
    const { done } = await post<CustodyAnswer>('/api/items/properties', edit);
    expect(done).toEqual([
      { number: 'TAIL_ASM', version: 'A/2' },
      { number: 'HEAD_ASM', version: 'A/2' },
    ]);
    expect(await said('TAIL_ASM')).toEqual(
      expect.arrayContaining(['Wall=3.2 mm', 'Finish=Painted', 'Note=any']),
    );
    expect(await said('TAIL_ASM@A/1')).not.toContain('Wall=3.2 mm');
    const found = await store.json<FindAnswer>('GET', '/api/items?words=painted');
    expect(found.rows.map(({ number }) => number)).toEqual(['HEAD_ASM', 'TAIL_ASM']);
    const { madeOf } = await view('TAIL_ASM');
    expect(madeOf).toBe((await view('TAIL_ASM@A/1')).madeOf);
  });

  it('stay when a new file of the item comes in, but for what that says anew', async () => {
    const file = (mass: number): Files =>
      new Map([
        [
          'KEPT-1.stp',
          annotateStepPart(CUBE, {
            ...{ id: 'KEPT-1', name: 'KEPT-1', description: '', version: '', source: 'made' },
            ...{ fileName: 'KEPT-1.stp', time: '' },
            properties: [
              { name: 'mass', kind: 'number', value: mass, unit: 'kg' },
              { name: 'grade', kind: 'text', text: '8.8' },
            ],
          }),
        ],
      ]);
    const checkIn = async (mass: number): Promise<void> => {
      await post('/api/holds', { items: ['KEPT-1'], reason: '' });
      const { refused } = await store.intake(file(mass), { place: '/kept' });
      expect(refused).toEqual([]);
    };
    await store.intake(file(1), { place: '/kept' });
    await post('/api/items/properties', {
      ...{ items: ['KEPT-1'], set: { Note: 'for the weir', grade: '10.9' }, checkOut: true },
    });
    await checkIn(2);
    expect((await said('KEPT-1')).sort()).toEqual(['Note=for the weir', 'grade=10.9', 'mass=2 kg']);
    await checkIn(3);
    expect((await said('KEPT-1')).sort()).toEqual(['Note=for the weir', 'grade=10.9', 'mass=3 kg']);
    const found = await store.json<FindAnswer>('GET', '/api/items?words=weir');
    expect(found.rows.map(({ number }) => number)).toEqual(['KEPT-1']);
  });

  it('are saved in one step with a check-out, which leaves no hold behind', async () => {
    const edit = { items: ['MAIN_BODY_BACK', 'FOOT_BACK'], set: { Note: 'in one step' }, checkOut: true };
    const ben = { Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}` };
    await store.call('POST', '/api/holds', { items: ['FOOT_BACK'], reason: '' }, ben);
    await expect(post('/api/items/properties', edit)).rejects.toThrow(
      /FOOT_BACK: ben holds it. Nothing was changed/,
    );
    expect((await view('MAIN_BODY_BACK')).heldBy).toBeNull();
    await store.call('POST', '/api/holds/let-go', { items: ['FOOT_BACK'] }, ben);
    await post('/api/holds', { items: ['FOOT_BACK'], reason: 'mine before' });
    await post('/api/items/properties', edit);
    expect((await view('MAIN_BODY_BACK')).heldBy).toBeNull();
    expect((await view('FOOT_BACK')).heldBy?.reason).toBe('mine before');
    expect(await said('FOOT_BACK')).toContain('Note=in one step');
    await post('/api/holds/let-go', { items: ['FOOT_BACK'] });
  });

  it('are refused all together where one does not fit', async () => {
    const edit = { items: ['TAIL_ASM'], set: { Wall: '3 kg', Finish: 'shiny' } };
    await expect(post('/api/items/properties', edit)).rejects.toMatchObject({
      problem: {
        code: 'INPUT_INVALID',
        details: [expect.stringMatching(/Wall/), expect.stringMatching(/Finish/)],
      },
    });
    expect((await view('TAIL_ASM')).version).toBe('A/2');
  });

  it('that the class requires are wanted before a check', async () => {
    await post('/api/holds', { items: ['TAIL_TURBINE'], reason: '' });
    await post('/api/items/properties', { items: ['TAIL_TURBINE'], set: {}, class: 'shell' });
    expect((await view('TAIL_TURBINE')).class).toBe('Shell');
    await post('/api/holds/let-go', { items: ['TAIL_TURBINE'] });
    const ask = { items: ['TAIL_TURBINE'], step: 'ask for check', reason: '' };
    await expect(post('/api/steps', ask)).rejects.toThrow(/as a Shell it needs Wall/);
    await post('/api/holds', { items: ['TAIL_TURBINE'], reason: '' });
    await post('/api/items/properties', { items: ['TAIL_TURBINE'], set: { Wall: '0,1 in' } });
    await post('/api/holds/let-go', { items: ['TAIL_TURBINE'] });
    await expect(post('/api/steps', ask)).resolves.toMatchObject({ refused: [] });
    expect(await said('TAIL_TURBINE')).toContain('Wall=0.1 in');
  });

  it('are defined with units that somebody knows', async () => {
    await expect(
      put('/api/properties/definition', { name: 'Odd', kind: 'number', unit: 'bananas' }),
    ).rejects.toThrow(/Unknown unit 'bananas'/);
    await expect(
      put('/api/properties/class', { name: 'Odd', properties: [{ name: 'None', isRequired: true }] }),
    ).rejects.toThrow(/None is not defined/);
  });
});

describe('serial numbers', () => {
  it('are given once, however many ask at the same moment', async () => {
    await put('/api/numbers', { name: 'parts', prefix: 'P-', digits: 5 });
    const answers = await Promise.all(
      Array.from({ length: 60 }, (_, index) =>
        post<{ numbers: string[] }>('/api/numbers/reserve', { scheme: 'parts', count: 1 + (index % 4) }),
      ),
    );
    const numbers = answers.flatMap((answer) => answer.numbers);
    expect(new Set(numbers).size).toBe(numbers.length);
    expect([...numbers].sort()[0]).toBe('P-00001');
    expect([...numbers].sort().at(-1)).toBe(`P-${String(numbers.length).padStart(5, '0')}`);
  });

  it('pass over what is taken, and are never given again', async () => {
    await put('/api/numbers', { name: 'tails', prefix: 'TAIL_', digits: 1 });
    await store.intake(new Map([['TAIL_2.txt', new TextEncoder().encode('x')]]), { place: '/n' });
    expect(await post('/api/numbers/reserve', { scheme: 'tails', count: 3 })).toEqual({
      numbers: ['TAIL_1', 'TAIL_3', 'TAIL_4'],
    });
    expect(
      await put<NumberSchemeRow[]>('/api/numbers', { name: 'tails', prefix: 'T', digits: 3 }),
    ).toContainEqual(expect.objectContaining({ name: 'tails', next: 'T005' }));
  });

  it('are refused for a scheme that is not there, or would be no number', async () => {
    await expect(post('/api/numbers/reserve', { scheme: 'none' })).rejects.toThrow(/no number scheme none/);
    await expect(put('/api/numbers', { name: 'bad', prefix: ' ', digits: 1 })).rejects.toThrow(/blank/);
  });
});

describe('aligning revisions', () => {
  it('is previewed, then done for all, and the next revision goes on from there', async () => {
    await store.database.query(
      `UPDATE revision SET code = '00' FROM item i WHERE i.id = revision.item_id AND i.number IN ('BODY_ASM', 'TAIL_ASM')`,
    );
    const request = { items: ['TAIL_ASM', 'HEAD_ASM'], start: 'C' };
    const as = async <T>(path: string): Promise<T> =>
      (await (await store.call('POST', path, request, { Authorization: `Bearer ${boss}` })).json()) as T;
    const preview = await as<AlignAnswer>('/api/align/preview');
    expect(preview.rows.map(({ number, from, to }) => [number, from, to])).toEqual([
      ['TAIL_ASM', '00', 'C'],
      ['HEAD_ASM', 'A', 'C'],
    ]);
    expect((await view('TAIL_ASM')).version).toBe('00/2');
    await as('/api/align');
    expect((await view('TAIL_ASM')).version).toBe('C/2');
    expect((await as<AlignAnswer>('/api/align')).unchanged).toEqual(['TAIL_ASM', 'HEAD_ASM']);
    await store.database.query(
      `UPDATE revision SET state = 'released' FROM item i WHERE i.id = revision.item_id AND i.number = 'TAIL_ASM'`,
    );
    await post('/api/holds/let-go', { items: ['TAIL_ASM'] });
    expect((await post<CustodyAnswer>('/api/revise', { items: ['TAIL_ASM'] })).done).toEqual([
      { number: 'TAIL_ASM', version: 'D/1' },
    ]);
  });
});

it('what title blocks mean is set for the store, and holds for sheets that wait', async () => {
  const sheet = dxf({ fields: { ZEICHNUNG: 'Z-7', DRAWING_NUMBER: 'other' } });
  const review = await store.review(new Map([['a.dxf', sheet]]), { place: '/sheets' });
  expect(review.rows[0]?.number).toBe('other');
  await put('/api/settings/title-block', { rules: [{ tag: 'zeichnung', means: 'number' }] });
  const again = await store.json<typeof review>('GET', `/api/intakes/${review.id}`);
  expect(again.rows[0]?.number).toBe('Z-7');
});

it('the scheme of revisions is set for the store, and holds for those opened from then on', async () => {
  await put('/api/settings/revisions', { scheme: 'two digits' });
  await store.intake(new Map([['coded.txt', new TextEncoder().encode('x')]]), { place: '/coded' });
  expect((await view('coded')).version).toBe('01/1');
  expect((await view('coded@01/1')).shown).toBe('01/1');
  await put('/api/settings/revisions', { scheme: 'letters' });
});
