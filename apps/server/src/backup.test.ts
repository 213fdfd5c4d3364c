import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { VerifyAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { backUp, restore } from '../../../scripts/lib/backup.mjs';
import { ensureDatabase } from '../../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../../scripts/lib/install.mjs';
import { readExchangeSet } from '../../../packages/formats/src/testing/exchange-files.js';
import { SigningKey } from './signatures/signing-key.js';
import { TestStore, treeText } from './testing/test-store.js';

let store: TestStore;
let folder: string;
beforeAll(async () => {
  store = await TestStore.open();
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-backup-'));
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/ship' });
  await store.derive({ item: 'S1_PE_TOP', copy: 'all', prefix: 'V-' });
});
afterAll(async () => {
  await store.close();
  await rm(folder, { recursive: true, force: true });
});

it('a backup of a store in use, restored elsewhere, is the same store', async () => {
  const bin = await ensurePostgres();
  const key = await store.server.app.get(SigningKey).fingerprint();
  const to = join(folder, 'backup');
  const saved = await backUp({ bin, url: store.databaseUrl, blobs: store.blobFolder, to });
  expect(saved).toMatchObject({ items: 26, versions: 26, links: 24, blobs: 13 });
  await expect(backUp({ bin, url: store.databaseUrl, blobs: store.blobFolder, to })).rejects.toThrow(
    /holds a backup already/,
  );

  const url = inject('databaseUrl').replace(/\/[^/]*$/, `/restored_${randomUUID().replaceAll('-', '')}`);
  await ensureDatabase(url);
  const blobs = join(folder, 'restored blobs');
  expect(await restore({ bin, url, blobs, from: to })).toEqual(saved);

  const restored = await TestStore.open({ databaseUrl: url, blobFolder: blobs });
  try {
    const token = await restored.tokenFor('dora', 'administrator');
    const answer = (await (
      await restored.call('GET', '/api/verify', undefined, { Authorization: `Bearer ${token}` })
    ).json()) as VerifyAnswer;
    expect(answer).toMatchObject({ whole: true, items: 26, versions: 26, links: 24, blobs: 13 });
    expect(await restored.server.app.get(SigningKey).fingerprint()).toBe(key);
    expect(treeText(await restored.made('V-S1_PE_TOP'))).toEqual(treeText(await store.made('V-S1_PE_TOP')));
    expect((await restored.fetch('V-S1_PE_TOP')).files).toEqual((await store.fetch('V-S1_PE_TOP')).files);
  } finally {
    await restored.close();
  }
});

it('a backup with a damaged blob is refused before anything is restored', async () => {
  const bin = await ensurePostgres();
  const from = join(folder, 'damaged');
  await backUp({ bin, url: store.databaseUrl, blobs: store.blobFolder, to: from });
  const [row]: { sha256: string }[] = await store.database.query(
    'SELECT sha256 FROM blob ORDER BY sha256 DESC LIMIT 1',
  );
  const path = join(from, 'blobs', (row?.sha256 ?? '').slice(0, 2), row?.sha256 ?? '');
  // It is a second name for the store's own file, which must stay as it is.
  await rm(path);
  await writeFile(path, 'damaged');
  const url = inject('databaseUrl').replace(/\/[^/]*$/, `/restored_${randomUUID().replaceAll('-', '')}`);
  await ensureDatabase(url);
  const blobs = join(folder, 'not restored');
  await expect(restore({ bin, url, blobs, from })).rejects.toThrow(/is damaged. Nothing was restored/);
  expect(existsSync(blobs)).toBe(false);
  await expect(restore({ bin, url: store.databaseUrl, blobs, from: join(folder, 'backup') })).rejects.toThrow(
    /holds a store already/,
  );
});

it('says so where a blob is missing, or damaged', async () => {
  const token = await store.tokenFor('dora', 'administrator');
  const verify = async (): Promise<VerifyAnswer> =>
    (await (
      await store.call('GET', '/api/verify', undefined, { Authorization: `Bearer ${token}` })
    ).json()) as VerifyAnswer;
  expect((await verify()).whole).toBe(true);
  const [row]: { sha256: string }[] = await store.database.query(
    'SELECT sha256 FROM blob ORDER BY sha256 LIMIT 1',
  );
  const sha256 = row?.sha256 ?? '';
  const path = join(store.blobFolder, sha256.slice(0, 2), sha256);
  expect(existsSync(path)).toBe(true);
  await rm(path);
  expect(await verify()).toMatchObject({ whole: false, faults: [`blob ${sha256}: is not on the disk`] });
  await expect(
    backUp({
      bin: await ensurePostgres(),
      url: store.databaseUrl,
      blobs: store.blobFolder,
      to: join(folder, 'other'),
    }),
  ).rejects.toThrow(/is not on the disk/);
});

it('restores only what is a backup', async () => {
  await expect(restore({ bin: await ensurePostgres(), url: '', blobs: '', from: folder })).rejects.toThrow(
    /is not a backup/,
  );
});
