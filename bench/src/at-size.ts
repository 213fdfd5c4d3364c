/** The whole application on a store of 100,000 items: searches with counts, compare, derive, and the browser. */
import { spawn } from 'node:child_process';
import { chmodSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { loadSeed } from '@stem-trace/server/seed/load.js';
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
    const { mostUsed, product } = await extremes(cluster.url);
    // The index loads meanwhile; it is asked when it is there.
    while ((await call(`/api/used?item=${mostUsed}&limit=300`)) > 1000);
    const searches: number[] = [];
    for (let run = 0; run < RUNS; run++)
      for (const words of SEARCHES)
        searches.push(await call(`/api/find/counts?words=${encodeURIComponent(words)}`));
    searches.sort((a, b) => a - b);
    const used = await median(() => call(`/api/used?item=${mostUsed}&limit=300`));
    const net = await median(() => call(`/api/net?item=${product}&side=made`), 3);
    const compare = await median(() => call(`/api/compare?from=${product}&to=${product}`), 3);
    const derive = await call('/api/derive', { item: product, copy: 'all', prefix: 'D-', key: 'bench' });
    const browser = await benchBrowser({ address: url, token, mostUsed, product });
    const at = (part: number): string =>
      `${(searches[Math.floor(searches.length * part)] ?? NaN).toFixed(0)} ms`;
    const rows = [
      ['making the store', `${seeded.toFixed(0)} s`, 'under 180 s'],
      ['a search with its counts, median of all', at(0.5), ''],
      ['a search with its counts, p95 of all', at(0.95), 'under 100 ms'],
      [`what uses ${mostUsed}, at the server`, `${used.toFixed(0)} ms`, 'under 100 ms'],
      [`everything ${product} is made of, as a net`, `${net.toFixed(0)} ms`, ''],
      [`comparing ${product} with itself, all levels`, `${compare.toFixed(0)} ms`, ''],
      [
        `deriving ${product}, everything copied`,
        `${(derive / 1000).toFixed(1)} s`,
        'under 3 s for 10,000 nodes',
      ],
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

async function median(run: () => Promise<number>, times = RUNS): Promise<number> {
  const all: number[] = [];
  for (let at = 0; at < times; at++) all.push(await run());
  return all.sort((a, b) => a - b)[Math.floor(times / 2)] ?? NaN;
}

/** The part that most assemblies use, and the product with the most lines. */
async function extremes(databaseUrl: string): Promise<{ mostUsed: string; product: string }> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  const one = async (sql: string): Promise<string> =>
    (await client.query<{ number: string }>(sql)).rows[0]?.number ?? '';
  try {
    return {
      mostUsed: await one(
        `SELECT i.number FROM link l JOIN item p ON p.newest_version_id = l.version_id JOIN item i ON i.id = l.target_item_id
         GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1`,
      ),
      product: await one(
        `SELECT i.number FROM link l JOIN item i ON i.newest_version_id = l.version_id GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1`,
      ),
    };
  } finally {
    await client.end();
  }
}
