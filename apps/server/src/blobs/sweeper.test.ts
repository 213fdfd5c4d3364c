import { strToU8 } from 'fflate';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ServerSettings } from '../server-settings.js';
import { Refused, TestStore } from '../testing/test-store.js';
import { BlobStore } from './blob-store.js';
import { Sweeper } from './sweeper.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open(undefined, { settings: new ServerSettings({ quotaBytes: 1000 }) });
});
afterAll(() => store.close());

async function kept(): Promise<{ rows: number; files: number }> {
  const rows: { sha256: string }[] = await store.database.query('SELECT sha256 FROM blob');
  const blobs = store.server.app.get(BlobStore);
  const there = await Promise.all(rows.map(({ sha256 }) => blobs.has(sha256)));
  return { rows: rows.length, files: there.filter(Boolean).length };
}

it('what was given up is thrown away once it is old, what is used or waits is not', async () => {
  await store.intake(new Map([['used.txt', strToU8('used')]]), { place: '/a' });
  await store.review(new Map([['waits.txt', strToU8('waits')]]), { place: '/a' });
  const given = await store.review(new Map([['gone.txt', strToU8('gone')]]), { place: '/a' });
  await store.call('POST', `/api/intakes/${given.id}/cancel`);
  const sweeper = store.server.app.get(Sweeper);
  expect(await kept()).toEqual({ rows: 3, files: 3 });
  expect(await sweeper.sweep(48)).toBe(0);
  expect(await sweeper.sweep(0)).toBe(1);
  expect(await kept()).toEqual({ rows: 2, files: 2 });
  // The same bytes come in again as if they had never been there.
  await store.intake(new Map([['again.txt', strToU8('gone')]]), { place: '/a' });
  expect(await kept()).toEqual({ rows: 3, files: 3 });
});

it('nobody fills the store with what is never carried out', async () => {
  const review = await store.review(new Map([['large.txt', strToU8('x'.repeat(1200))]]), { place: '/a' });
  const refused = await store
    .call('PUT', `/api/intakes/${review.id}/files?path=more.txt`, strToU8('more'))
    .catch((error: unknown) => error);
  expect(refused).toBeInstanceOf(Refused);
  expect((refused as Refused).problem).toMatchObject({ code: 'INTAKE_TOO_LARGE' });
  expect((refused as Refused).message).toMatch(/carry them out or give them up/i);
});
