// A backup is a folder: the database as pg_dump's archive, the blobs as they are, and what they should add up to.
import { createHash } from 'node:crypto';
import {
  cpSync,
  createReadStream,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Advice, run } from './run.mjs';

const DUMP = 'database.dump';
const SUMMARY = 'backup.json';
/** With which signatures are sealed; without it they could not be proved in the store that is restored. */
const KEY = 'signing-key.pem';

/**
 * Backs up a store, which may be in use. Dump, counts and the list of blobs are of one snapshot; every blob that it knows of
 * is on the disk by then, none is ever changed, and none is swept meanwhile.
 * @returns how many rows of each kind and how many blobs were saved
 */
export async function backUp({ bin, url, blobs, to }) {
  if (existsSync(join(to, SUMMARY)))
    throw new Advice(`${to} holds a backup already. Choose an empty folder.`);
  mkdirSync(join(to, 'blobs'), { recursive: true });
  const counts = await withClient(url, async (client) => {
    await client.query(`SELECT pg_advisory_lock(hashtext('stem-trace sweep'))`);
    await client.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
    const { rows } = await client.query('SELECT pg_export_snapshot() AS id');
    const { args, env } = connection(url);
    await run(
      join(bin, 'pg_dump'),
      [
        '--format=custom',
        '--no-owner',
        '--no-privileges',
        `--snapshot=${rows[0].id}`,
        `--file=${join(to, DUMP)}`,
        ...args,
      ],
      { quiet: true, env },
    );
    const { counts: counted, hashes } = await describe(client);
    for (const sha256 of hashes)
      keep(join(blobs, sha256.slice(0, 2), sha256), join(to, 'blobs', sha256.slice(0, 2)), sha256);
    return counted;
  });
  if (existsSync(join(blobs, KEY))) cpSync(join(blobs, KEY), join(to, KEY));
  writeFileSync(
    join(to, SUMMARY),
    `${JSON.stringify({ format: 'stem-trace backup', formatVersion: 1, at: new Date().toISOString(), counts }, null, 2)}\n`,
  );
  return counts;
}

/**
 * Restores a backup into an empty database and a folder of blobs. Every blob is hashed before anything is written, so that a
 * damaged backup is refused whole.
 * @returns the counts, which agree with the backup's
 */
export async function restore({ bin, url, blobs, from }) {
  if (!existsSync(join(from, SUMMARY))) throw new Advice(`${from} is not a backup: it has no ${SUMMARY}.`);
  const { counts: saved } = JSON.parse(readFileSync(join(from, SUMMARY), 'utf8'));
  const kept = await hashAll(join(from, 'blobs'));
  if (kept.size !== saved.blobs)
    throw new Advice(
      `The backup should hold ${saved.blobs} blobs and holds ${kept.size}. Nothing was restored.`,
    );
  await withClient(url, refuseStore);
  const { args, env } = connection(url);
  await run(
    join(bin, 'pg_restore'),
    ['--no-owner', '--no-privileges', '--exit-on-error', '--single-transaction', ...args, join(from, DUMP)],
    { quiet: true, env },
  );
  mkdirSync(blobs, { recursive: true });
  cpSync(join(from, 'blobs'), blobs, { recursive: true });
  if (existsSync(join(from, KEY))) cpSync(join(from, KEY), join(blobs, KEY));
  const { counts, hashes } = await withClient(url, describe);
  for (const [what, count] of Object.entries(saved)) {
    if (counts[what] !== count)
      throw new Advice(`The backup has ${count} ${what}, but ${counts[what]} were restored.`);
  }
  const missing = hashes.find((sha256) => !kept.has(sha256));
  if (missing) throw new Advice(`The backup does not hold blob ${missing}, which the store refers to.`);
  return counts;
}

/** Where the programs of PostgreSQL connect; the password goes by the environment, for a command line is seen by everybody. */
function connection(url) {
  const target = new URL(url);
  const password = decodeURIComponent(target.password);
  target.password = '';
  return { args: [`--dbname=${target.href}`], env: { ...process.env, PGPASSWORD: password } };
}

async function withClient(url, work) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

async function refuseStore(client) {
  const { rows } = await client.query(`SELECT to_regclass('item') IS NOT NULL AS there`);
  if (rows[0].there)
    throw new Advice('The database holds a store already. Give an empty one; nothing was restored.');
}

/** Names of all blobs of a folder. @throws Advice for one whose content is not what its name says */
async function hashAll(folder) {
  const names = new Set();
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const hash = createHash('sha256');
    await pipeline(createReadStream(join(entry.parentPath, entry.name)), hash);
    if (hash.digest('hex') !== entry.name)
      throw new Advice(
        `Blob ${entry.name} of the backup is damaged. Nothing was restored; take another backup.`,
      );
    names.add(entry.name);
  }
  return names;
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

async function describe(client) {
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
}
