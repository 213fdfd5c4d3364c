/** Plans that are kept: by whom they are seen, when they are behind, and what a shared one never tells. */
import type { DeriveProposal, DeriveRequest, PlanDraft } from '@stem-trace/contract';
import { annotateStepPart } from '@stem-trace/formats';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { CUBE, filesOf } from '../testing/random-trees.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
type Headers = Readonly<Record<string, string>>;
let ben: Headers;
let eve: Headers;
let admin: Headers;
beforeAll(async () => {
  store = await TestStore.open();
  const as = async (...who: Parameters<TestStore['tokenFor']>): Promise<Headers> => ({
    Authorization: `Bearer ${await store.tokenFor(...who)}`,
  });
  [ben, eve, admin] = [
    await as('ben', 'engineer'),
    await as('eve', 'viewer'),
    await as('boss', 'administrator'),
  ];
  await store.intake(
    filesOf({
      names: ['PD', 'PA', 'PB'],
      uses: [
        [0, 1, 1],
        [0, 2, 2],
      ],
    }),
    { place: '/plans' },
  );
  await store.intake(filesOf({ names: ['PX'], uses: [] }), { place: '/other' });
});
afterAll(() => store.close());

async function asked<T>(headers: Headers, method: string, path: string, body?: unknown): Promise<T> {
  return (await (await store.call(method, path, body, headers)).json()) as T;
}

const plansOf = (headers: Headers = {}): Promise<PlanDraft[]> => asked(headers, 'GET', '/api/plans?item=PD');
const keep = (name: string, request: Partial<DeriveRequest>, isShared = false): Promise<PlanDraft> =>
  store.json('PUT', '/api/plans', { item: 'PD', name, isShared, request: { item: 'PD', ...request } });
const opened = (id: string, headers: Headers = {}): Promise<DeriveRequest> =>
  asked(headers, 'GET', `/api/plan?id=${id}`);

it('is kept under its name, replaced by its owner, seen by others once it is shared, and thrown away', async () => {
  const first = await keep('Coast', { copy: 'all', share: ['PB'], key: 'an attempt' });
  expect(first).toMatchObject({
    name: 'Coast',
    isMine: true,
    isShared: false,
    isBehind: false,
    version: 'A/1',
  });
  // The key is of one attempt.
  expect(await opened(first.id)).toMatchObject({ item: 'PD', copy: 'all', share: ['PB'], key: '' });
  expect(await plansOf(ben)).toEqual([]);
  await expect(opened(first.id, ben)).rejects.toThrow(/nobody shares it with you/);

  const again = await keep(' Coast ', { copy: 'all', omit: ['PA'] }, true);
  expect(again.id).toBe(first.id);
  expect(await plansOf(ben)).toMatchObject([{ id: first.id, name: 'Coast', isMine: false, isShared: true }]);
  expect(await opened(first.id, ben)).toMatchObject({ share: [], omit: ['PA'] });
  // Somebody else's is read, never replaced or thrown away.
  await asked(ben, 'PUT', '/api/plans', { item: 'PD', name: 'Coast', request: { item: 'PD' } });
  expect((await plansOf(ben)).map(({ isMine }) => isMine)).toEqual([true, false]);
  await expect(store.call('POST', '/api/plans/remove', { id: first.id }, ben)).rejects.toBeInstanceOf(
    Refused,
  );
  await store.call('POST', '/api/plans/remove', { id: first.id });
  await expect(opened(first.id)).rejects.toBeInstanceOf(Refused);
  expect(await plansOf()).toEqual([]);
});

it('does not tell what its reader may not see, and goes away with the sight of its origin', async () => {
  const { id } = await keep(
    'Swapped',
    {
      swap: [
        { from: 'PA', to: 'PX' },
        { from: 'PB', to: 'PA' },
      ],
      added: [{ in: ['PD'], item: 'PX', name: '', like: '', at: [0, 0, 0] }],
    },
    true,
  );
  const access = (place: string, grants: unknown[]): Promise<unknown> =>
    store.call('PUT', '/api/places/access', { place, inherits: false, grants }, admin);
  const engineers = { to: { kind: 'role', role: 'engineer' }, rights: ['see', 'fetch', 'change'] };
  expect((await opened(id, eve)).swap).toHaveLength(2);
  await access('/other', [engineers]);
  expect(await opened(id, eve)).toMatchObject({ swap: [{ from: 'PB', to: 'PA' }], added: [] });
  expect((await opened(id, ben)).swap).toHaveLength(2);
  await access('/plans', [engineers]);
  const [shut, absent] = await Promise.allSettled([opened(id, eve), opened('999999', eve)]);
  expect((shut as PromiseRejectedResult).reason).toMatchObject({ status: 404 });
  expect(String((shut as PromiseRejectedResult).reason)).toBe(
    String((absent as PromiseRejectedResult).reason),
  );
  await store.call('POST', '/api/plans/remove', { id });
});

it('is behind once its origin, or anything below it, has another version', async () => {
  const { id } = await keep('Old', { copy: 'all' });
  await store.json('POST', '/api/holds', { items: ['PB'], reason: '' });
  const longer = annotateStepPart(CUBE, {
    ...{
      id: 'PB',
      name: 'PB',
      description: '',
      version: '',
      source: 'made',
      fileName: 'file 2.stp',
      time: '',
    },
    properties: [{ name: 'length', kind: 'number', value: 2, unit: 'm' }],
  });
  const brought = await store.intake(new Map([['file 2.stp', longer]]), {
    place: '/plans',
    comment: 'Longer',
  });
  expect(brought).toMatchObject({ versions: 1, problems: [], refused: [] });
  expect(await plansOf()).toMatchObject([{ id, isBehind: true }]);
  expect(await keep('Old', { copy: 'all' })).toMatchObject({ id, isBehind: false });
});

it('can begin like the last variant of the stem, without its names', async () => {
  const proposal = (): Promise<DeriveProposal> => store.json('GET', '/api/derive/proposal?item=PD');
  expect((await proposal()).last).toBeNull();
  await store.derive({
    item: 'PD',
    copy: 'all',
    prefix: 'V-',
    place: '/v',
    swap: [{ from: 'PA', to: 'PX' }],
    omit: ['PB'],
  });
  const { last } = await proposal();
  expect(last).toMatchObject({
    variant: 'V-PD',
    request: { copy: 'all', swap: [{ from: 'PA', to: 'PX' }], omit: ['PB'], prefix: '', renamed: {} },
  });
});
