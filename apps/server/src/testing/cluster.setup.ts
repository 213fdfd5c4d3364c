import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { startCluster } from '../../../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../../../scripts/lib/install.mjs';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
  }
}

/** One cluster for all server tests; each test file makes databases of its own in it. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-test-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({
    bin: await ensurePostgres(),
    folder,
    settings: { fsync: 'off', synchronous_commit: 'off', full_page_writes: 'off' },
  });
  project.provide('databaseUrl', cluster.url);
  return async () => {
    await cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
