/** Who may do what where: every route that takes an item, for every role and for a place that is shut. */
import type {
  EntryRow,
  FindAnswer,
  ItemView,
  PlaceAccessView,
  PlaceRow,
  Role,
  StructureAnswer,
} from '@stem-trace/contract';
import type { Grant } from '@stem-trace/core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
const tokens = new Map<string, string>();
const ROLES: readonly Role[] = ['engineer', 'checker', 'planner', 'viewer', 'administrator'];

beforeAll(async () => {
  store = await TestStore.open();
  for (const role of ROLES) tokens.set(role, await store.tokenFor(`a-${role}`, role));
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  await store.call('POST', '/api/items/move', { items: ['TAIL_TURBINE'], place: '/shut' });
});
afterAll(() => store.close());

async function as(
  who: string,
  method: string,
  path: string,
  body?: unknown,
): Promise<{ status: number; body: unknown }> {
  return answerOf(store.call(method, path, body, { Authorization: `Bearer ${tokens.get(who)}` }));
}

async function answerOf(called: Promise<Response>): Promise<{ status: number; body: unknown }> {
  try {
    const response = await called;
    const text = await response.text();
    const isJson = response.headers.get('content-type')?.includes('json') ?? false;
    return { status: response.status, body: isJson && text !== '' ? JSON.parse(text) : text };
  } catch (error) {
    if (error instanceof Refused) return { status: error.status, body: error.problem };
    throw error;
  }
}

async function get<T>(who: string, path: string): Promise<T> {
  return (await as(who, 'GET', path)).body as T;
}

async function grant(place: string, inherits: boolean, grants: readonly Grant[]): Promise<PlaceAccessView> {
  const answer = await as('administrator', 'PUT', '/api/places/access', { place, inherits, grants });
  expect(answer.status).toBe(200);
  return answer.body as PlaceAccessView;
}

/** Route, what is sent, and the roles that may; requests name what is there, so that only access can refuse them. */
const MATRIX: readonly (readonly [string, string, unknown, readonly Role[]])[] = (() => {
  const all = ROLES;
  const changers: readonly Role[] = ['engineer', 'checker', 'administrator'];
  const notViewers: readonly Role[] = ['engineer', 'checker', 'planner', 'administrator'];
  const boss: readonly Role[] = ['administrator'];
  const deciders: readonly Role[] = ['checker', 'administrator'];
  const item = 'TAIL_ASM';
  return [
    ['GET', '/api/session', undefined, all],
    ['GET', '/api/items?words=tail', undefined, all],
    ['GET', '/api/find/words', undefined, all],
    ['GET', '/api/find/counts?words=tail', undefined, all],
    ['GET', '/api/find/ranges?property=mass', undefined, all],
    ['GET', '/api/find/table?words=tail', undefined, all],
    ['GET', '/api/saved', undefined, all],
    ['POST', '/api/saved', { kind: 'search', name: 'x', address: '/find?words=tail' }, notViewers],
    ['GET', `/api/item?item=${item}`, undefined, all],
    ['GET', `/api/made?item=${item}`, undefined, all],
    ['GET', `/api/used?item=${item}`, undefined, all],
    ['GET', `/api/net?item=${item}&side=made&papers=true`, undefined, all],
    ['GET', `/api/configurations?item=${item}`, undefined, all],
    ['POST', '/api/effect', { items: [item] }, all],
    ['POST', '/api/common', { items: [item, item] }, all],
    ['GET', `/api/compare?from=${item}&to=${item}`, undefined, all],
    ['GET', `/api/fetch?item=${item}`, undefined, all],
    ['GET', `/api/file?item=${item}`, undefined, all],
    ['GET', `/api/text?item=${item}`, undefined, all],
    ['GET', `/api/scene?item=${item}`, undefined, all],
    ['GET', `/api/like?item=${item}`, undefined, all],
    ['GET', `/api/like/properties?item=${item}`, undefined, all],
    ['GET', '/api/holds', undefined, all],
    ['GET', '/api/notices', undefined, all],
    ['GET', '/api/places', undefined, all],
    ['GET', '/api/places/access?place=/plane', undefined, all],
    ['GET', '/api/places/bin', undefined, all],
    ['GET', '/api/people', undefined, all],
    ['GET', '/api/entries', undefined, all],
    ['GET', '/api/entries?all=true', undefined, boss],
    ['GET', '/api/verify', undefined, boss],
    ['GET', '/api/audit', undefined, boss],
    ['GET', '/api/audit.csv', undefined, boss],
    // Tokens create no credentials; browsers do (access.test.ts).
    ['POST', '/api/people', { login: 'x' }, []],
    ['PATCH', '/api/people', { login: 'nobody', name: 'Nobody' }, []],
    ['POST', '/api/tokens', { name: 'script' }, []],
    ['POST', '/api/watch', { item, watch: true }, notViewers],
    ['POST', '/api/watch', { place: '/plane', watch: true }, notViewers],
    ['POST', '/api/notices/read', {}, notViewers],
    ['POST', '/api/intakes', { place: '/plane' }, changers],
    ['POST', '/api/derive/preview', { item }, notViewers],
    ['POST', '/api/derive/ground', { item }, notViewers],
    ['POST', '/api/derive', { item, place: '/plane' }, changers],
    ['GET', `/api/derive/proof?item=${item}`, undefined, notViewers],
    ['POST', '/api/bring-back', { item: `${item}@A/1` }, changers],
    ['POST', '/api/items/move', { items: [item], place: '/plane' }, changers],
    ['POST', '/api/items/rename', { item, name: 'Tail' }, changers],
    ['POST', '/api/items/belong', { item, model: '' }, changers],
    ['GET', '/api/properties', undefined, all],
    ['GET', '/api/numbers', undefined, all],
    ['PUT', '/api/properties/definition', { name: 'length', kind: 'number', unit: 'mm' }, boss],
    ['PUT', '/api/properties/class', { name: 'Tube', properties: [] }, boss],
    ['PUT', '/api/numbers', { name: 'parts', digits: 4, prefix: 'T-' }, boss],
    ['POST', '/api/numbers/reserve', { scheme: 'parts' }, changers],
    ['POST', '/api/items/properties', { items: [item], set: {} }, changers],
    ['GET', '/api/settings/title-block', undefined, all],
    ['PUT', '/api/settings/title-block', { rules: [] }, boss],
    ['GET', '/api/settings/revisions', undefined, all],
    ['PUT', '/api/settings/revisions', { scheme: 'letters' }, boss],
    ['POST', '/api/align/preview', { items: [item] }, deciders],
    ['POST', '/api/align', { items: [item] }, deciders],
    ['POST', '/api/places', { path: '/plane/new' }, changers],
    ['POST', '/api/places/move', { from: '/plane/nowhere', to: '/plane/x' }, changers],
    ['POST', '/api/places/bin', { place: '/plane/nowhere' }, changers],
    ['POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' }, changers],
    ['POST', '/api/steps', { items: [item], step: 'send back', reason: 'x' }, deciders],
    ['POST', '/api/holds/break', { item, reason: 'x' }, boss],
    ['PUT', '/api/places/access', { place: '/plane', inherits: true, grants: [] }, boss],
  ];
})();

describe('roles', () => {
  it.each(MATRIX)('%s %s is for those who may', async (method, path, body, allowed) => {
    for (const role of ROLES) {
      const { status } = await as(role, method, path, body);
      if (allowed.includes(role)) expect([role, status]).not.toEqual([role, 403]);
      else expect([role, status]).toEqual([role, status === 400 ? 400 : 403]);
    }
  });

  it.each(['/api/holds', '/api/holds/let-go', '/api/revise', '/api/catch-up'])(
    'POST %s is refused item by item',
    async (path) => {
      const { body } = await as('planner', 'POST', path, { items: ['TAIL_ASM'] });
      expect(body).toMatchObject({ done: [], refused: [{ number: 'TAIL_ASM' }] });
      expect((await as('viewer', 'POST', path, { items: ['TAIL_ASM'] })).status).toBe(403);
    },
  );
});

describe('a place that is shut', () => {
  beforeEach(() =>
    grant('/shut', false, [{ to: { kind: 'person', login: 'a-planner' }, rights: ['fetch'] }]),
  );

  it.each(
    MATRIX.filter(([, path, body]) => JSON.stringify([path, body ?? {}]).includes('TAIL_ASM')).map(
      ([method, path, body]) => [method, path, body] as const,
    ),
  )('gives nothing away by %s %s', async (method, path, body) => {
    const named = JSON.parse(
      JSON.stringify({ path, body: body ?? null }).replaceAll('TAIL_ASM', 'TAIL_TURBINE'),
    ) as { path: string; body: unknown };
    const { status, body: answer } = await as('engineer', method, named.path, named.body ?? undefined);
    expect([status, (answer as { code?: string }).code]).toEqual([404, 'ITEM_UNKNOWN']);
  });

  it('is counted where it is used, never named', async () => {
    const made = await get<StructureAnswer>('engineer', '/api/made?item=TAIL_ASM&all=true');
    expect(JSON.stringify(made)).not.toContain('TURBINE');
    expect(made.rows.filter(({ hidden }) => hidden)).toEqual([
      expect.objectContaining({ name: 'not visible to you', number: '', version: null, quantity: 2 }),
    ]);
    expect(made.hidden).toBe(1);
    const found = await get<FindAnswer>('engineer', '/api/items?words=turbine');
    // Not even counted: else one could ask, word by word, what it is like.
    expect([found.total, found.hidden, found.rows]).toEqual([0, 0, []]);
    const inPlace = await get<FindAnswer>('viewer', '/api/items?words=');
    expect(inPlace.hidden).toBeGreaterThan(0);
    const compared = await get<unknown>('engineer', '/api/compare?from=TAIL_ASM&to=TAIL_ASM');
    expect(JSON.stringify(compared)).not.toContain('TURBINE');
    expect((await get<PlaceRow[]>('engineer', '/api/places')).map(({ path }) => path)).not.toContain('/shut');
    expect((await as('engineer', 'GET', '/api/places/access?place=/shut')).status).toBe(404);
  });

  it('is left out of what is fetched, and said so', async () => {
    const whole = await store.call('GET', '/api/fetch?item=TAIL_ASM', undefined, {
      Authorization: `Bearer ${tokens.get('planner')}`,
    });
    const part = await store.fetch('TAIL_ASM');
    expect(part.files.size).toBeGreaterThan(0);
    expect(part.manifest.left).toEqual([
      expect.objectContaining({ reason: expect.stringMatching(/you may not fetch it$/) as string }),
    ]);
    expect([...part.files.keys()].join()).not.toContain('turbine');
    expect(Number((await whole.arrayBuffer()).byteLength)).toBeGreaterThan(0);
  });

  it('keeps a tree from being derived, and its numbers from being taken', async () => {
    const { status, body } = await as('engineer', 'POST', '/api/derive', { item: 'TAIL_ASM', prefix: 'Q-' });
    expect([status, (body as { detail: string }).detail]).toEqual([
      403,
      expect.stringMatching(/1 further item that you may not fetch/) as string,
    ]);
    const files = new Map([
      [
        't.stp',
        [...readExchangeSet('s1_pe_214')].find(([path]) => path.includes('turbine'))?.[1] ?? new Uint8Array(),
      ],
    ]);
    const review = await store.review(files, { place: '/plane' });
    expect(review.rows[0]?.notes.join()).toMatch(/taken by something that is not visible to you/);
  });

  it('opens to whom it is granted, and no further than that', async () => {
    expect((await get<ItemView>('planner', '/api/item?item=TAIL_TURBINE')).rights).toEqual([
      'fetch',
      'see',
      'receive',
    ]);
    expect(
      (await as('planner', 'POST', '/api/items/rename', { item: 'TAIL_TURBINE', name: 'x' })).status,
    ).toBe(403);
    const access = await grant('/shut', true, []);
    expect(access.fromAbove.map(({ place }) => place)).toEqual(['/']);
    expect((await get<ItemView>('engineer', '/api/item?item=TAIL_TURBINE')).rights).toContain('change');
  });

  it('cannot be shut to the one who shuts it', async () => {
    await grant('/shut', true, [{ to: { kind: 'person', login: 'a-engineer' }, rights: ['administer'] }]);
    const { status } = await as('engineer', 'PUT', '/api/places/access', {
      place: '/shut',
      inherits: false,
      grants: [],
    });
    expect(status).toBe(400);
    expect((await get<PlaceAccessView>('engineer', '/api/places/access?place=/shut')).mine).toContain(
      'administer',
    );
  });

  it('takes only people who are there', async () => {
    const { status, body } = await as('administrator', 'PUT', '/api/places/access', {
      place: '/shut',
      inherits: true,
      grants: [{ to: { kind: 'person', login: 'nobody' }, rights: ['see'] }],
    });
    expect([status, (body as { code: string }).code]).toEqual([404, 'PERSON_UNKNOWN']);
  });
});

describe('the bin', () => {
  it('takes a place that nothing outside uses, and gives it back as it was', async () => {
    await grant('/shut', true, []);
    const refused = await as('engineer', 'POST', '/api/places/bin', { place: '/shut' });
    expect([refused.status, (refused.body as { detail: string }).detail]).toEqual([
      409,
      expect.stringMatching(/TAIL_TURBINE is used in TAIL_ASM/) as string,
    ]);
    await store.intake(readExchangeSet('s1-c5-214'), { place: '/old/car', prefix: 'OLD-' });
    const before = await get<FindAnswer>('engineer', '/api/items?place=/old');
    expect(before.total).toBeGreaterThan(3);
    expect((await as('engineer', 'POST', '/api/places/bin', { place: '/old' })).status).toBe(204);
    expect((await get<FindAnswer>('engineer', '/api/items?place=/old')).total).toBe(0);
    expect((await as('administrator', 'GET', `/api/item?item=${before.rows[0]?.number}`)).status).toBe(404);
    expect(await get('administrator', '/api/places/bin')).toMatchObject([
      { path: '/old', items: before.total },
    ]);
    expect(await get('checker', '/api/places/bin')).toEqual([]);
    expect((await as('checker', 'POST', '/api/places/restore', { place: '/old' })).status).toBe(404);
    expect((await as('engineer', 'POST', '/api/places/restore', { place: '/old' })).status).toBe(204);
    expect((await get<FindAnswer>('engineer', '/api/items?place=/old')).total).toBe(before.total);
  });
});

describe('people and how they come in', () => {
  const makeToken = async (request: object): Promise<{ token: string }> => {
    const response = await store.call('POST', '/api/tokens', request, await store.sessionOf('a-engineer'));
    return (await response.json()) as { token: string };
  };
  /** An administrator in a browser. */
  const boss = async (method: string, path: string, body?: unknown): ReturnType<typeof as> => {
    session ??= await store.sessionOf('a-administrator');
    return answerOf(store.call(method, path, body, session));
  };
  let session: Readonly<Record<string, string>> | undefined;

  it('are made and changed by an administrator, of whom one is always left', async () => {
    const person = { login: 'nils', name: 'Nils', initials: 'NI', role: 'engineer', password: 'long enough' };
    expect((await boss('POST', '/api/people', person)).body).toMatchObject({ login: 'nils', isActive: true });
    expect((await boss('POST', '/api/people', person)).status).toBe(409);
    expect((await boss('POST', '/api/people', { ...person, login: 'short', password: 'short' })).status).toBe(
      400,
    );
    expect((await boss('PATCH', '/api/people', { login: 'a-administrator', role: 'viewer' })).status).toBe(
      400,
    );
    expect((await boss('PATCH', '/api/people', { login: 'nils', role: 'checker' })).body).toMatchObject({
      role: 'checker',
    });
  });

  it('come in no more once they may not, and all their sessions end', async () => {
    tokens.set('leaver', await store.tokenFor('leaver', 'engineer'));
    expect((await as('leaver', 'GET', '/api/session')).status).toBe(200);
    await boss('PATCH', '/api/people', { login: 'leaver', isActive: false });
    expect((await as('leaver', 'GET', '/api/session')).status).toBe(401);
    const signIn = await as('leaver', 'POST', '/api/session', {
      login: 'leaver',
      password: 'leaver-password',
    });
    expect(signIn.status).toBe(401);
  });

  it('list their sessions and tokens, and end them', async () => {
    const made = await makeToken({ name: 'nightly', scope: 'read', days: 7 });
    tokens.set('nightly', made.token);
    expect((await as('nightly', 'GET', '/api/items')).status).toBe(200);
    expect((await as('nightly', 'POST', '/api/notices/read')).status).toBe(403);
    const entries = await get<EntryRow[]>('engineer', '/api/entries');
    const entry = entries.find(({ name }) => name === 'nightly');
    expect(entry).toMatchObject({ kind: 'program', scope: 'read', isThis: false });
    expect(entries.filter(({ isThis }) => isThis)).toHaveLength(1);
    expect((await as('checker', 'DELETE', `/api/entries/${entry?.id}`)).status).toBe(404);
    expect((await as('engineer', 'DELETE', `/api/entries/${entry?.id}`)).status).toBe(204);
    expect((await as('nightly', 'GET', '/api/items')).status).toBe(401);
  });

  it('come in no more with a token that has run out', async () => {
    const made = await makeToken({ name: 'old', days: 1 });
    tokens.set('old', made.token);
    await store.database.query(
      `UPDATE access_token SET expires_at = now() - interval '1 second' WHERE name = 'old'`,
    );
    expect((await as('old', 'GET', '/api/items')).status).toBe(401);
  });

  it('leave a trail', async () => {
    const { body } = await boss('GET', '/api/audit?limit=200');
    const kinds = new Set((body as { rows: { kind: string }[] }).rows.map(({ kind }) => kind));
    for (const kind of ['access', 'people', 'token', 'place']) expect(kinds).toContain(kind);
  });
});

describe('watching a place', () => {
  it('tells what happens to anything in it, but not what may no more be seen', async () => {
    await grant('/shut', true, []);
    await as('checker', 'POST', '/api/watch', { place: '/shut', watch: true });
    await as('engineer', 'POST', '/api/holds', { items: ['TAIL_TURBINE'], reason: '' });
    const notices = await get<{ unread: number; rows: { says: string }[] }>('checker', '/api/notices');
    expect(notices.rows[0]?.says).toContain('checked out TAIL_TURBINE');
    expect(
      (await get<PlaceRow[]>('checker', '/api/places')).find(({ path }) => path === '/shut')?.watched,
    ).toBe(true);
    await grant('/shut', false, []);
    expect(JSON.stringify(await get('checker', '/api/notices'))).not.toContain('TURBINE');
    await grant('/shut', true, []);
    await as('engineer', 'POST', '/api/holds/let-go', { items: ['TAIL_TURBINE'] });
  });
});
