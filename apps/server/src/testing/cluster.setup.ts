import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { ensureDatabase, startCluster } from '../../../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../../../scripts/lib/install.mjs';
import { migrate } from '../database/data-source.js';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
  }
}

/** An empty store of the newest schema. */
export const TEMPLATE = 'empty_store';

/** One cluster for all server tests; each test file makes databases of its own in it. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-test-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({
    bin: await ensurePostgres(),
    folder,
    settings: { fsync: 'off', synchronous_commit: 'off', full_page_writes: 'off' },
  });
  // Every store is made as a copy of one that has been migrated.
  const template = cluster.url.replace(/\/[^/]*$/, `/${TEMPLATE}`);
  await ensureDatabase(template);
  await migrate(template);
  project.provide('databaseUrl', cluster.url);
  return async () => {
    await cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
