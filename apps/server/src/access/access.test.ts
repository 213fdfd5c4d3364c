import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const ROUTES = [
  ['GET', '/api/session'],
  ['POST', '/api/tokens'],
  ['GET', '/api/items'],
  ['GET', '/api/find/words'],
  ['GET', '/api/find/counts'],
  ['GET', '/api/find/ranges?property=mass'],
  ['GET', '/api/find/table'],
  ['GET', '/api/saved'],
  ['POST', '/api/saved'],
  ['DELETE', '/api/saved/1'],
  ['GET', '/api/item?item=X'],
  ['GET', '/api/made?item=X'],
  ['GET', '/api/used?item=X'],
  ['GET', '/api/net?item=X&side=made'],
  ['GET', '/api/configurations?item=X'],
  ['POST', '/api/effect'],
  ['POST', '/api/common'],
  ['GET', '/api/compare?from=X&to=Y'],
  ['GET', '/api/intakes'],
  ['POST', '/api/intakes'],
  ['POST', '/api/intakes/archive'],
  ['POST', '/api/intakes/1/cancel'],
  ['GET', '/api/intakes/1'],
  ['PATCH', '/api/intakes/1'],
  ['PUT', '/api/intakes/1/files?path=a.stp'],
  ['POST', '/api/intakes/1/carry-out'],
  ['POST', '/api/derive/preview'],
  ['POST', '/api/derive'],
  ['GET', '/api/derive/proof?item=X'],
  ['GET', '/api/fetch?item=X'],
  ['GET', '/api/holds'],
  ['POST', '/api/holds'],
  ['POST', '/api/holds/let-go'],
  ['POST', '/api/holds/break'],
  ['POST', '/api/revise'],
  ['POST', '/api/catch-up'],
  ['POST', '/api/bring-back'],
  ['POST', '/api/steps'],
  ['GET', '/api/notices'],
  ['POST', '/api/notices/read'],
  ['POST', '/api/watch'],
  ['GET', '/api/feed'],
  ['GET', '/api/verify'],
  ['GET', '/api/audit'],
  ['GET', '/api/audit.csv'],
  ['GET', '/api/mesh?item=X'],
  ['GET', '/api/like?item=X'],
  ['POST', '/api/like'],
  ['GET', '/api/like/properties?item=X'],
  ['GET', '/api/scene?item=X'],
  ['GET', '/api/file?item=X'],
  ['GET', '/api/text?item=X'],
  ['GET', '/api/places'],
  ['GET', '/api/places/access?place=/'],
  ['PUT', '/api/places/access'],
  ['GET', '/api/places/bin'],
  ['POST', '/api/places/bin'],
  ['POST', '/api/places/restore'],
  ['GET', '/api/properties'],
  ['PUT', '/api/properties/definition'],
  ['PUT', '/api/properties/class'],
  ['POST', '/api/items/properties'],
  ['GET', '/api/numbers'],
  ['PUT', '/api/numbers'],
  ['POST', '/api/numbers/reserve'],
  ['GET', '/api/settings/title-block'],
  ['PUT', '/api/settings/title-block'],
  ['GET', '/api/settings/revisions'],
  ['PUT', '/api/settings/revisions'],
  ['POST', '/api/items/belong'],
  ['POST', '/api/align'],
  ['POST', '/api/align/preview'],
  ['GET', '/api/people'],
  ['POST', '/api/people'],
  ['PATCH', '/api/people'],
  ['GET', '/api/entries'],
  ['DELETE', '/api/entries/1'],
  ['POST', '/api/places'],
  ['POST', '/api/places/move'],
  ['POST', '/api/items/move'],
  ['POST', '/api/items/rename'],
] as const;

async function status(
  method: string,
  path: string,
  headers: Readonly<Record<string, string>> = {},
): Promise<number> {
  const body =
    method === 'GET' ? {} : { body: '{}', headers: { 'Content-Type': 'application/json', ...headers } };
  return (await fetch(store.server.address + path, { method, headers, ...body })).status;
}

const signIn = (
  login: string,
  password: string,
  headers: Readonly<Record<string, string>> = {},
): Promise<Response> =>
  fetch(`${store.server.address}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...headers },
    body: JSON.stringify({ login, password }),
  });

describe('every route', () => {
  it('is in this list', () => {
    const router = store.server.app.getHttpAdapter().getInstance() as {
      router: { stack: { route?: { path: string; methods: Record<string, boolean> } }[] };
    };
    const served = router.router.stack.flatMap(({ route }) =>
      route ? Object.keys(route.methods).map((method) => `${method.toUpperCase()} ${route.path}`) : [],
    );
    const open = ['POST /api/session', 'DELETE /api/session', 'GET /api/welcome'];
    const listed = ROUTES.map(
      ([method, path]) => `${method} ${path.replace(/\?.*/, '').replace('/1', '/:id')}`,
    );
    expect(served.sort()).toEqual([...listed, ...open].sort());
  });

  it.each(ROUTES)('%s %s needs a sign-in', async (method, path) => {
    expect(await status(method, path)).toBe(401);
    expect(await status(method, path, { Authorization: 'Bearer st_made_up' })).toBe(401);
  });

  const asking: readonly string[] = ['/api/effect', '/api/common', '/api/like'];
  const changing = ROUTES.filter(([method, path]) => method !== 'GET' && !asking.includes(path));

  it.each(changing)('%s %s is not for viewers', async (method, path) => {
    const token = await store.tokenFor('vera', 'viewer');
    expect(await status(method, path, { Authorization: `Bearer ${token}` })).toBe(403);
  });
});

describe('signing in', () => {
  it('sets a cookie that scripts cannot read, which works until signing out', async () => {
    const response = await signIn('ada', 'ada-password');
    const cookie = response.headers.get('set-cookie') ?? '';
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Lax/);
    const session = { Cookie: cookie.split(';')[0] ?? '' };
    expect(await status('GET', '/api/items', session)).toBe(200);
    expect(await status('DELETE', '/api/session', session)).toBe(204);
    expect(await status('GET', '/api/items', session)).toBe(401);
  });

  it('says the same for a wrong name and a wrong password', async () => {
    const [wrong, unknown] = await Promise.all([signIn('ada', 'x'), signIn('nobody', 'x')]);
    expect([wrong.status, unknown.status]).toEqual([401, 401]);
    expect(await wrong.json()).toEqual(await unknown.json());
  });

  it('is refused for a while after many failures', async () => {
    await store.tokenFor('carl', 'engineer');
    for (let tries = 0; tries < 10; tries++) await signIn('carl', 'wrong');
    expect((await signIn('carl', 'carl-password')).status).toBe(429);
    expect((await signIn('ada', 'ada-password')).status).toBe(200);
  });

  it('with a cookie changes nothing for another site', async () => {
    const cookie =
      ((await signIn('ada', 'ada-password')).headers.get('set-cookie') ?? '').split(';')[0] ?? '';
    expect(await status('POST', '/api/intakes', { Cookie: cookie, Origin: 'http://elsewhere.test' })).toBe(
      403,
    );
    expect(await status('POST', '/api/intakes', { Cookie: cookie, Origin: store.server.address })).toBe(201);
    expect((await signIn('ada', 'ada-password', { Origin: 'http://elsewhere.test' })).status).toBe(403);
  });
});

describe('problems', () => {
  it('have one shape, with a code and what to do', async () => {
    await expect(store.call('GET', '/api/item?item=NONE')).rejects.toMatchObject({
      status: 404,
      problem: {
        type: 'urn:stem-trace:problem:item-unknown',
        code: 'ITEM_UNKNOWN',
        status: 404,
        detail: expect.stringMatching(/no item NONE.*Check the number/) as string,
      },
    });
    await expect(store.call('GET', '/api/nothing')).rejects.toMatchObject({ problem: { code: 'NOT_FOUND' } });
    await expect(store.call('GET', '/api/items?unknown=1')).rejects.toMatchObject({
      problem: { code: 'INPUT_INVALID' },
    });
    await expect(store.call('GET', '/api/made?item=X&lens=yesterday')).rejects.toThrow(
      /recorded, newest, released or a day/,
    );
  });

  it('say so when a body is no JSON', async () => {
    const response = await fetch(`${store.server.address}/api/derive`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Authorization: `Bearer ${store.token}` },
      body: '{',
    });
    expect([response.status, response.headers.get('content-type')]).toEqual([
      400,
      'application/problem+json; charset=utf-8',
    ]);
  });

  it('come with security headers', async () => {
    const { headers } = await fetch(`${store.server.address}/api/welcome`);
    expect(headers.get('content-security-policy')).toMatch(/script-src 'self'/);
    expect(headers.get('x-content-type-options')).toBe('nosniff');
  });
});
