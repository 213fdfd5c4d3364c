/** What people change about themselves. */
import type { Preferences } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const signIn = (password: string): Promise<Response> =>
  store.call('POST', '/api/session', { login: 'ada', password });

it('a password is changed in a browser by whoever knows the present one, and ends all other sessions', async () => {
  const session = await store.sessionOf('ada');
  const other = await store.sessionOf('ada');
  const change = (old: string, password: string, headers = session): Promise<Response> =>
    store.call('POST', '/api/password', { old, password }, headers);
  await expect(change('wrong', 'a longer password')).rejects.toThrow(/password is wrong/);
  await expect(change('ada-password', 'short')).rejects.toMatchObject({ status: 400 });
  expect((await change('ada-password', 'a longer password')).status).toBe(204);
  expect((await store.call('GET', '/api/session', undefined, session)).status).toBe(200);
  await expect(store.call('GET', '/api/session', undefined, other)).rejects.toMatchObject({ status: 401 });
  expect((await store.call('GET', '/api/session')).status).toBe(200);
  await expect(signIn('ada-password')).rejects.toMatchObject({ status: 401 });
  expect((await signIn('a longer password')).status).toBe(200);
});

it('a password cannot be guessed where it is changed, and not at all by a token', async () => {
  await store.tokenFor('gil', 'engineer');
  const session = await store.sessionOf('gil');
  const guess = (old: string, headers?: Readonly<Record<string, string>>): Promise<Response> =>
    store.call('POST', '/api/password', { old, password: 'a longer password' }, headers);
  for (const old of Array.from({ length: 10 }, (_, at) => `guess ${at}`))
    await expect(guess(old, session)).rejects.toMatchObject({ status: 401 });
  await expect(guess('gil-password', session)).rejects.toMatchObject({
    problem: { code: 'SIGN_IN_TOO_OFTEN' },
  });
  const bearer = { Authorization: `Bearer ${await store.tokenFor('gil', 'engineer')}` };
  await expect(guess('gil-password', bearer)).rejects.toMatchObject({ status: 403 });
});

it('preferences are one’s own, and stay', async () => {
  const usual = await store.json<Preferences>('GET', '/api/preferences');
  expect(usual).toEqual({
    theme: 'system',
    density: 'usual',
    dates: 'said',
    mass: 'kg',
    length: 'mm',
    pictures: 'none',
  });
  const wanted = { ...usual, theme: 'dark', density: 'dense' };
  await store.json('PUT', '/api/preferences', wanted);
  expect(await store.json('GET', '/api/preferences')).toEqual(wanted);
  const other = { Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}` };
  expect(await (await store.call('GET', '/api/preferences', undefined, other)).json()).toEqual(usual);
  await expect(store.json('PUT', '/api/preferences', { ...wanted, theme: 'pink' })).rejects.toMatchObject({
    status: 400,
  });
});
