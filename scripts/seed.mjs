// `npm run seed -- --items N --seed S [--data DIR]`: adds a made-up store of any size, the same for the same seed.
import { chmodSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { build } from './lib/build.mjs';
import { ensureDatabase, startCluster } from './lib/cluster.mjs';
import { dataFolder, runningCluster } from './lib/data-folder.mjs';
import { ensurePackages, ensurePostgres, isRoot } from './lib/install.mjs';
import { Advice, ROOT, run, start } from './lib/run.mjs';

const MOST = 2_000_000;

start(async () => {
  const { values } = parseArgs({
    options: {
      items: { type: 'string', default: '100000' },
      seed: { type: 'string', default: '1' },
      data: { type: 'string' },
    },
  });
  const [items, seed] = [Number(values.items), Number(values.seed)];
  if (!Number.isInteger(items) || items < 20 || items > MOST || !Number.isInteger(seed))
    throw new Advice(`Say how many: npm run seed -- --items N --seed S, with N from 20 to ${MOST}.`);
  await ensurePackages();
  const bin = await ensurePostgres();
  await build({ web: false });
  const folder = dataFolder(values.data);
  mkdirSync(folder, { recursive: true });
  if (isRoot()) chmodSync(folder, 0o711);
  const running = process.env.DATABASE_URL ?? runningCluster(folder);
  const cluster = running ? undefined : await startCluster({ bin, folder });
  try {
    const url = running ?? cluster.url;
    await ensureDatabase(url);
    await run(process.execPath, [join(ROOT, 'apps/server/dist/seed/main.js')], {
      env: {
        ...process.env,
        STEM_DATABASE_URL: url,
        STEM_BLOBS: join(folder, 'blobs'),
        STEM_SEED_ITEMS: String(items),
        STEM_SEED: String(seed),
      },
    });
  } finally {
    await cluster?.stop();
  }
});
