/**
 * Bringing in 1,000 files of 200 MB through the running server, against the least that any store must do with them:
 * copying each to the disk, flushed, and hashing it. Uploaded, read, reviewed and carried out; the server's highest
 * memory is read from the system.
 */
import { createHash, randomUUID } from 'node:crypto';
import { mkdtemp, open, readFile, rm } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { BenchResult } from './report.js';
import { bringIn, served } from './served.js';

const FILES = 1000;
const BYTES = 200_000;
const PARALLEL = 4;
export async function benchIntake(): Promise<BenchResult> {
  const files = await makeFiles();
  const bytes = files.reduce((sum, { length }) => sum + length, 0);
  const rival = await copyAndHash(files);
  return served(async ({ client, pid }) => {
    const { items, uploaded, reviewed, carriedOut } = await bringIn(
      client,
      new Map(files.map((file, index) => [`parts/b-${index}.stp`, file])),
    );
    if (items !== FILES) throw new Error(`${items} items came in, not ${FILES}`);
    const peakMb = await peakMemoryMb(pid);
    return {
      title: 'Bringing in 1,000 files of 200 MB',
      rivalName: 'copying the files to the disk, flushed, and hashing them: less than any store must do',
      goal: 'more than 20 MB/s in all, memory under 500 MB',
      notes: [`Highest memory of the server: ${peakMb} MB.`],
      rows: [
        { what: 'uploading and reading', ours: uploaded, rival, bytes },
        { what: 'working out the review', ours: reviewed },
        { what: 'carrying out', ours: carriedOut },
        { what: 'all of it', ours: uploaded + reviewed + carriedOut, rival, bytes },
      ],
    };
  });
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

/** Highest resident memory of a process, as Linux keeps it (`VmHWM`). */
async function peakMemoryMb(pid: number): Promise<number> {
  const status = await readFile(`/proc/${pid}/status`, 'utf8');
  return Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? NaN) / 1000);
}
