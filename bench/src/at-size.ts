/** The whole application on a store of 100,000 items: searches with counts, compare, derive, and the browser. */
import { execFile, spawn } from 'node:child_process';
import { chmodSync } from 'node:fs';
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { loadSeed } from '@stem-trace/server/seed/load.js';
import { largeProducts } from '@stem-trace/server/seed/plan.js';
import pg from 'pg';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';
import { benchBrowser } from './browser.js';

const ITEMS = 100_000;
const ROOT = join(import.meta.dirname, '../..');

/** Typed as people search, each with the counts beside the table. */
const SEARCHES = [
  '',
  'bracket',
  'upper bracket',
  'mass = 2 kg..3 kg',
  'state = draft kind = part',
  'bracket or plate',
  'material has steel length < 10 cm',
  'changed = last 12 months',
  'without drawing frame',
  'in "/Seed/Line 3"',
  'behind housing',
  'mass > 500 kg kind = assembly',
] as const;
const RUNS = 9;

export async function benchAtSize(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  const started = performance.now();
  await ensureDatabase(cluster.url);
  const blobFolder = join(folder, 'blobs');
  const counts = await loadSeed({
    databaseUrl: cluster.url,
    blobFolder,
    items: ITEMS,
    seed: 1,
    say: () => {},
  });
  const seeded = (performance.now() - started) / 1000;
  const server = spawn(process.execPath, [join(ROOT, 'apps/server/dist/main.js')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      STEM_DATABASE_URL: cluster.url,
      STEM_BLOBS: blobFolder,
      STEM_PORT: '0',
      STEM_WEB: join(ROOT, 'apps/web/dist'),
      STEM_CLI_FILE: join(folder, 'cli.json'),
    },
  });
  try {
    await new Promise<void>((ready) =>
      server.stdout.on('data', (chunk: Buffer) => {
        if (chunk.toString().includes('listening')) ready();
      }),
    );
    const { url, token } = JSON.parse(await readFile(join(folder, 'cli.json'), 'utf8')) as {
      url: string;
      token: string;
    };
    const call = async (path: string, body?: unknown): Promise<number> => {
      const begin = performance.now();
      const response = await fetch(url + path, {
        method: body === undefined ? 'GET' : 'POST',
        headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      const text = await response.text();
      if (!response.ok) throw new Error(`${path}: ${text}`);
      return performance.now() - begin;
    };
    const mostUsed = await mostUsedPart(cluster.url);
    const { line, variant, wide } = largeProducts(ITEMS);
    const product = line;
    // The index loads meanwhile; it is asked when it is there.
    while ((await call(`/api/used?item=${mostUsed}&limit=300`)) > 1000);
    const added = await addedUp(cluster.url);
    // As a person sees it: the best fifty, with the counts beside them.
    const search = async (words: string): Promise<number> =>
      Math.max(
        ...(await Promise.all([
          call(`/api/items?words=${encodeURIComponent(words)}&sort=best&limit=50`),
          call(`/api/find/counts?words=${encodeURIComponent(words)}`),
        ])),
      );
    const searches: number[] = [];
    // The server remembers answers as long as nothing changes, so what counts is the first time.
    const first: number[] = [];
    for (const words of SEARCHES) first.push(await search(words));
    for (let run = 1; run < RUNS; run++) for (const words of SEARCHES) searches.push(await search(words));
    searches.push(...first);
    searches.sort((a, b) => a - b);
    const used = await median(() => call(`/api/used?item=${mostUsed}&limit=300`));
    const net = await median(() => call(`/api/net?item=${product}&side=made`), 3);
    const compare = await median(() => call(`/api/compare?from=${line}&to=${variant}`), 3);
    const derived: string[][] = [];
    for (const item of [line, wide]) {
      const copies = async (prefix: string): Promise<number> =>
        call('/api/derive', { item, copy: 'all', prefix, key: prefix + item });
      const of = item === line ? 'L' : 'W';
      const times = [await copies(`${of}1-`), await copies(`${of}2-`), await copies(`${of}3-`)];
      const made = Math.max(...times);
      const proof = await call(`/api/derive/proof?item=${of}3-${item}`);
      derived.push(
        [
          `deriving ${item}, ${await sizeOf(cluster.url, `${of}3-${item}`)}, everything copied, slowest of 3`,
          `${(made / 1000).toFixed(1)} s`,
          item === line ? 'under 3 s for 10,000 nodes' : '',
        ],
        [`making and reading back the files of that variant`, `${(proof / 1000).toFixed(1)} s`, ''],
      );
    }
    const copy = await benchWorkingCopy(join(folder, 'cli.json'), folder, wide);
    // So many new rows set the database to work of its own, which takes a core; it is done before the browser is measured.
    await rowsOf(cluster.url, 'VACUUM ANALYZE');
    const browser = await benchBrowser({ address: url, token, mostUsed, product, wide });
    const at = (part: number): string =>
      `${(searches[Math.floor(searches.length * part)] ?? NaN).toFixed(0)} ms`;
    const rows = [
      ['making the store', `${seeded.toFixed(0)} s`, 'under 180 s'],
      ['adding up mass and cost of everything, in the background', `${added.toFixed(1)} s`, ''],
      ['a search in order of fit, with its counts, median of all', at(0.5), ''],
      ['a search in order of fit, with its counts, p95 of all', at(0.95), 'under 100 ms'],
      ['the slowest of them, asked for the first time', `${Math.max(...first).toFixed(0)} ms`, ''],
      [`what uses ${mostUsed}, at the server`, `${used.toFixed(0)} ms`, 'under 100 ms'],
      [`everything ${product} is made of, as a net`, `${net.toFixed(0)} ms`, ''],
      [`comparing ${line} with ${variant}, all levels`, `${compare.toFixed(0)} ms`, ''],
      ...derived,
      ...copy,
      ...browser.rows.map(({ what, value, goal }) => [what, value, goal]),
    ];
    return [
      '## The application at 100,000 items',
      `${counts.items.toLocaleString('en-GB')} items, ${counts.versions.toLocaleString('en-GB')} versions, ${counts.links.toLocaleString('en-GB')} links.`,
      [
        '| what | measured | goal |',
        '| --- | --: | --: |',
        ...rows.map((row) => `| ${row.join(' | ')} |`),
      ].join('\n'),
    ].join('\n\n');
  } finally {
    server.kill('SIGTERM');
    await new Promise((done) => server.once('exit', done));
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

/** `stem status` as it is typed, process and server included; beside it, a tool that hashes the same files. */
async function benchWorkingCopy(cliFile: string, folder: string, product: string): Promise<string[][]> {
  const copy = join(folder, 'working copy');
  const timed = async (command: string, args: readonly string[]): Promise<number> => {
    const begin = performance.now();
    await promisify(execFile)(command, args, {
      env: { ...process.env, STEM_CLI_FILE: cliFile },
      maxBuffer: 1 << 26,
    });
    return performance.now() - begin;
  };
  const stem = async (...args: string[]): Promise<number> =>
    timed(process.execPath, [join(ROOT, 'apps/cli/dist/main.js'), ...args]);
  const fetched = await stem('fetch', product, '--to', copy);
  const files = (await readdir(copy, { recursive: true, withFileTypes: true })).filter((entry) =>
    entry.isFile(),
  );
  // Right after the fetch, times of files prove nothing yet: everything is hashed.
  const first = await stem('status', copy);
  await new Promise((done) => setTimeout(done, 2500));
  await stem('status', copy);
  const again = await median(() => stem('status', copy), 3);
  const hashing = await median(() => timed('find', [copy, '-type', 'f', '-exec', 'sha256sum', '{}', '+']), 3);
  const count = (files.length - 2).toLocaleString('en-GB');
  const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;
  return [
    [`\`stem fetch\` of ${product}, ${count} files`, seconds(fetched), ''],
    ['`stem status` of these, all of them hashed', seconds(first), ''],
    ['`stem status` again, by size and time', seconds(again), ''],
    ['rival: `sha256sum` of these files, nothing asked of a server', seconds(hashing), ''],
  ];
}

/** Waits until every sum is there. @returns seconds since the server began with it, by its own record */
async function addedUp(databaseUrl: string): Promise<number> {
  for (;;) {
    const [row] = await rowsOf<{ due: boolean; seconds: number | null }>(
      databaseUrl,
      `SELECT EXISTS (SELECT FROM roll_up_due) AS due, (SELECT extract(epoch FROM completed_on - started_on)::float8
         FROM queue.job WHERE name = 'roll-up' AND completed_on IS NOT NULL ORDER BY completed_on DESC LIMIT 1) AS seconds`,
    );
    if (row && !row.due && row.seconds !== null) return row.seconds;
    await new Promise((done) => setTimeout(done, 500));
  }
}

async function median(run: () => Promise<number>, times = RUNS): Promise<number> {
  const all: number[] = [];
  for (let at = 0; at < times; at++) all.push(await run());
  return all.sort((a, b) => a - b)[Math.floor(times / 2)] ?? NaN;
}

async function mostUsedPart(databaseUrl: string): Promise<string> {
  const [row] = await rowsOf<{ number: string }>(
    databaseUrl,
    `SELECT i.number FROM link l JOIN item p ON p.newest_version_id = l.version_id JOIN item i ON i.id = l.target_item_id
     GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1`,
  );
  return row?.number ?? '';
}

/** Rows on all levels, and the versions that they are of. */
async function sizeOf(databaseUrl: string, number: string): Promise<string> {
  const [row] = await rowsOf<{ rows: string; versions: string }>(
    databaseUrl,
    `WITH RECURSIVE tree AS (
       SELECT newest_version_id AS id FROM item WHERE number = $1
       UNION ALL SELECT l.target_version_id FROM tree t JOIN link l ON l.version_id = t.id
     ) SELECT count(*) AS rows, count(DISTINCT id) AS versions FROM tree`,
    [number],
  );
  const say = (count: string | undefined): string => Number(count).toLocaleString('en-GB');
  return `${say(row?.rows)} nodes of ${say(row?.versions)} versions`;
}

async function rowsOf<T extends pg.QueryResultRow>(
  databaseUrl: string,
  sql: string,
  values: unknown[] = [],
): Promise<T[]> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    return (await client.query<T>(sql, values)).rows;
  } finally {
    await client.end();
  }
}
