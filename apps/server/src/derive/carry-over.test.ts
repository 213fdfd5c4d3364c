/** Later changes of an origin in its variant: what is carried over, what a person has to do, and that nothing is half done. */
import type {
  BillAnswer,
  BillRowEdit,
  CarryDecision,
  CarryOverPlan,
  CarryOverResult,
  CustodyAnswer,
  FindAnswer,
  ItemView,
  NoticesAnswer,
  StemAnswer,
} from '@stem-trace/contract';
import { sayValue, type Proof } from '@stem-trace/core';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { CUBE, filesOf } from '../testing/random-trees.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const part = (id: string, mass: number): Uint8Array =>
  annotateStepPart(CUBE, {
    ...{ id, name: id, description: '', version: '', source: 'made', fileName: `${id}.stp`, time: '' },
    properties: [{ name: 'mass', kind: 'number', value: mass, unit: 'kg' }],
  });

function assembly(id: string, ...children: readonly (readonly [string, number])[]): Uint8Array {
  return writeStepAssembly({
    ...{ id, name: id, fileName: `${id}.stp`, time: '' },
    children: children.map(([child]) => ({ id: child, name: child, locator: `${child}.stp` })),
    uses: children.flatMap(([, many], child) =>
      Array.from({ length: many }, (_, copy) => ({
        ...{ child, name: `use ${copy}` },
        placement: [1, 0, 0, copy * 10, 0, 1, 0, 0, 0, 0, 1, 0],
      })),
    ),
  });
}

/** Puts files back under their numbers, as whoever holds them does. */
async function checkIn(
  place: string,
  comment: string,
  files: Readonly<Record<string, Uint8Array>>,
): Promise<void> {
  const items = Object.keys(files);
  await store.json<CustodyAnswer>('POST', '/api/holds', { items, reason: '' });
  const result = await store.intake(
    new Map(items.map((number) => [`${number}.stp`, files[number] as Uint8Array])),
    { place, comment },
  );
  expect([result.problems, result.refused]).toEqual([[], []]);
}

const plan = (item: string): Promise<CarryOverPlan> => store.json('GET', `/api/carry-over?item=${item}`);
const carry = (item: string, ...leave: string[]): Promise<CarryOverResult> =>
  store.json('POST', '/api/carry-over', { item, leave });
const decide = (item: string, decided: readonly CarryDecision[]): Promise<CarryOverResult> =>
  store.json('POST', '/api/carry-over', { item, decided });
/** Sets properties, and lets go. */
async function set(item: string, values: Readonly<Record<string, string>>): Promise<void> {
  await store.json<CustodyAnswer>('POST', '/api/items/properties', {
    items: [item],
    set: values,
    checkOut: true,
  });
}
async function said(item: string): Promise<Record<string, string>> {
  const { properties } = await store.json<ItemView>('GET', `/api/item?item=${item}`);
  return Object.fromEntries(properties.map((each) => [each.name, sayValue(each)]));
}
const made = async (number: string): Promise<string[]> =>
  (await store.made(number)).rows.map((row) => `${row.level} ${row.number} ×${row.quantity}`);
const proof = (item: string): Promise<Proof> => store.json('GET', `/api/derive/proof?item=${item}`);

it('carries over what only the origin changed, with what was decided then, and proves it', async () => {
  const place = '/carry/one';
  await store.intake(
    new Map([
      ['CT.stp', assembly('CT', ['CA', 1], ['CH', 1])],
      ['CA.stp', assembly('CA', ['CP', 2], ['CQ', 1])],
      ['CP.stp', part('CP', 1)],
      ['CQ.stp', part('CQ', 1)],
      ['CH.stp', part('CH', 1)],
    ]),
    { place },
  );
  await store.intake(filesOf({ names: ['CX'], uses: [] }), { place: `${place}/x` });
  await store.derive({
    item: 'CT',
    copy: 'all',
    prefix: 'V-',
    place: `${place}/v`,
    omit: ['CH'],
    swap: [{ from: 'CQ', to: 'CX' }],
  });
  expect((await plan('V-CT')).rows).toEqual([]);

  // The origin goes on: a third bolt, a heavier one, and something new.
  await checkIn(place, 'Third bolt, and a lid', {
    CA: assembly('CA', ['CP', 3], ['CQ', 1], ['CL', 1]),
    CL: part('CL', 2),
    CP: part('CP', 7),
  }).catch(async () => {
    // What is new cannot be held before it is there.
    await store.intake(new Map([['CL.stp', part('CL', 2)]]), { place });
    await checkIn(place, 'Third bolt, and a lid', {
      CA: assembly('CA', ['CP', 3], ['CQ', 1], ['CL', 1]),
      CP: part('CP', 7),
    });
  });
  const { rows } = await plan('V-CP');
  expect(rows.map(({ number, kind, because, stops }) => [number, kind, because, stops]).sort()).toEqual([
    ['V-CA', 'take', 'Third bolt, and a lid', false],
    ['V-CL', 'new', expect.anything(), false],
    ['V-CP', 'take', 'Third bolt, and a lid', false],
  ]);
  const { done, left } = await carry('V-CT');
  expect(left).toEqual([]);
  expect(done.map(({ number, version }) => `${number} ${version}`).sort()).toEqual([
    'V-CA A/2',
    'V-CL A/1',
    'V-CP A/2',
  ]);
  // The part that was swapped stays swapped, what was left out stays out.
  expect(await made('V-CT')).toEqual(['1 V-CA ×1', '2 V-CP ×2', '2 CX ×1']);
  const { rows: newest } = await store.made('V-CT', '&lens=newest');
  expect(newest.map((row) => `${row.level} ${row.number} ×${row.quantity}`)).toEqual([
    '1 V-CA ×1',
    '2 V-CP ×3',
    '2 CX ×1',
    '2 V-CL ×1',
  ]);
  expect((await proof('V-CT')).faults).toEqual([]);
  // It is recorded: next time starts from there.
  expect((await plan('V-CT')).rows).toEqual([]);
  const stem = await store.json<StemAnswer>('GET', '/api/stem?item=V-CA&lens=newest');
  expect(stem.rows.find(({ number }) => number === 'V-CA')?.drift).toMatchObject({
    origin: 0,
    contradict: 0,
  });
});

it('leaves to people what both changed, what others hold, and what is left for later', async () => {
  const place = '/carry/two';
  await store.intake(
    new Map([
      ['DT.stp', assembly('DT', ['DA', 1], ['DB', 1], ['DC', 1])],
      ...['DA', 'DB', 'DC'].map((id) => [`${id}.stp`, part(id, 1)] as const),
    ]),
    { place },
  );
  await store.derive({ item: 'DT', copy: 'all', prefix: 'V-', place: `${place}/v` });
  await checkIn(place, 'Heavier', { DA: part('DA', 2), DB: part('DB', 2), DC: part('DC', 2) });
  await checkIn(`${place}/v`, 'Our own', { 'V-DA': part('V-DA', 9) });
  const ben = await store.tokenFor('ben', 'engineer');
  await store.call(
    'POST',
    '/api/holds',
    { items: ['V-DB'], reason: 'busy' },
    { Authorization: `Bearer ${ben}` },
  );
  const { rows } = await plan('V-DT');
  expect(Object.fromEntries(rows.map(({ number, kind, says }) => [number, `${kind}: ${says}`]))).toEqual({
    'V-DA': 'both: both files changed: bring them together in the design program, then check the copy in',
    'V-DB': 'take: ben holds it',
    'V-DC': 'take: ',
  });
  const first = await carry('V-DT', 'V-DC');
  expect(first.done).toEqual([]);
  expect(first.left.find(({ number }) => number === 'V-DC')?.says).toBe('left for later');
  const second = await carry('V-DT');
  expect(second.done.map(({ number }) => number)).toEqual(['V-DC']);
  await expect(plan('DT')).rejects.toThrow('DT was not derived from another item');
});

it('brings values together field by field, and has contradictions decided', async () => {
  const place = '/carry/values';
  await store.intake(
    new Map([
      ['EA.stp', part('EA', 1)],
      ['EB.stp', part('EB', 1)],
    ]),
    { place },
  );
  await set('EA', { finish: 'raw', note: 'old' });
  await store.intake(new Map([['ET.stp', assembly('ET', ['EA', 1], ['EB', 1])]]), { place });
  await store.derive({
    ...{ item: 'ET', copy: 'all', prefix: 'V-', place: `${place}/v` },
    values: [{ of: '', set: { site: 'Weir' } }],
  });
  // Both sides change one thing each, one thing alike, and one thing apart; the copy alone keeps what it was given.
  await set('EA', { finish: 'zinc', grade: '8.8', tolerance: 'm' });
  await set('V-EA', { finish: 'painted', note: 'ours', grade: '8.8' });
  await checkIn(place, 'Heavier', { EA: part('EA', 2) });
  await checkIn(place, 'Two of them', { ET: assembly('ET', ['EA', 2], ['EB', 1]) });
  const row = (await plan('V-ET')).rows.find(({ number }) => number === 'V-EA');
  expect(row).toMatchObject({
    kind: 'take',
    contradictions: [{ field: 'finish', base: 'raw', origin: 'zinc', copy: 'painted' }],
    stops: false,
  });
  expect(row?.keeps).toEqual(['finish', 'note']);
  const first = await carry('V-ET');
  expect(first.left).toEqual([{ number: 'V-EA', says: 'nobody decided yet whose it is: finish' }]);
  expect(first.done.map(({ number }) => number)).toEqual(['V-ET']);
  // What it was given when it was derived is still there.
  expect(await said('V-ET')).toMatchObject({ site: 'Weir' });
  const second = await decide('V-ET', [{ number: 'V-EA', field: 'Finish', take: 'origin' }]);
  expect(second.done.map(({ number }) => number)).toEqual(['V-EA']);
  expect(await said('V-EA')).toMatchObject({
    ...{ finish: 'zinc', note: 'ours', grade: '8.8', tolerance: 'm', mass: '2 kg' },
  });
  expect((await proof('V-ET')).faults).toEqual([]);
  expect((await plan('V-ET')).rows).toEqual([]);
  // And it is found by them.
  const found = await store.json<FindAnswer>('GET', '/api/items?words=zinc&limit=50');
  expect(found.rows.map(({ number }) => number)).toEqual(expect.arrayContaining(['EA', 'V-EA']));
});

it('takes new values where the copy has a file of its own, which it keeps', async () => {
  const place = '/carry/own';
  await store.intake(
    new Map([
      ['HT.stp', assembly('HT', ['HA', 1], ['HB', 1])],
      ...['HA', 'HB'].map((id) => [`${id}.stp`, part(id, 1)] as const),
    ]),
    { place },
  );
  await store.derive({ item: 'HT', copy: 'all', prefix: 'V-', place: `${place}/v` });
  await checkIn(`${place}/v`, 'Our own', {
    'V-HT': assembly('V-HT', ['V-HA', 3], ['V-HB', 1]),
    'V-HA': part('V-HA', 9),
  });
  await set('HT', { finish: 'zinc' });
  await set('HA', { finish: 'zinc' });
  expect((await plan('V-HT')).rows.map(({ number, kind, stops }) => [number, kind, stops])).toEqual([
    ['V-HT', 'values', false],
    ['V-HA', 'values', false],
  ]);
  const { done } = await carry('V-HT');
  expect(done.map(({ number, version }) => `${number} ${version}`).sort()).toEqual(['V-HA A/3', 'V-HT A/3']);
  expect(await said('V-HA')).toMatchObject({ finish: 'zinc', mass: '9 kg' });
  expect(await made('V-HT')).toEqual(['1 V-HA ×3', '1 V-HB ×1']);
  expect((await plan('V-HT')).rows).toEqual([]);
});

it('keeps what the copy’s bill says of uses, and takes what the origin’s says', async () => {
  const place = '/carry/bills';
  await store.intake(
    new Map([
      ['KT.stp', assembly('KT', ['KA', 2], ['KB', 1])],
      ...['KA', 'KB', 'KC'].map((id) => [`${id}.stp`, part(id, 1)] as const),
    ]),
    { place },
  );
  const bill = (item: string): Promise<BillAnswer> => store.json('GET', `/api/bill?item=${item}`);
  const edit = async (item: string, edits: Readonly<Record<string, Partial<BillRowEdit>>>): Promise<void> => {
    const {
      rows,
      item: { version },
    } = await bill(item);
    await store.json('POST', '/api/bill/rows', {
      ...{ item, version, comment: '', checkOut: true },
      rows: rows.flatMap(({ number, position }) => (edits[number] ? [{ position, ...edits[number] }] : [])),
    });
  };
  const saidIn = async (item: string): Promise<Record<string, string>> =>
    Object.fromEntries(
      (await bill(item)).rows.map(({ number, find, amount }) => [number, `${find}: ${amount.said}`]),
    );
  await edit('KT', { KA: { find: '10' }, KB: { find: '20' } });
  await store.derive({ item: 'KT', copy: 'all', prefix: 'V-', place: `${place}/v` });
  await edit('V-KT', { 'V-KA': { find: '11' }, 'V-KB': { amount: '0.5 m' } });
  await checkIn(place, 'One more, and another', { KT: assembly('KT', ['KA', 3], ['KB', 1], ['KC', 1]) });
  await edit('KT', { KA: { find: '12' }, KC: { find: '30' } });
  expect((await plan('V-KT')).rows.find(({ number }) => number === 'V-KT')).toMatchObject({
    contradictions: [{ field: 'find number of V-KA', base: '10', origin: '12', copy: '11' }],
  });
  await decide('V-KT', [{ number: 'V-KT', field: 'find number of V-KA', take: 'copy' }]);
  expect(await saidIn('V-KT')).toEqual({ 'V-KA': '11: 3', 'V-KB': '20: 0.5 m', 'V-KC': '30: 1' });
  expect((await proof('V-KT')).faults).toEqual([]);
});

it('tells whoever watches a variant, or a copy in it, that its origin changed', async () => {
  const place = '/carry/told';
  await store.intake(
    new Map([
      ['NT.stp', assembly('NT', ['NP', 1])],
      ['NP.stp', part('NP', 1)],
    ]),
    { place },
  );
  await store.derive({ item: 'NT', copy: 'all', prefix: 'V-', place: `${place}/v` });
  const watching = async (login: string, item: string): Promise<() => Promise<string[]>> => {
    const headers = { Authorization: `Bearer ${await store.tokenFor(login, 'engineer')}` };
    await store.call('POST', '/api/watch', { item, watch: true }, headers);
    return async () => {
      const response = await store.call('GET', '/api/notices', undefined, headers);
      return ((await response.json()) as NoticesAnswer).rows.map(({ says }) => says);
    };
  };
  const [ofTop, ofPart, ofOther] = [
    await watching('ben', 'V-NT'),
    await watching('cleo', 'V-NP'),
    await watching('dora', 'CX'),
  ];
  await checkIn(place, 'Heavier', { NP: part('NP', 2) });
  expect(await ofTop()).toEqual([expect.stringMatching(/NP.*; V-NT has a copy of it$/)]);
  expect(await ofPart()).toEqual([expect.stringMatching(/NP.*; V-NP has a copy of it$/)]);
  expect(await ofOther()).toEqual([]);
  // Being taken out changes nothing yet, and once it is carried over only the variant's own watchers hear of that.
  await carry('V-NT');
  const told = await ofPart();
  expect(told.filter((says) => says.includes('has a copy'))).toHaveLength(1);
});
