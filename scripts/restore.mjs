// `npm run restore -- --from FOLDER [--data DIR]`: makes a store from a backup; the data folder must not hold one yet, nor the
// database of DATABASE_URL where that is given.
import { chmodSync, existsSync, mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { restore } from './lib/backup.mjs';
import { ensureDatabase, startCluster } from './lib/cluster.mjs';
import { dataFolder } from './lib/data-folder.mjs';
import { ensurePackages, ensurePostgres, isRoot } from './lib/install.mjs';
import { Advice, start } from './lib/run.mjs';

start(async () => {
  const { values } = parseArgs({ options: { from: { type: 'string' }, data: { type: 'string' } } });
  if (!values.from) throw new Advice('Say where from: npm run restore -- --from FOLDER [--data DIR]');
  await ensurePackages();
  const bin = await ensurePostgres();
  const folder = dataFolder(values.data);
  const given = process.env.DATABASE_URL;
  if (!given && existsSync(join(folder, 'postgres')))
    throw new Advice(
      `${folder} holds a store already. Choose another folder with --data, or move that one away.`,
    );
  mkdirSync(folder, { recursive: true });
  if (isRoot()) chmodSync(folder, 0o711);
  const cluster = given ? undefined : await startCluster({ bin, folder });
  const url = given ?? cluster.url;
  try {
    await ensureDatabase(url);
    const from = resolve(process.env.INIT_CWD ?? process.cwd(), values.from);
    const counts = await restore({ bin, url, blobs: join(folder, 'blobs'), from });
    console.log(
      `Restored ${counts.items} items, ${counts.versions} versions, ${counts.links} links and ${counts.blobs} blobs. Start with: npm start -- --data ${folder}`,
    );
  } finally {
    await cluster?.stop();
  }
});
