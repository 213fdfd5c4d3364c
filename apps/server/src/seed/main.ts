import { loadSeed } from './load.js';

const say = (line: string): void => void process.stdout.write(`${line}\n`);

const { STEM_DATABASE_URL, STEM_BLOBS, STEM_SEED_ITEMS, STEM_SEED } = process.env;
if (!STEM_DATABASE_URL || !STEM_BLOBS) throw new Error('STEM_DATABASE_URL and STEM_BLOBS are wanted.');
const start = performance.now();
const counts = await loadSeed({
  databaseUrl: STEM_DATABASE_URL,
  blobFolder: STEM_BLOBS,
  items: Number(STEM_SEED_ITEMS ?? 100_000),
  seed: Number(STEM_SEED ?? 1),
  say,
});
const seconds = ((performance.now() - start) / 1000).toFixed(1);
say(`${counts.items} items, ${counts.versions} versions and ${counts.links} links in ${seconds} s.`);
