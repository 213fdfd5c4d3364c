/**
 * Fifty clients that ask again as soon as they are answered, on a store that is given: finding, counting, an item, what it is
 * made of and used in, and comparing. Reading alone, and with people who check out, let go, check in and derive among them. The
 * rival is another build of the server, started the same way.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { chmodSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';

const CLIENTS = 50;
const SECONDS = 10;
/** The same before anything is measured, so that threads and connections are there. */
const WARM_SECONDS = 5;
const ROOT = join(import.meta.dirname, '../..');

export interface Load {
  readonly perSecond: number;
  readonly p50: number;
  readonly p95: number;
  readonly errors: number;
  /** Longest wait for a lock, in milliseconds. */
  readonly lockMs: number;
}

export interface ManyClientsOptions {
  /** Folder of the checkout whose built server is measured. */
  readonly root?: string;
  /** Fills the store; the demo data where absent. */
  readonly fill?: (databaseUrl: string, blobFolder: string) => Promise<void>;
}

export async function benchManyClients({ root = ROOT, fill }: ManyClientsOptions = {}): Promise<{
  reading: Load;
  withWriters: Load;
}> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  await ensureDatabase(cluster.url);
  await fill?.(cluster.url, join(folder, 'blobs'));
  const { server, address } = await startServer({ root, url: cluster.url, folder, isDemo: !fill });
  try {
    const { token } = JSON.parse(await readFile(join(folder, 'cli.json'), 'utf8')) as { token: string };
    const ask = asker(address, token);
    const numbers = await numbersOf(cluster.url);
    await load(cluster.url, CLIENTS, WARM_SECONDS, (at) => ask(readingAt(at, numbers)));
    const reading = await load(cluster.url, CLIENTS, SECONDS, (at) => ask(readingAt(at, numbers)));
    const withWriters = await load(cluster.url, CLIENTS, SECONDS, (at, client) =>
      client < 5 ? ask(writingAt(at, client, numbers)) : ask(readingAt(at, numbers)),
    );
    return { reading, withWriters };
  } finally {
    server.kill('SIGTERM');
    await new Promise((done) => server.once('exit', done));
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

interface Call {
  readonly method: string;
  readonly path: string;
  readonly body?: unknown;
}

function readingAt(at: number, numbers: Numbers): Call {
  const item = encodeURIComponent(numbers.all[(at * 7) % numbers.all.length] ?? '');
  const assembly = encodeURIComponent(numbers.assemblies[(at * 5) % numbers.assemblies.length] ?? '');
  const word = encodeURIComponent(WORDS[at % WORDS.length] ?? '');
  const paths = [
    `/api/items?words=${word}&limit=50`,
    `/api/find/counts?words=${word}`,
    `/api/item?item=${item}`,
    `/api/made?item=${assembly}`,
    `/api/used?item=${item}&limit=100`,
    `/api/compare?from=${assembly}&to=${assembly}&lens=newest`,
  ];
  return { method: 'GET', path: paths[at % paths.length] ?? '' };
}

const WORDS = ['', 'housing', 'kind is part', 'bearing', 'state is released', 'plate'];

function writingAt(at: number, client: number, { parts }: Numbers): Call {
  const item = parts[(at * 3 + client * 11) % parts.length] ?? '';
  if (client === 0 && at % 8 === 7)
    return {
      method: 'POST',
      path: '/api/derive',
      body: { item, copy: 'all', prefix: `${randomUUID().slice(0, 8)}-`, place: '/bench' },
    };
  return at % 2 === 0
    ? { method: 'POST', path: '/api/holds', body: { items: [item], reason: 'bench' } }
    : { method: 'POST', path: '/api/holds/let-go', body: { items: [item] } };
}

interface Numbers {
  readonly all: readonly string[];
  readonly assemblies: readonly string[];
  readonly parts: readonly string[];
}

async function numbersOf(url: string): Promise<Numbers> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const { rows } = await client.query<{ number: string; kind: string }>(
      `SELECT number, kind FROM item WHERE newest_version_id IS NOT NULL ORDER BY md5(number) LIMIT 500`,
    );
    const of = (kind: string): string[] =>
      rows.filter((row) => row.kind === kind).map(({ number }) => number);
    return {
      all: rows.map(({ number }) => number),
      assemblies: of('assembly').slice(0, 30),
      parts: of('part'),
    };
  } finally {
    await client.end();
  }
}

async function load(
  url: string,
  clients: number,
  seconds: number,
  once: (at: number, client: number) => Promise<boolean>,
): Promise<Load> {
  const times: number[] = [];
  let errors = 0;
  let at = 0;
  const end = performance.now() + seconds * 1000;
  const watch = watchLocks(url, () => performance.now() < end);
  const one = async (client: number): Promise<void> => {
    while (performance.now() < end) {
      const begun = performance.now();
      if (!(await once(at++, client))) errors++;
      times.push(performance.now() - begun);
    }
  };
  await Promise.all(Array.from({ length: clients }, (_, client) => one(client)));
  times.sort((a, b) => a - b);
  const part = (share: number): number => Math.round(times[Math.floor(times.length * share)] ?? NaN);
  return {
    perSecond: Math.round(times.length / seconds),
    p50: part(0.5),
    p95: part(0.95),
    errors,
    lockMs: Math.round(await watch),
  };
}

async function watchLocks(url: string, goesOn: () => boolean): Promise<number> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  let longest = 0;
  while (goesOn()) {
    const { rows } = await client.query<{ ms: number | null }>(
      `SELECT max(extract(epoch FROM clock_timestamp() - query_start) * 1000)::float8 AS ms FROM pg_stat_activity
       WHERE datname = current_database() AND wait_event_type = 'Lock'`,
    );
    longest = Math.max(longest, rows[0]?.ms ?? 0);
    await new Promise((done) => setTimeout(done, 100));
  }
  await client.end();
  return longest;
}

/** Whether it was answered without an error of the server; a refusal in words is an answer. */
function asker(address: string, token: string): (call: Call) => Promise<boolean> {
  return async ({ method, path, body }) => {
    const response = await fetch(address + path, {
      method,
      headers: { Authorization: `Bearer ${token}`, ...(body ? { 'Content-Type': 'application/json' } : {}) },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    await response.arrayBuffer();
    return response.status < 500;
  };
}

async function startServer(given: {
  readonly root: string;
  readonly url: string;
  readonly folder: string;
  readonly isDemo: boolean;
}): Promise<{ server: ChildProcess; address: string }> {
  const { root, url, folder, isDemo } = given;
  const server = spawn(process.execPath, [join(root, 'apps/server/dist/main.js')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      STEM_DATABASE_URL: url,
      STEM_BLOBS: join(folder, 'blobs'),
      STEM_PORT: '0',
      STEM_CLI_FILE: join(folder, 'cli.json'),
      ...(isDemo ? { STEM_DEMO: join(root, 'demo') } : {}),
    },
  });
  const address = await new Promise<string>((ready, fail) => {
    server.stdout.on('data', (chunk: Buffer) => {
      const found = /listening (\S+)/.exec(chunk.toString())?.[1];
      if (found) ready(found);
    });
    server.once('exit', () => fail(new Error('the server ended before it listened')));
  });
  return { server, address };
}

/** Figures side by side as a Markdown section. */
export function manyClientsMarkdown(
  rows: readonly { readonly what: string; readonly load: Load; readonly goal?: string }[],
): string {
  return [
    `## ${CLIENTS} clients that ask again as soon as they are answered`,
    'Finding, counting, an item, made, used and comparing, over 500 items; the client runs on the same cores. Goal: 250 answers a second, p95 under 300 ms; with writers no error and no wait for a lock over 2 s.',
    [
      '| what | answers a second | p50 | p95 | errors | longest wait for a lock |',
      '| --- | --: | --: | --: | --: | --: |',
      ...rows.map(
        ({ what, load: { perSecond, p50, p95, errors, lockMs } }) =>
          `| ${what} | ${perSecond} | ${p50} ms | ${p95} ms | ${errors} | ${lockMs} ms |`,
      ),
    ].join('\n'),
  ].join('\n\n');
}
