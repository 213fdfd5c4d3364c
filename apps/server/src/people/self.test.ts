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

it('a password is changed by whoever knows the present one, and is in force at once', async () => {
  const change = (old: string, password: string): Promise<Response> =>
    store.call('POST', '/api/password', { old, password });
  await expect(change('wrong', 'a longer password')).rejects.toThrow(/current password is not right/);
  await expect(change('ada-password', 'short')).rejects.toMatchObject({ status: 400 });
  expect((await change('ada-password', 'a longer password')).status).toBe(204);
  await expect(signIn('ada-password')).rejects.toMatchObject({ status: 401 });
  expect((await signIn('a longer password')).status).toBe(200);
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
