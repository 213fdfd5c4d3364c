import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { WelcomeAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { loadDemo } from '../demo/load-demo.js';
import { TestStore } from '../testing/test-store.js';
import { AccessService } from './access.service.js';
import { provideTokenFor } from './first-start.js';

let store: TestStore;
let folder: string;
beforeAll(async () => {
  store = await TestStore.open(undefined, { demoFolder: join(import.meta.dirname, '../../../../demo') });
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-first-'));
});
afterAll(async () => {
  await store.close();
  await rm(folder, { recursive: true, force: true });
});

it('the token of the command line is for its owner alone, ends, and administers nothing', async () => {
  const access = store.server.app.get(AccessService);
  const file = join(folder, 'cli.json');
  await provideTokenFor(access, file, store.server.address);
  expect((await stat(file)).mode & 0o777).toBe(0o600);
  const { token } = JSON.parse(await readFile(file, 'utf8')) as { token: string };
  const entry = await access.entryOf({ token, kind: 'program' });
  expect(entry?.person.role).toBe('engineer');
  const days = ((entry?.expiresAt?.getTime() ?? Infinity) - Date.now()) / 86_400_000;
  expect(days).toBeGreaterThan(29);
  expect(days).toBeLessThan(31);
  // It is kept while it lasts long enough, and replaced where it is none.
  await provideTokenFor(access, file, store.server.address);
  expect(JSON.parse(await readFile(file, 'utf8'))).toMatchObject({ token });
  await writeFile(file, JSON.stringify({ url: '', token: 'st_made_up' }));
  await provideTokenFor(access, file, store.server.address);
  expect((JSON.parse(await readFile(file, 'utf8')) as { token: string }).token).not.toBe('st_made_up');
});

it('passwords of the demo are told in no store that was not filled with it, though it is served', async () => {
  const { demo } = await store.json<WelcomeAnswer>('GET', '/api/welcome');
  expect(demo).toEqual([]);
  // There are people already, so that nothing is loaded, nobody is made, and nothing is told.
  await loadDemo(store.server.app, join(import.meta.dirname, '../../../../demo'), () => undefined);
  expect((await store.json<WelcomeAnswer>('GET', '/api/welcome')).demo).toEqual([]);
  const signedIn = await fetch(`${store.server.address}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ login: 'admin', password: 'fenmark-admin' }),
  });
  expect(signedIn.status).toBe(401);
});
