/** What is handed out, read by programs that others wrote: as many solids as before, no fault, no name without a file. */
import { randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { EXTERNAL_SETS, readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { loadDemo } from '../demo/load-demo.js';
import { startServer } from '../server.js';
import { everyNameHasAFile } from '../testing/case-sensitive-disk.js';
import { TestStore, type Files } from '../testing/test-store.js';
import { faultsInDrawings, Kernel } from './readers.js';

const ROOT = resolve(import.meta.dirname, '../../../..');
const REPORT = join(ROOT, 'docs/formats.md');
const BEGIN = '<!-- outside: begin -->';
const END = '<!-- outside: end -->';

const rows: string[] = [];
let folder: string;
let kernel: Kernel;
let store: TestStore;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-outside-'));
  kernel = await Kernel.open(folder);
  const databaseUrl = inject('databaseUrl').replace(
    /\/[^/]*$/,
    `/outside_${randomUUID().replaceAll('-', '')}`,
  );
  await ensureDatabase(databaseUrl);
  const blobFolder = await mkdtemp(join(tmpdir(), 'stem-trace-blobs-'));
  const server = await startServer({ databaseUrl, blobFolder, port: 0, logLevels: ['error', 'fatal'] });
  await loadDemo(server.app, join(ROOT, 'demo'), () => undefined);
  await server.close();
  store = await TestStore.open({ databaseUrl, blobFolder });
});

afterAll(async () => {
  await store.close();
  await rm(folder, { recursive: true });
  const text = await readFile(REPORT, 'utf8');
  const table = [
    '| set | solids before | solids in the variant | drawings | faults |',
    '|---|---|---|---|---|',
    ...rows.sort(),
  ];
  const before = text.slice(0, text.indexOf(BEGIN) + BEGIN.length);
  await writeFile(REPORT, `${before}\n\n${table.join('\n')}\n\n${text.slice(text.indexOf(END))}`);
});

async function toDisk(files: Files): Promise<string> {
  const target = join(folder, randomUUID());
  for (const [path, bytes] of files) {
    await mkdir(dirname(join(target, path)), { recursive: true });
    await writeFile(join(target, path), bytes);
  }
  return target;
}

async function fromDisk(source: string): Promise<Files> {
  const files = new Map<string, Uint8Array>();
  for (const entry of await readdir(source, { recursive: true, withFileTypes: true }))
    if (entry.isFile()) {
      const path = join(entry.parentPath, entry.name);
      files.set(path.slice(source.length + 1), await readFile(path));
    }
  return files;
}

interface Set {
  readonly name: string;
  readonly files: Files;
  readonly root: string;
}

/** A set with other names of its leaves, replaced as plain text by whoever wrote it. */
function renamed(
  { files, root }: Set,
  name: string,
  names: Readonly<Record<string, { path: string; says: string }>>,
): Set {
  const decode = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes);
  const encode = (text: string): Uint8Array => Uint8Array.from(text, (char) => char.charCodeAt(0));
  return {
    name,
    root,
    files: new Map(
      [...files].map(([path, bytes]) => {
        let text = decode(bytes);
        if (path === root)
          for (const [was, { says }] of Object.entries(names)) text = text.replaceAll(was, says);
        return [names[path]?.path ?? path, encode(text)];
      }),
    ),
  };
}

async function sets(): Promise<Set[]> {
  const written = join(folder, 'kernel');
  await kernel.writeSet(written);
  const ofKernel: Set = {
    name: 'written by the kernel, documents as products',
    files: await fromDisk(written),
    root: 'frame.stp',
  };
  return [
    ...EXTERNAL_SETS.map((name): Set => {
      const files = readExchangeSet(name);
      return { name, files, root: `${name}.stp` };
    }),
    ofKernel,
    renamed(ofKernel, 'the same, with leaves in folders', {
      'leaf_Plate.stp': { path: 'parts/plate left.stp', says: 'parts/plate left.stp' },
      'leaf_Nut.stp': { path: 'parts/deep/nut.stp', says: 'parts/deep/nut.stp' },
    }),
    renamed(ofKernel, 'the same, with quotes, percent signs and capitals', {
      'leaf_Plate.stp': { path: "it's a plate.stp", says: "it''s a plate.stp" },
      'leaf_Nut.stp': { path: 'Nut%20M8.STP', says: 'Nut%20M8.STP' },
    }),
  ];
}

describe('variants of sets', () => {
  it('have the solids that the sets have', async () => {
    for (const set of await sets()) {
      const place = `/outside/${randomUUID()}`;
      const prefix = `${randomUUID().slice(0, 4)}-`;
      const result = await store.intake(set.files, { place, prefix });
      expect([result.problems, result.gaps], set.name).toEqual([[], []]);
      const { rows: found } = await store.json<{ rows: { number: string }[] }>(
        'GET',
        `/api/items?words=${encodeURIComponent(prefix)}&limit=100`,
      );
      const tops = await Promise.all(
        found.map(async ({ number }) => ((await store.used(number)).rows.length === 0 ? number : '')),
      );
      const top = tops
        .filter((number) => number !== '')
        .toSorted((a, b) => Number(b.includes('leaf')) - Number(a.includes('leaf')));
      const best = await mostBelow(top);
      const before = await kernel.solidsIn([join(await toDisk(set.files), set.root)]);
      const variant = await store.derive({
        item: best,
        copy: 'all',
        prefix: 'Variant ',
        place: `${place}/variant é`,
      });
      expect(variant.proof.faults, set.name).toEqual([]);
      const fetched = await store.fetch(variant.variant);
      await everyNameHasAFile(fetched.files);
      const after = await kernel.solidsIn([join(await toDisk(fetched.files), fetched.manifest.root)]);
      rows.push(`| ${set.name} | ${before[0] ?? 0} | ${after[0] ?? 0} | – | 0 |`);
      expect(after, set.name).toEqual(before);
      expect(after[0], set.name).toBeGreaterThan(1);
    }
  });

  async function mostBelow(tops: readonly string[]): Promise<string> {
    const counts = await Promise.all(
      tops.map(async (number) => [number, (await store.made(number)).rows.length] as const),
    );
    return counts.toSorted(([, a], [, b]) => b - a)[0]?.[0] ?? '';
  }
});

it('the demo’s station and a variant of it have the same solids, and drawings without a fault', async () => {
  const origin = await store.fetch('FM-1000', '&drawings=true');
  const variant = await store.derive({
    item: 'FM-1000',
    copy: 'all',
    prefix: 'X',
    place: '/outside/station',
  });
  expect(variant.proof.faults).toEqual([]);
  const fetched = await store.fetch(variant.variant, '&drawings=true');
  const [from, to] = [await toDisk(origin.files), await toDisk(fetched.files)];
  const [before, after] = await kernel.solidsIn([
    join(from, origin.manifest.root),
    join(to, fetched.manifest.root),
  ]);
  const drawings = [...fetched.files.keys()]
    .filter((path) => /\.dxf$/i.test(path))
    .map((path) => join(to, path));
  const faults = await faultsInDrawings([
    ...drawings,
    ...[...origin.files.keys()].filter((path) => /\.dxf$/i.test(path)).map((path) => join(from, path)),
  ]);
  rows.push(
    `| the demo’s river station | ${before ?? 0} | ${after ?? 0} | ${drawings.length} | ${faults.length} |`,
  );
  expect(faults).toEqual([]);
  expect(drawings.length).toBeGreaterThan(10);
  expect(after).toBe(before);
  const left = new Set(origin.manifest.left.map(({ reason }) => reason));
  if (left.size === 0) await everyNameHasAFile(fetched.files);
});
