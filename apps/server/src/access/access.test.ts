import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MOST_BODY_BYTES, ROUTES, type Route, type RouteFacts } from '@stem-trace/contract';
import { INPUTS } from '@stem-trace/contract/schemas';
import { TestStore } from '../testing/test-store.js';
import { AccessService } from './access.service.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

/** Every route that needs a sign-in, with something in the place of its parameters. */
const CLOSED = (Object.entries(ROUTES) as [Route, RouteFacts][])
  .filter(([, { wants }]) => wants !== 'nobody')
  .map(([route, facts]) => {
    const [method = '', path = ''] = route.split(' ');
    return { route, method, path: path.replace(/:\w+/g, '1'), facts };
  });

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
  it('is in the table, and everything in the table is served', () => {
    const router = store.server.app.getHttpAdapter().getInstance() as {
      router: { stack: { route?: { path: string; methods: Record<string, boolean> } }[] };
    };
    const served = router.router.stack.flatMap(({ route }) =>
      route ? Object.keys(route.methods).map((method) => `${method.toUpperCase()} ${route.path}`) : [],
    );
    expect(served.sort()).toEqual(Object.keys(ROUTES).sort());
  });

  it.each(CLOSED)('$route needs a sign-in', async ({ method, path }) => {
    expect(await status(method, path)).toBe(401);
    expect(await status(method, path, { Authorization: 'Bearer st_made_up' })).toBe(401);
  });

  const changing = CLOSED.filter(({ method, facts }) => method !== 'GET' && !facts.isQuestion);

  it.each(changing)('$route is not for viewers, nor for tokens that only read', async ({ method, path }) => {
    const token = await store.tokenFor('vera', 'viewer');
    expect(await status(method, path, { Authorization: `Bearer ${token}` })).toBe(403);
    const access = store.server.app.get(AccessService);
    const ada = await access.personByLogin('ada');
    const reading = await access.issue({
      personId: ada?.id ?? '',
      kind: 'program',
      name: 'reading',
      scope: 'read',
      expiresAt: null,
    });
    expect(await status(method, path, { Authorization: `Bearer ${reading}` })).toBe(403);
  });

  const withBody = CLOSED.filter(({ route, facts }) => INPUTS[route]?.body && !facts.upload);

  let kept: ReturnType<TestStore['sessionOf']> | undefined;
  const rootSession = (): ReturnType<TestStore['sessionOf']> => (kept ??= store.sessionOf('root'));

  it.each(withBody)(
    '$route takes no more than it says, and reads none of it from strangers',
    async (tried) => {
      const { method, path, facts } = tried;
      const most = facts.mostBytes ?? MOST_BODY_BYTES;
      const send = (headers: Readonly<Record<string, string>>, size: number): Promise<Response> =>
        fetch(store.server.address + path, {
          method,
          headers: { 'Content-Type': 'application/json', ...headers },
          body: `{"x":"${'x'.repeat(size)}"}`,
        });
      const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
      const { Cookie } = facts.isInBrowserOnly ? await rootSession() : {};
      // A megabyte more than allowed is refused by what it says of itself.
      const refused = await send(Cookie ? { Cookie } : admin, most + 1_000_000).catch(() => undefined);
      if (refused) expect(await refused.json()).toMatchObject({ code: 'FILE_TOO_LARGE', status: 413 });
      expect((await send({}, 100)).status).toBe(401);
    },
  );
});

describe('signing in', () => {
  it('sets a cookie that scripts cannot read, which works until signing out', async () => {
    const response = await signIn('ada', 'ada-password');
    const cookie = response.headers.getSetCookie()[0] ?? '';
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

  it('is refused for a while after many failures, also where they all come at once', async () => {
    await store.tokenFor('carl', 'engineer');
    const tries = await Promise.all(Array.from({ length: 30 }, () => signIn('carl', 'wrong')));
    const statuses = tries.map(({ status: code }) => code);
    expect(statuses.filter((code) => code === 401)).toHaveLength(10);
    expect(statuses.filter((code) => code === 429)).toHaveLength(20);
    expect((await signIn('carl', 'carl-password')).status).toBe(429);
    expect((await signIn('ada', 'ada-password')).status).toBe(200);
  });

  it('goes on in the browser where somebody signed in before, whoever else tries their name', async () => {
    await store.tokenFor('dora', 'engineer');
    const first = await signIn('dora', 'dora-password');
    const device = first.headers.getSetCookie().find((cookie) => cookie.startsWith('stem_device='));
    expect(device).toMatch(/HttpOnly.*SameSite=Strict/);
    await Promise.all(Array.from({ length: 30 }, () => signIn('dora', 'wrong')));
    expect((await signIn('dora', 'dora-password')).status).toBe(429);
    const known = { Cookie: device?.split(';')[0] ?? '' };
    expect((await signIn('dora', 'dora-password', known)).status).toBe(200);
    // It is no way around the count, neither for the same name nor for another.
    for (let tries = 0; tries < 10; tries++) await signIn('dora', 'wrong', known);
    expect((await signIn('dora', 'dora-password', known)).status).toBe(429);
    expect((await signIn('carl', 'carl-password', known)).status).toBe(429);
  });

  it('is in the trail, with where it came from and whether it failed', async () => {
    await store.tokenFor('emil', 'engineer');
    await signIn('emil', 'emil-password');
    await signIn('emil', 'wrong');
    const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    await expect
      .poll(async () => {
        const answer = await store.call('GET', '/api/audit?person=emil&kind=sign in', undefined, admin);
        return ((await answer.json()) as { rows: { says: string }[] }).rows.map(({ says }) => says);
      })
      .toEqual([
        expect.stringMatching(/Signing in as emil failed, from .*127\.0\.0\.1/),
        expect.stringMatching(/emil signed in from .*127\.0\.0\.1/),
      ]);
  });

  it('gives a session that makes tokens, which make none themselves', async () => {
    const session = (await signIn('ada', 'ada-password')).headers.getSetCookie()[0]?.split(';')[0] ?? '';
    const make = (headers: Readonly<Record<string, string>>): Promise<Response> =>
      fetch(`${store.server.address}/api/tokens`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', ...headers },
        body: JSON.stringify({ name: 'script' }),
      });
    const made = await make({ Cookie: session });
    expect(made.status).toBe(201);
    const { token } = (await made.json()) as { token: string };
    const refused = await make({ Authorization: `Bearer ${token}` });
    expect(refused.status).toBe(403);
    expect(await refused.json()).toMatchObject({
      detail: expect.stringMatching(/token cannot create/) as string,
    });
    // Neither does a token in the place of the session, nor a session in the place of a token.
    const who = (headers: Readonly<Record<string, string>>): Promise<Response> =>
      fetch(`${store.server.address}/api/session`, { headers });
    const cookie = `stem_session=${token}`;
    expect((await make({ Cookie: cookie })).status).toBe(401);
    expect((await who({ Cookie: cookie })).status).toBe(401);
    expect((await who({ Authorization: `Bearer ${session.split('=')[1]}` })).status).toBe(401);
    expect((await who({ Cookie: session })).status).toBe(200);
  });

  it('ends what a session listens to when the session ends', async () => {
    const session = {
      Cookie: (await signIn('ada', 'ada-password')).headers.getSetCookie()[0]?.split(';')[0] ?? '',
    };
    const feed = await fetch(`${store.server.address}/api/feed`, { headers: session });
    const reader = (feed.body as ReadableStream<Uint8Array>).getReader();
    expect((await reader.read()).done).toBe(false);
    expect(await status('DELETE', '/api/session', session)).toBe(204);
    for (let part = await reader.read(); !part.done; part = await reader.read());
  });

  it('with a cookie changes nothing for another site', async () => {
    const cookie = (await signIn('ada', 'ada-password')).headers.getSetCookie()[0]?.split(';')[0] ?? '';
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
      /recorded, newest, released, a day such as/,
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
