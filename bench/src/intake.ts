/**
 * Bringing in 1,000 files of 200 MB through the running server, against the least that any store must do with them:
 * copying each to the disk, flushed, and hashing it. Uploaded, read, reviewed and carried out; the server's highest
 * memory is read from the system.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { chmodSync } from 'node:fs';
import { mkdtemp, open, readFile, rm } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';
import type { BenchResult } from './report.js';

const FILES = 1000;
const BYTES = 200_000;
const PARALLEL = 4;
const SERVER = join(import.meta.dirname, '../../apps/server/dist/main.js');

interface View {
  readonly id: string;
  readonly state: string;
  readonly result: { readonly items: number } | null;
}

export async function benchIntake(): Promise<BenchResult> {
  const files = await makeFiles();
  const bytes = files.reduce((sum, { length }) => sum + length, 0);
  const rival = await copyAndHash(files);
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  await ensureDatabase(cluster.url);
  const { server, address } = await startServer(cluster.url, folder);
  try {
    const { url, token } = JSON.parse(await readFile(join(folder, 'cli.json'), 'utf8')) as Record<
      string,
      string
    >;
    if (url !== address) throw new Error(`the server says ${address} and left ${url}`);
    const client = clientOf(address, token ?? '');
    const start = performance.now();
    const { id } = await client<View>('POST', '/api/intakes', { place: '/bench' });
    await uploadAll(client, id, files);
    const uploaded = performance.now();
    await client<View>('GET', `/api/intakes/${id}`);
    const reviewed = performance.now();
    let view = await client<View>('POST', `/api/intakes/${id}/carry-out`, { comment: 'bench' });
    while (view.state === 'carrying out') {
      await new Promise((done) => setTimeout(done, 50));
      view = await client<View>('GET', `/api/intakes/${id}`);
    }
    const end = performance.now();
    if (view.result?.items !== FILES) throw new Error(`${view.result?.items} items came in, not ${FILES}`);
    const peakMb = await peakMemoryMb(server.pid ?? 0);
    return {
      title: 'Bringing in 1,000 files of 200 MB',
      rivalName: 'copying the files to the disk, flushed, and hashing them: less than any store must do',
      goal: 'more than 20 MB/s in all, memory under 500 MB',
      notes: [`Highest memory of the server: ${peakMb} MB.`],
      rows: [
        { what: 'uploading and reading', ours: uploaded - start, rival, bytes },
        { what: 'working out the review', ours: reviewed - uploaded },
        { what: 'carrying out', ours: end - reviewed },
        { what: 'all of it', ours: end - start, rival, bytes },
      ],
    };
  } finally {
    server.kill('SIGTERM');
    await new Promise((done) => server.once('exit', done));
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

/** Real design files with a number of their own each, as long as they need to be. */
async function makeFiles(): Promise<Uint8Array[]> {
  const require = createRequire(import.meta.url);
  const folder = join(dirname(require.resolve('occt-import-js/package.json')), 'test/testfiles/cax-if');
  const text = await readFile(join(folder, 'as1-tu-203.stp'), 'latin1');
  const [name = ''] = /PRODUCT\s*\(\s*'([^']+)'/.exec(text)?.slice(1) ?? [];
  const own = text.slice(0, text.lastIndexOf('ENDSEC;'));
  const simple = `ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('x','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n`;
  const geometry = own
    .slice(own.indexOf('DATA;') + 5)
    .split('\n')
    .filter((line) => /=\s*(CARTESIAN_POINT|DIRECTION|VERTEX_POINT|AXIS2_PLACEMENT_3D)/.test(line))
    .join('\n');
  if (name === '' || geometry === '') throw new Error('the exchange file is not as expected');
  return Array.from({ length: FILES }, (_, index) => {
    const product = `#9000001=PRODUCT_CONTEXT('',$,'mechanical');\n#9000002=PRODUCT('B-${index}','Bench part ${index}','',(#9000001));\n#9000003=PRODUCT_DEFINITION_FORMATION('A','',#9000002);\n#9000004=PRODUCT_DEFINITION('design','',#9000003,$);\n`;
    let body = `${simple}${product}`;
    for (let copy = 0; body.length < BYTES - geometry.length; copy++)
      body += geometry.replaceAll('#', `#${copy + 1}`) + '\n';
    return new TextEncoder().encode(`${body.padEnd(BYTES - 60, ' ')}\nENDSEC;\nEND-ISO-10303-21;\n`);
  });
}

async function copyAndHash(files: readonly Uint8Array[]): Promise<number> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-copy-'));
  const start = performance.now();
  let next = 0;
  const worker = async (): Promise<void> => {
    for (let bytes = files[next++]; bytes; bytes = files[next++]) {
      createHash('sha256').update(bytes).digest('hex');
      const handle = await open(join(folder, randomUUID()), 'w');
      await handle.writeFile(bytes);
      await handle.sync();
      await handle.close();
    }
  };
  await Promise.all(Array.from({ length: PARALLEL }, worker));
  const took = performance.now() - start;
  await rm(folder, { recursive: true });
  return took;
}

async function startServer(
  databaseUrl: string,
  folder: string,
): Promise<{ server: ChildProcess; address: string }> {
  const server = spawn(process.execPath, [SERVER], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      STEM_DATABASE_URL: databaseUrl,
      STEM_BLOBS: join(folder, 'blobs'),
      STEM_PORT: '0',
      STEM_CLI_FILE: join(folder, 'cli.json'),
    },
  });
  const address = await new Promise<string>((ready, fail) => {
    server.stdout?.on('data', (chunk: Buffer) => {
      const found = /listening (\S+)/.exec(chunk.toString())?.[1];
      if (found) ready(found);
    });
    server.once('exit', () => fail(new Error('the server ended before it listened')));
  });
  return { server, address };
}

type Client = <T>(method: string, path: string, body?: unknown) => Promise<T>;

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

async function uploadAll(client: Client, id: string, files: readonly Uint8Array[]): Promise<void> {
  let next = 0;
  const worker = async (): Promise<void> => {
    for (let index = next++; index < files.length; index = next++)
      await client(
        'PUT',
        `/api/intakes/${id}/files?path=${encodeURIComponent(`parts/b-${index}.stp`)}`,
        files[index],
      );
  };
  await Promise.all(Array.from({ length: PARALLEL }, worker));
}

/** Highest resident memory of a process, as Linux keeps it (`VmHWM`). */
async function peakMemoryMb(pid: number): Promise<number> {
  const status = await readFile(`/proc/${pid}/status`, 'utf8');
  return Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? NaN) / 1000);
}
