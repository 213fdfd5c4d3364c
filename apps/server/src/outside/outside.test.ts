/** What is handed out, read by programs that others wrote: as many solids as before, no fault, no name without a file. */
import { randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import type { IntakeView } from '@stem-trace/contract';
import { annotateStepPart } from '@stem-trace/formats';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import {
  EXTERNAL_SETS,
  readExchangeFile,
  readExchangeSet,
  WHOLE_FILES,
} from '../../../../packages/formats/src/testing/exchange-files.js';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { loadDemo } from '../demo/load-demo.js';
import { startServer } from '../server.js';
import { CUBE } from '../testing/random-trees.js';
import { everyNameHasAFile } from '../testing/case-sensitive-disk.js';
import { TestStore, type Files } from '../testing/test-store.js';
import { faultsInDrawings, Kernel, type Measure } from './readers.js';

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
    '| set | solids expected | solids found | drawings | faults |',
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
});

async function mostBelow(tops: readonly string[]): Promise<string> {
  const counts = await Promise.all(
    tops.map(async (number) => [number, (await store.made(number)).rows.length] as const),
  );
  return counts.toSorted(([, a], [, b]) => b - a)[0]?.[0] ?? '';
}

/** Assemblies that live in one file. */
const WHOLE = WHOLE_FILES.filter((name) => name.startsWith('as1')).map((root): Set => ({
  ...{ name: `${root}, one file`, root, files: new Map([[root, readExchangeFile(root)]]) },
}));

describe('what was decided about a set', () => {
  it('is what a kernel finds: solids and volumes of what was left out, swapped, added, joined and taken apart', async () => {
    for (const set of [...(await sets()), ...WHOLE]) {
      const place = `/decided/${randomUUID()}`;
      const mark = randomUUID().slice(0, 4);
      expect((await store.intake(set.files, { place, prefix: `${mark}-` })).gaps, set.name).toEqual([]);
      const numbers = await numbersOf(`${mark}-`);
      const top = await mostBelow(numbers);
      const { rows: tree } = await store.made(top);
      // Some part without anything below it, and another file of its own that stands nowhere in the set.
      const leaf = tree.find(
        ({ number, level }, at) => (tree[at + 1]?.level ?? 0) <= level && number !== top,
      )?.number;
      if (leaf === undefined) throw new Error(`${set.name} has no part`);
      const times = tree.reduce((sum, { number, total }) => (number === leaf ? sum + total : sum), 0);
      const other = `${mark}-OTHER`;
      await store.intake(new Map([['other.stp', boxFile(other)]]), { place: `${place}/other` });
      const measured = async (item: string): Promise<Measure> => {
        const { files, manifest } = await store.fetch(item);
        const [found] = await kernel.measure([join(await toDisk(files), manifest.root)]);
        return found ?? { solids: -1, volume: 0 };
      };
      const [whole, box] = [await measured(top), await measured(other)];
      const tell = (what: string, is: Measure, wanted: Measure): void => {
        rows.push(`| ${set.name}: ${what} | ${wanted.solids} | ${is.solids} | – | 0 |`);
        expect(is.solids, `${set.name}, ${what}`).toBe(wanted.solids);
        // The kernel says six digits of a volume.
        expect(is.volume / wanted.volume, `${set.name}, ${what}`).toBeCloseTo(1, 4);
      };
      // In one file, which is brought in as another set, and taken apart there.
      const response = await store.call('GET', `/api/fetch/joined?item=${encodeURIComponent(top)}`);
      const one = new Map([['one.stp', new Uint8Array(await response.arrayBuffer())]]);
      const [joined] = await kernel.measure([join(await toDisk(one), 'one.stp')]);
      tell('joined', joined ?? { solids: -1, volume: 0 }, whole);
      const again = `${mark}again-`;
      await store.intake(one, { place: `${place}/one`, prefix: again });
      const apart = await mostBelow(await numbersOf(again));
      await store.json('POST', '/api/holds', { items: [apart], reason: '' });
      const sheet = await settled(await store.json('POST', '/api/intakes/split', { item: apart }));
      await store.json('POST', `/api/intakes/${sheet.id}/carry-out`, { comment: 'Apart', letGo: true });
      expect((await settled(sheet)).state, set.name).toBe('done');
      expect((await store.fetch(apart)).files.size, set.name).toBeGreaterThan(1);
      tell('taken apart', await measured(apart), whole);
      // There it has a file of its own.
      const part = await measured(`${again}${leaf}`);
      const expected = (leaves: number, boxes: number): Measure => ({
        solids: whole.solids + leaves * part.solids + boxes * box.solids,
        volume: whole.volume + leaves * part.volume + boxes * box.volume,
      });
      const variant = async (what: string, decided: object, wanted: Measure): Promise<void> => {
        const made = await store.derive({
          ...{ item: top, copy: 'all', prefix: `${what} `, place: `${place}/${what}`, ...decided },
        });
        expect(made.proof.faults, `${set.name}, ${what}`).toEqual([]);
        tell(what, await measured(made.variant), wanted);
      };
      await variant('omitted', { omit: [leaf] }, expected(-times, 0));
      await variant('swapped', { swap: [{ from: leaf, to: other }] }, expected(-times, times));
      const add = { in: [top], item: other, name: 'added', like: '', at: [0, 0, 500] };
      await variant('added', { added: [add] }, expected(0, 1));
    }
  });
});

async function settled(sheet: IntakeView): Promise<IntakeView> {
  for (;;) {
    const view = await store.json<IntakeView>('GET', `/api/intakes/${sheet.id}`);
    if (!['unpacking', 'reading', 'waiting', 'carrying out'].includes(view.state)) return view;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

async function numbersOf(words: string): Promise<string[]> {
  const { rows: found } = await store.json<{ rows: { number: string }[] }>(
    ...(['GET', `/api/items?words=${encodeURIComponent(words)}&limit=100`] as const),
  );
  return found.map(({ number }) => number).filter((number) => number.startsWith(words));
}

function boxFile(id: string): Uint8Array {
  return annotateStepPart(CUBE, {
    ...{ id, name: id, description: '', version: '', source: 'made', properties: [] },
    ...{ fileName: 'other.stp', time: '' },
  });
}

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
