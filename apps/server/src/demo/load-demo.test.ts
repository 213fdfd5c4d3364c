import { createHash, randomUUID } from 'node:crypto';
import { mkdtemp, readdir, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { FindAnswer, ItemView, RecipeView, VerifyAnswer, WishSheetRow } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, inject, it, vi } from 'vitest';
import { AccessService } from '../access/access.service.js';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { startServer } from '../server.js';
import { TestStore } from '../testing/test-store.js';
import { readHistory } from './demo-people.js';
import { loadDemo } from './load-demo.js';

const DEMO = resolve(import.meta.dirname, '../../../../demo');
let store: TestStore;

beforeAll(async () => {
  const databaseUrl = inject('databaseUrl').replace(/\/[^/]*$/, `/demo_${randomUUID().replaceAll('-', '')}`);
  const blobFolder = await mkdtemp(join(tmpdir(), 'stem-trace-blobs-'));
  await ensureDatabase(databaseUrl);
  const server = await startServer({ databaseUrl, blobFolder, port: 0, logLevels: ['error', 'fatal'] });
  await loadDemo(server.app, DEMO, () => undefined);
  await server.close();
  store = await TestStore.open({ databaseUrl, blobFolder });
}, 180_000);

afterAll(() => store.close());

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

interface State {
  readonly at: string;
  readonly sha256: string;
}

/** What a file of the river station is called in what was derived from it; undefined for a file of something else. */
function nameOfCopy(
  name: string,
  { replace }: { readonly replace: readonly { readonly from: string; readonly to: string }[] },
): string | undefined {
  const origin = /^FM-[123]\d{3}/.exec(name)?.[0];
  if (origin === undefined) return undefined;
  const copy = replace.reduce((number, { from, to }) => number.replace(from, to), origin);
  if (copy === origin) return undefined;
  return `${copy}${name.endsWith('.dxf') ? '-D' : ''}${name.slice(name.lastIndexOf('.'))}`;
}

/** For every file name, what it held after which moment: oldest first. Copies begin with what their origin held then. */
async function contentsOverTime(): Promise<Map<string, State[]>> {
  const { history } = await readHistory(DEMO);
  const contents = new Map<string, State[]>();
  const copies = new Map<string, { readonly origin: string; readonly sha256: string }>();
  const put = (name: string, state: State): void => {
    contents.set(name, [...(contents.get(name) ?? []), state]);
  };
  for (const step of history) {
    if (step.kind === 'derive') {
      for (const [name, states] of [...contents]) {
        const copy = nameOfCopy(name, step);
        const now = states.at(-1);
        if (copy === undefined || !now) continue;
        put(copy, { ...now, at: step.at });
        copies.set(copy, { origin: name, sha256: now.sha256 });
      }
    }
    if (step.kind === 'carry over') {
      // A file that nobody has changed since it was copied becomes what its origin's file is now.
      for (const [copy, { origin, sha256: then }] of copies) {
        const now = contents.get(origin)?.at(-1);
        const isLeft = step.leave.includes(copy.slice(0, copy.lastIndexOf('.')));
        if (isLeft || !now || contents.get(copy)?.at(-1)?.sha256 !== then) continue;
        put(copy, { ...now, at: step.at });
      }
    }
    if (step.kind !== 'bring in') continue;
    const folder = join(DEMO, 'models', step.folder);
    for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
      if (!entry.isFile()) continue;
      put(entry.name, {
        at: step.at,
        sha256: sha256(await readFile(join(entry.parentPath, entry.name))),
      });
    }
  }
  return contents;
}

describe('the demo history', () => {
  it('lets every version of every item be fetched with the files of its own day', async () => {
    const contents = await contentsOverTime();
    const { rows, hidden } = await store.json<FindAnswer>('GET', '/api/items?limit=1000');
    let old = 0;
    for (const { number, kind } of rows) {
      const { versions } = await store.json<ItemView>('GET', `/api/item?item=${encodeURIComponent(number)}`);
      for (const { version, createdAt } of versions) {
        const { files, manifest } = await store.fetch(`${number}@${version}`);
        // The surge arrester is the demo's gap: it never came in.
        for (const { reason } of manifest.left) expect(reason, `${number}@${version}`).toContain('FM-9501');
        // What Build, Change, a recipe and its variants say is in none of the folders that came in.
        // A variant is made of what its origin had recorded, whatever came in until then.
        for (const { path, stored } of ['bill', 'request', 'order'].includes(kind) || /^FS-/.test(number)
          ? []
          : manifest.files) {
          const name = path.split('/').at(-1) ?? '';
          if (/^F[RS]-/.test(name)) continue;
          const states = contents.get(name) ?? [];
          // A file that came in later than what refers to it closed the gap there.
          const then = states.findLast((state) => Date.parse(state.at) <= Date.parse(createdAt)) ?? states[0];
          expect(stored, `${path} in ${number}@${version}`).toBe(then?.sha256);
          if (then?.sha256 !== states.at(-1)?.sha256) old++;
        }
        expect([...files.keys()].sort()).toEqual(manifest.files.map(({ path }) => path).sort());
      }
    }
    expect(rows.length).toBeGreaterThan(240);
    // What purchasing keeps to itself is counted, and nobody else learns its name.
    expect(hidden).toBe(2);
    expect(old).toBeGreaterThan(20);
  }, 120_000);

  it('leaves a store that is whole, with what a demo should show', async () => {
    const administrator = await store.tokenFor('root', 'administrator');
    const verified = (await (
      await store.call('GET', '/api/verify', undefined, { Authorization: `Bearer ${administrator}` })
    ).json()) as VerifyAnswer;
    expect(verified).toMatchObject({ whole: true, holds: 2, faults: [] });
    expect(verified.gaps).toBeGreaterThan(0);
    const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);
    expect((await view('FM-9502')).state).toBe('withdrawn');
    expect((await view('FM-9502')).usedIn).toBeGreaterThan(0);
    expect((await view('FM-2400')).behindLinks.map(({ number }) => number)).toContain('FM-3402');
    expect((await view('FM-5000')).derivedFrom?.number).toBe('FM-1000');
    expect((await view('FM-7201')).beside.map(({ number }) => number)).toEqual(['FM-7201-D']);
    // The variant holds together still, a year and many changes later; the list on a copied drawing names the copies.
    const proof = await store.json<Proof>('GET', '/api/derive/proof?item=FM-5000');
    expect(proof).toMatchObject({ dangling: 0, leaking: 0, faults: [] });
    // Stations that were asked for by their wishes.
    const sheets = await store.json<WishSheetRow[]>('GET', '/api/wishes?recipe=FR-1000');
    expect(
      sheets.map(({ state, variant, dangling, leaking }) => [state, variant, dangling, leaking]).reverse(),
    ).toEqual(
      [
        'FS-30-16-20 Ash Beck',
        'FS-40-16-20 Harrow Brook',
        'FS-30-20-20H Kettle',
        'FS-40-20-20H Upper Kettle',
        'FS-30-14-50 Sill',
        'FS-40-14-50 Little Sill',
      ].map((variant) => ['made', variant, 0, 0]),
    );
    const { problems } = await store.json<RecipeView>('GET', '/api/recipe?item=FR-1000');
    expect(problems).toEqual([]);
  }, 60_000);
});

it('leaves a store alone that holds other data, though nobody is known there yet', async () => {
  const other = await TestStore.open();
  await other.intake(new Map([['own.txt', new TextEncoder().encode('own')]]), { place: '/own' });
  const said: string[] = [];
  const access = other.server.app.get(AccessService);
  vi.spyOn(access, 'hasPeople').mockResolvedValue(false);
  await loadDemo(other.server.app, DEMO, (line) => said.push(line));
  expect(said.join()).toMatch(/holds other data/);
  const { rows } = await other.json<FindAnswer>('GET', '/api/items');
  expect(rows.map(({ number, state }) => [number, state])).toEqual([['own', 'draft']]);
  await other.close();
});
