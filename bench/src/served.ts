/** A server of its own, on an empty store that is thrown away, and what is asked of it. */
import { spawn } from 'node:child_process';
import { chmodSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';

const ROOT = join(import.meta.dirname, '../..');
const PARALLEL = 4;

export type Client = <T>(method: string, path: string, body?: unknown) => Promise<T>;

export interface Served {
  readonly address: string;
  readonly token: string;
  readonly blobFolder: string;
  readonly pid: number;
  readonly client: Client;
  /** Of the administrator whom the first start made. */
  readonly administratorPassword: string;
}

interface IntakeView {
  readonly id: string;
  readonly state: string;
  readonly result: { readonly items: number } | null;
}

/** Ends it and throws its store away, whatever comes of the work. */
export async function served<T>(work: (server: Served) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  await ensureDatabase(cluster.url);
  const blobFolder = join(folder, 'blobs');
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
    let said = '';
    const address = await new Promise<string>((ready, fail) => {
      server.stdout.on('data', (chunk: Buffer) => {
        said += chunk.toString();
        const found = /listening (\S+)/.exec(said)?.[1];
        if (found) ready(found);
      });
      server.once('exit', () => fail(new Error('the server ended before it listened')));
    });
    const { url, token } = JSON.parse(await readFile(join(folder, 'cli.json'), 'utf8')) as {
      url: string;
      token: string;
    };
    if (url !== address) throw new Error(`the server says ${address} and left ${url}`);
    const administratorPassword = /with the password (\S+)/.exec(said)?.[1] ?? '';
    const client = clientOf(address, token);
    return await work({ address, token, blobFolder, pid: server.pid ?? 0, client, administratorPassword });
  } finally {
    server.kill('SIGTERM');
    if (server.exitCode === null) await new Promise((done) => server.once('exit', done));
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

/** @returns how long each part took, in milliseconds */
export async function bringIn(
  client: Client,
  files: ReadonlyMap<string, Uint8Array>,
): Promise<{
  readonly items: number;
  readonly uploaded: number;
  readonly reviewed: number;
  readonly carriedOut: number;
}> {
  const start = performance.now();
  const { id } = await client<IntakeView>('POST', '/api/intakes', { place: '/bench' });
  const waiting = [...files];
  const worker = async (): Promise<void> => {
    for (let next = waiting.shift(); next; next = waiting.shift())
      await client('PUT', `/api/intakes/${id}/files?path=${encodeURIComponent(next[0])}`, next[1]);
  };
  await Promise.all(Array.from({ length: PARALLEL }, worker));
  const uploaded = performance.now();
  await client<IntakeView>('GET', `/api/intakes/${id}`);
  const reviewed = performance.now();
  let view = await client<IntakeView>('POST', `/api/intakes/${id}/carry-out`, { comment: 'bench' });
  while (view.state === 'carrying out') {
    await new Promise((done) => setTimeout(done, 50));
    view = await client<IntakeView>('GET', `/api/intakes/${id}`);
  }
  return {
    items: view.result?.items ?? 0,
    ...{
      uploaded: uploaded - start,
      reviewed: reviewed - uploaded,
      carriedOut: performance.now() - reviewed,
    },
  };
}

function clientOf(address: string, token: string): Client {
  return async <T>(method: string, path: string, body?: unknown): Promise<T> => {
    const isBytes = body instanceof Uint8Array;
    const response = await fetch(address + path, {
      method,
      headers: {
        Authorization: `Bearer ${token}`,
        'Content-Type': isBytes ? 'application/octet-stream' : 'application/json',
      },
      ...(body === undefined
        ? {}
        : { body: isBytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    return (response.status === 204 ? undefined : await response.json()) as T;
  };
}
