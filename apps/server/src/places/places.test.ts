import type { AlongRow, FindAnswer, ItemView, NoticesAnswer, PlaceRow } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore, treeText } from '../testing/test-store.js';

let store: TestStore;
let second: TestStore;
beforeAll(async () => {
  [store, second] = await Promise.all([TestStore.open(), TestStore.open()]);
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/projects/ship' });
});
afterAll(() => Promise.all([store.close(), second.close()]));

const post = (path: string, body: unknown): Promise<Response> => store.call('POST', path, body);
const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);

it('lists places with those above them', async () => {
  await post('/api/places', { path: '/archive' });
  expect(await store.json<PlaceRow[]>('GET', '/api/places')).toEqual([
    { path: '/', items: 0, watched: false },
    { path: '/archive', items: 0, watched: false },
    { path: '/projects', items: 0, watched: false },
    { path: '/projects/ship', items: 13, watched: false },
  ]);
  await expect(post('/api/places', { path: '/Archive' })).rejects.toMatchObject({
    problem: { code: 'PLACE_TAKEN' },
  });
});

describe('moving and renaming', () => {
  it('keep every reference; what is fetched refers to the new names and places', async () => {
    const before = treeText(await store.made('S1_PE_TOP'));
    await post('/api/items/move', {
      items: ['TAIL_TURBINE', 'FOOT_BACK'],
      place: '/projects/standard parts',
    });
    await post('/api/places/move', { from: '/projects', to: '/work 2026' });
    await post('/api/items/rename', {
      item: 'TAIL_TURBINE',
      name: 'Turbine',
      fileName: 'Turbine (left).stp',
    });
    await post('/api/items/rename', { item: 'HEAD_ASM', fileName: 'head assembly.stp' });
    expect(await view('TAIL_TURBINE')).toMatchObject({
      place: '/work 2026/standard parts',
      name: 'Turbine',
      fileName: 'Turbine (left).stp',
    });
    expect(treeText(await store.made('S1_PE_TOP'))).toEqual(before);

    const { files, manifest } = await store.fetch('S1_PE_TOP');
    expect(manifest.root).toBe('ship/s1_pe_214.stp');
    expect([...files.keys()]).toContain('standard parts/Turbine (left).stp');
    expect(new TextDecoder().decode(files.get('ship/tail_asm.stp'))).toContain(
      "'../standard parts/Turbine (left).stp'",
    );
    expect(await second.intake(files)).toMatchObject({ items: 13, links: 12, gaps: [], problems: [] });
    expect(treeText(await second.made('S1_PE_TOP'))).toEqual(before);
  });

  it('are found by the new name, within a place', async () => {
    const find = async (query: string): Promise<string[]> =>
      (await store.json<FindAnswer>('GET', `/api/items?${query}`)).rows.map(({ number }) => number);
    expect(await find('words=turbine&place=/work 2026/standard parts')).toEqual(['TAIL_TURBINE']);
    expect(await find('words=turbine&place=/work 2026/ship')).toEqual([]);
    expect(await find('words=foot&place=/work 2026')).toHaveLength(3);
    expect(await find('place=/work')).toEqual([]);
  });

  it('survive the next file that comes in under its old name', async () => {
    const bytes = readExchangeSet('s1_pe_214').get('tail_turbine_prt.stp');
    const text = new TextDecoder('latin1').decode(bytes).replace('DATA;', 'DATA;\n/* again */');
    await store.intake(new Map([['tail_turbine_prt.stp', new TextEncoder().encode(text)]]), {
      place: '/work 2026/standard parts',
    });
    expect(await view('TAIL_TURBINE')).toMatchObject({
      version: 'A/2',
      name: 'Turbine',
      fileName: 'Turbine (left).stp',
      place: '/work 2026/standard parts',
    });
  });

  it('warn the one who holds it, and are not done to what others hold', async () => {
    const bob = { Authorization: `Bearer ${await store.tokenFor('bob', 'engineer')}` };
    await store.call('POST', '/api/holds', { items: ['FOOT_FRONT'], reason: '' }, bob);
    await expect(post('/api/items/rename', { item: 'FOOT_FRONT', name: 'X' })).rejects.toThrow(
      /FOOT_FRONT: bob holds it/,
    );
    await expect(
      post('/api/items/move', { items: ['FOOT_BACK', 'FOOT_FRONT'], place: '/archive' }),
    ).rejects.toThrow(/Nothing was changed/);
    expect((await view('FOOT_BACK')).place).toBe('/work 2026/standard parts');
    await post('/api/places/move', { from: '/work 2026/ship', to: '/work 2026/vessel' });
    const notices = (await (await store.call('GET', '/api/notices', undefined, bob)).json()) as NoticesAnswer;
    expect(notices.rows[0]?.says).toBe('ada moved FOOT_FRONT with /work 2026/ship to /work 2026/vessel');
  });

  it.each([
    ['/api/places/move', { from: '/work 2026', to: '/work 2026/vessel/x' }, /into itself/],
    ['/api/places/move', { from: '/', to: '/x' }, /whole store/],
    ['/api/places/move', { from: '/nowhere', to: '/x' }, /no place \/nowhere/],
    ['/api/places/move', { from: '/work 2026/vessel', to: '/archive' }, /a place \/archive already/],
    ['/api/items/move', { items: ['FOOT_BACK'], place: '/a/../b' }, /without \. and \.\./],
    ['/api/items/rename', { item: 'FOOT_BACK', fileName: '../x.stp' }, /file name/],
    ['/api/items/rename', { item: 'FOOT_BACK' }, /One of \[name, fileName\] must be given/],
  ])('%s refuses %j', async (path, body, message) => {
    await expect(post(path, body)).rejects.toThrow(message);
  });
});

describe('what goes along, and who is told', () => {
  it('drawings and documents go with what they are about, where that is wanted', async () => {
    await store.intake(new Map([['SHEET-1.dxf', dxf({})]]), { place: '/drawings' });
    await store.json('POST', '/api/holds', { items: ['SHEET-1'], reason: '' });
    await store.json('POST', '/api/items/belong', { item: 'SHEET-1', model: 'HEAD_ASM' });
    await store.json('POST', '/api/holds/let-go', { items: ['SHEET-1'] });
    const about = await store.json<ItemView>('GET', '/api/item?item=HEAD_ASM');
    const [paper] = about.beside.filter(({ isUser }) => isUser);
    expect(paper).toBeDefined();
    const along = await store.json<AlongRow[]>('POST', '/api/items/along', {
      items: ['HEAD_ASM'],
      place: '/moved',
    });
    expect(along).toEqual([expect.objectContaining({ number: paper?.number, of: 'HEAD_ASM' })]);
    await post('/api/items/move', { items: ['HEAD_ASM'], place: '/moved' });
    expect((await view(paper?.number ?? '')).place).toBe('/drawings');
    const outside = await store.json<AlongRow[]>('GET', '/api/places/papers?place=/moved');
    expect(outside.map(({ number }) => number)).toEqual([paper?.number]);
    await post('/api/items/move', { items: ['HEAD_ASM'], place: '/moved again', along: true });
    expect((await view(paper?.number ?? '')).place).toBe('/moved again');
    expect(await store.json('GET', '/api/places/papers?place=/moved%20again')).toEqual([]);
  });

  it('a former name finds an item, and who holds a user of it is told both names', async () => {
    const ben = { Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}` };
    await store.call('POST', '/api/holds', { items: ['S1_PE_TOP'], reason: '' }, ben);
    await post('/api/items/rename', { item: 'HEAD_ASM', name: 'Quillback' });
    await post('/api/items/rename', { item: 'HEAD_ASM', name: 'Front section' });
    const found = await store.json<FindAnswer>('GET', '/api/items?words=quillback');
    expect(found.rows.map(({ number, foundIn }) => [number, foundIn])).toEqual([['HEAD_ASM', 'former name']]);
    const told = (await (await store.call('GET', '/api/notices', undefined, ben)).json()) as NoticesAnswer;
    expect(told.rows[0]?.says).toBe('ada renamed HEAD_ASM: ‘Front section’, before ‘Quillback’');
  });
});
