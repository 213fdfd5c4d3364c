import { randomUUID } from 'node:crypto';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { FindAnswer, ItemView, VerifyAnswer } from '@stem-trace/contract';
import { expect, inject, it } from 'vitest';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { TestStore } from '../testing/test-store.js';
import { loadSeed } from './load.js';
import { largeProducts, planSeed } from './plan.js';

it('plans the same store for the same seed, another for another, and nothing in a circle', () => {
  const plan = (seed: number): string => JSON.stringify([...planSeed({ items: 400, seed })]);
  expect(plan(1)).toBe(plan(1));
  expect(plan(1)).not.toBe(plan(2));
  const counts: number[] = [];
  for (const item of planSeed({ items: 3000, seed: 3 })) {
    for (const { links } of item.versions) {
      expect(new Set(links.map((link) => link.item)).size).toBe(links.length);
      for (const { item: target, ordinal } of links) {
        expect(target).toBeLessThan(item.index);
        expect(ordinal).toBeGreaterThan(0);
        expect(ordinal).toBeLessThanOrEqual(counts[target] ?? 0);
      }
    }
    counts.push(item.versions.length);
  }
});

it('loads a store that is whole and answers as any other', async () => {
  const databaseUrl = inject('databaseUrl').replace(/\/[^/]*$/, `/seed_${randomUUID().replaceAll('-', '')}`);
  const blobFolder = await mkdtemp(join(tmpdir(), 'stem-trace-blobs-'));
  await ensureDatabase(databaseUrl);
  const counts = await loadSeed({ databaseUrl, blobFolder, items: 1000, seed: 1, say: () => undefined });
  expect(counts.items).toBe(1000);
  const store = await TestStore.open({ databaseUrl, blobFolder });
  const boss = await store.tokenFor('root', 'administrator');
  const verified = (await (
    await store.call('GET', '/api/verify', undefined, { Authorization: `Bearer ${boss}` })
  ).json()) as VerifyAnswer;
  expect(verified).toMatchObject({ whole: true, faults: [], ...counts });
  const { rows, total } = await store.json<FindAnswer>('GET', '/api/items?words=S5-&limit=1');
  expect(total).toBeGreaterThan(0);
  const top = rows[0]?.number ?? '';
  expect((await store.made(top)).rows.length).toBeGreaterThan(5);
  // The large products have real files: what is derived from them can be read back.
  for (const product of Object.values(largeProducts(1000))) {
    const { proof } = await store.derive({ item: product, copy: 'all', prefix: `${product} ` });
    expect(proof).toMatchObject({ dangling: 0, leaking: 0, faults: [] });
    expect(proof.copied).toBeGreaterThan(50);
  }
  const view = await store.json<ItemView>('GET', `/api/item?item=${top}`);
  expect(view.versions.length).toBeGreaterThan(0);
  await store.close();
});
