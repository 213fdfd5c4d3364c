// `npm run kill`: kills the server and the database 30 times during releases, and while everything else goes on.
import { join } from 'node:path';
import { build } from './lib/build.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { ROOT, start, tryRun } from './lib/run.mjs';

const FILES = ['apps/server/src/release-faults.test.ts', 'apps/server/src/faults.test.ts'];

start(async () => {
  await ensurePackages();
  await ensurePostgres();
  await build();
  const { code } = await tryRun(
    join(ROOT, 'node_modules/.bin/vitest'),
    ['run', '-c', 'vitest.server.config.ts', ...FILES],
    { env: { ...process.env, STEM_KILLS: process.env.STEM_KILLS ?? '30' } },
  );
  process.exitCode = code;
});
