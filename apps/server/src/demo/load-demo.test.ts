import { createHash, randomUUID } from 'node:crypto';
import { mkdtemp, readdir, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { ItemView } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { startServer } from '../server.js';
import { TestStore } from '../testing/test-store.js';
import { readHistory } from './demo-people.js';
import { loadDemo } from './load-demo.js';

const DEMO = resolve(import.meta.dirname, '../../../../demo');
let store: TestStore;

beforeAll(async () => {
  const databaseUrl = inject('databaseUrl').replace(/\/[^/]*$/, `/demo_${randomUUID().replaceAll('-', '')}`);
  const blobFolder = await mkdtemp(join(tmpdir(), 'stem-trace-blobs-'));
  await ensureDatabase(databaseUrl);
  const server = await startServer({ databaseUrl, blobFolder, port: 0, logLevels: ['error', 'fatal'] });
  await loadDemo(server.app, DEMO, () => undefined);
  await server.close();
  store = await TestStore.open({ databaseUrl, blobFolder });
});

afterAll(() => store.close());

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** For every file name, what it held after which moment: oldest first. */
async function contentsOverTime(): Promise<Map<string, { at: string; sha256: string }[]>> {
  const { history } = await readHistory(DEMO);
  const contents = new Map<string, { at: string; sha256: string }[]>();
  for (const step of history) {
    const folder = join(DEMO, 'models', step.folder);
    for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
      if (!entry.isFile()) continue;
      const states = contents.get(entry.name) ?? [];
      states.push({ at: step.at, sha256: sha256(await readFile(join(entry.parentPath, entry.name))) });
      contents.set(entry.name, states);
    }
  }
  return contents;
}

describe('the demo history', () => {
  it('lets every version of every item be fetched with the files of its own day', async () => {
    const contents = await contentsOverTime();
    const numbers = [...contents.keys()].map((name) => name.slice(0, 7));
    let old = 0;
    for (const number of numbers) {
      const { versions } = await store.json<ItemView>('GET', `/api/item?item=${number}`);
      expect(versions, number).not.toHaveLength(0);
      for (const { version, createdAt } of versions) {
        const { files, manifest } = await store.fetch(`${number}@${version}`);
        // The surge arrester is the demo's gap: it never came in.
        for (const { reason } of manifest.left) expect(reason, `${number}@${version}`).toContain('FM-9501');
        for (const { path, stored } of manifest.files) {
          const states = contents.get(path.split('/').at(-1) ?? '') ?? [];
          // A file that came in later than what refers to it closed the gap there.
          const then = states.findLast((state) => Date.parse(state.at) <= Date.parse(createdAt)) ?? states[0];
          expect(stored, `${path} in ${number}@${version}`).toBe(then?.sha256);
          if (then !== states.at(-1)) old++;
        }
        expect([...files.keys()].sort()).toEqual(manifest.files.map(({ path }) => path).sort());
      }
    }
    expect(numbers).toHaveLength(40);
    expect(old).toBeGreaterThan(20);
  });
});
