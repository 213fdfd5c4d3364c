// `npm run backup -- --to FOLDER [--data DIR]`: saves a store, running or not.
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { backUp } from './lib/backup.mjs';
import { startCluster } from './lib/cluster.mjs';
import { dataFolder, runningCluster } from './lib/data-folder.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { Advice, start } from './lib/run.mjs';

start(async () => {
  // A backup holds everything: it is for the user that makes it alone.
  process.umask(0o077);
  const { values } = parseArgs({ options: { to: { type: 'string' }, data: { type: 'string' } } });
  if (!values.to) throw new Advice('Say where to: npm run backup -- --to FOLDER [--data DIR]');
  await ensurePackages();
  const bin = await ensurePostgres();
  const folder = dataFolder(values.data);
  const running = process.env.DATABASE_URL ?? runningCluster(folder);
  const cluster = running ? undefined : await startCluster({ bin, folder });
  try {
    const to = resolve(process.env.INIT_CWD ?? process.cwd(), values.to);
    const counts = await backUp({ bin, url: running ?? cluster.url, blobs: join(folder, 'blobs'), to });
    console.log(
      `Saved ${counts.items} items, ${counts.versions} versions, ${counts.links} links and ${counts.blobs} blobs in ${to}.`,
    );
  } finally {
    await cluster?.stop();
  }
});
