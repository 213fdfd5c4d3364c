// A backup is a folder: the database as pg_dump's archive, the blobs as they are, and what they should add up to.
import { cpSync, existsSync, linkSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Advice, run } from './run.mjs';

const DUMP = 'database.dump';
const SUMMARY = 'backup.json';

/**
 * Backs up a store, which may be in use. The database first: every blob that it knows of is on the disk by then, and blobs
 * are never removed or changed.
 * @returns how many rows of each kind and how many blobs were saved
 */
export async function backUp({ bin, url, blobs, to }) {
  if (existsSync(join(to, SUMMARY)))
    throw new Advice(`${to} holds a backup already. Choose an empty folder.`);
  mkdirSync(join(to, 'blobs'), { recursive: true });
  await run(join(bin, 'pg_dump'), ['--format=custom', '--no-owner', `--file=${join(to, DUMP)}`, url], {
    quiet: true,
  });
  const { counts, hashes } = await describe(url);
  for (const sha256 of hashes)
    keep(join(blobs, sha256.slice(0, 2), sha256), join(to, 'blobs', sha256.slice(0, 2)), sha256);
  writeFileSync(
    join(to, SUMMARY),
    `${JSON.stringify({ format: 'stem-trace backup', formatVersion: 1, at: new Date().toISOString(), counts }, null, 2)}\n`,
  );
  return counts;
}

/** Restores a backup into an empty database and a folder of blobs. @returns the counts, which agree with the backup's */
export async function restore({ bin, url, blobs, from }) {
  if (!existsSync(join(from, SUMMARY))) throw new Advice(`${from} is not a backup: it has no ${SUMMARY}.`);
  const { counts: saved } = JSON.parse(readFileSync(join(from, SUMMARY), 'utf8'));
  await run(
    join(bin, 'pg_restore'),
    ['--no-owner', '--exit-on-error', '--single-transaction', `--dbname=${url}`, join(from, DUMP)],
    { quiet: true },
  );
  mkdirSync(blobs, { recursive: true });
  cpSync(join(from, 'blobs'), blobs, { recursive: true });
  const { counts } = await describe(url);
  for (const [what, count] of Object.entries(saved)) {
    if (counts[what] !== count)
      throw new Advice(`The backup has ${count} ${what}, but ${counts[what]} were restored.`);
  }
  return counts;
}

/** A blob never changes, so that a second name for it is as good as a copy where the disk is the same. */
function keep(source, folder, name) {
  mkdirSync(folder, { recursive: true });
  try {
    linkSync(source, join(folder, name));
  } catch (error) {
    if (error.code === 'EEXIST') return;
    if (error.code === 'ENOENT')
      throw new Advice(`Blob ${name} is not on the disk. Run 'stem verify' to see what else is missing.`);
    cpSync(source, join(folder, name));
  }
}

async function describe(url) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const tables = {
      items: 'item',
      versions: 'version',
      links: 'link',
      blobs: 'blob',
      people: 'person',
      events: 'event',
    };
    const counts = {};
    for (const [what, table] of Object.entries(tables))
      counts[what] = Number((await client.query(`SELECT count(*) FROM ${table}`)).rows[0].count);
    const { rows } = await client.query('SELECT sha256 FROM blob');
    return { counts, hashes: rows.map(({ sha256 }) => sha256) };
  } finally {
    await client.end();
  }
}
