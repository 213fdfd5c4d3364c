/** Issued files over HTTP: what a release leaves behind, who may have it, and what its structure was then. */
import { createHash } from 'node:crypto';
import { NodeIO, type Node } from '@gltf-transform/core';
import { isOfDesign } from '@stem-trace/contract';
import { manifestSchema } from '@stem-trace/contract/schemas';
import type {
  BaselineRow,
  FindAnswer,
  IssuedFileRow,
  IssuedFromRow,
  IssuedFilesSetting,
  LifecyclesAnswer,
  SceneAnswer,
  SheetView,
  StepAnswer,
  StructureAnswer,
} from '@stem-trace/contract';
import { readStep } from '@stem-trace/formats';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { readPacked } from '../jobs/packed-glb.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
let checker: Readonly<Record<string, string>>;
beforeAll(async () => {
  store = await TestStore.open(undefined, { worksInBackground: true });
  checker = { Authorization: `Bearer ${await store.tokenFor('iss-checker', 'checker')}` };
  await store.intake(readExchangeSet('s1-tu-203'), { prefix: 'T-', place: '/whale' });
  await store.intake(
    new Map([['T-s1 sheet.dxf', dxf({ notes: ['Water 水 𝛼'], fields: { DRAWING_NO: 'T-s1-D' } })]]),
    {
      place: '/whale',
    },
  );
}, 120_000);
afterAll(() => store.close());

async function release(items: readonly string[]): Promise<string> {
  const { sheet } = await store.json<StepAnswer>('POST', '/api/steps', {
    ...{ items, step: 'ask for check', reason: '', below: true },
  });
  await store.call('POST', '/api/steps', { items, step: 'release', reason: 'Series', below: true }, checker);
  return sheet ?? '';
}

const issued = (item: string): Promise<IssuedFileRow[]> =>
  store.json('GET', `/api/issued?item=${encodeURIComponent(item)}`);

async function made(item: string): Promise<IssuedFileRow[]> {
  await vi.waitFor(
    async () => {
      const rows = await issued(item);
      expect(rows.filter(({ state }) => state === 'waiting')).toEqual([]);
    },
    { timeout: 120_000, interval: 100 },
  );
  return issued(item);
}

async function file(
  item: string,
  { id }: IssuedFileRow,
  headers: Readonly<Record<string, string>> = {},
): Promise<Uint8Array> {
  const path = `/api/issued/file?item=${encodeURIComponent(item)}&file=${id}`;
  return new Uint8Array(await (await store.call('GET', path, undefined, headers)).arrayBuffer());
}

const refused = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'done',
    (error: unknown) =>
      error instanceof Refused ? `${error.status} ${error.problem.detail}` : String(error),
  );

const of = (rows: readonly IssuedFileRow[], kind: IssuedFileRow['kind']): IssuedFileRow => {
  const row = rows.find((each) => each.kind === kind);
  if (!row) throw new Error(`no ${kind} among ${rows.map((each) => each.kind).join(', ')}`);
  return row;
};

/** What the nodes of a glTF draw, in the frame of the whole: its corners and its volume. */
function drawn(nodes: readonly Node[]): { volume: number; low: number[]; high: number[] } {
  const all = { volume: 0, low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
  for (const node of nodes) {
    const matrix = node.getWorldMatrix();
    const placed = ([x = 0, y = 0, z = 0]: readonly number[]): number[] =>
      [0, 1, 2].map((axis) => (matrix[axis] ?? 0) * x + (matrix[4 + axis] ?? 0) * y + (matrix[8 + axis] ?? 0) * z + (matrix[12 + axis] ?? 0)); // prettier-ignore
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const positions = primitive.getAttribute('POSITION');
      const corners = Array.from({ length: positions?.getCount() ?? 0 }, (_, corner) =>
        placed(positions?.getElement(corner, []) ?? []),
      );
      for (const corner of corners)
        for (const axis of [0, 1, 2]) {
          all.low[axis] = Math.min(all.low[axis] ?? 0, corner[axis] ?? 0);
          all.high[axis] = Math.max(all.high[axis] ?? 0, corner[axis] ?? 0);
        }
      const indices = primitive.getIndices()?.getArray() ?? [];
      for (let at = 0; at + 2 < indices.length; at += 3) {
        const [a = [], b = [], c = []] = [0, 1, 2].map((next) => corners[indices[at + next] ?? 0]);
        const [[ax = 0, ay = 0, az = 0], [bx = 0, by = 0, bz = 0], [cx = 0, cy = 0, cz = 0]] = [a, b, c];
        all.volume += (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
      }
    }
  }
  return all;
}

it('a release leaves what others build from, each once, shown as so many of so many on the sheet', async () => {
  const { rows: drawings } = await store.json<FindAnswer>('GET', '/api/items?words=kind%20%3D%20drawing');
  const [drawing] = drawings;
  const sheet = await release(['T-s1', drawing?.number ?? '']);
  const before = await store.json<SheetView>('GET', `/api/sheets/${sheet}`);
  expect(before.rows.find(({ number }) => number === 'T-s1')?.issued.wanted).toBe(5);
  const rows = await made('T-s1');
  expect(rows.map(({ kind, state }) => [kind, state])).toEqual([
    ...[
      ['STEP', 'made'],
      ['glTF', 'made'],
      ['BOM as XLSX', 'made'],
    ],
    ...[
      ['BOM as CSV', 'made'],
      ['BOM as XML', 'made'],
    ],
  ]);
  const after = await store.json<SheetView>('GET', `/api/sheets/${sheet}`);
  expect(after.rows.find(({ number }) => number === 'T-s1')?.issued).toEqual({
    ...{ wanted: 5, made: 5, leftOut: 0, problem: null },
  });

  // The page says what was released, and which character no font has.
  const page = of(await made(drawing?.number ?? ''), 'PDF');
  const pdf = await getDocument({ data: await file(drawing?.number ?? '', page), verbosity: 0 }).promise;
  expect(page.remarks.join()).toContain('𝛼 (U+1D6FC)');
  const texts = (await (await pdf.getPage(1)).getTextContent()).items.flatMap((item) =>
    'str' in item ? item.str : [],
  );
  expect(texts.join(' ')).toMatch(
    new RegExp(`${drawing?.number} · revision A \\(A/1\\) · released \\d{4}-\\d\\d-\\d\\d`),
  );
}, 180_000);

it('the joined STEP is the assembly by the kernel of others, and the glTF stands as it does', async () => {
  const rows = await made('T-s1');
  const step = await file('T-s1', of(rows, 'STEP'));
  const { uses } = readStep(step, 'joined.stp');
  // Each assembly of it is used once, so that every place is a use.
  const places = (await store.made('T-s1')).rows.reduce((sum, { quantity }) => sum + quantity, 0);
  expect(uses.length).toBe(places);

  const glb = (await new NodeIO().readBinary(await file('T-s1', of(rows, 'glTF')))).getRoot();
  const own = drawn(glb.listNodes());
  const pool = new TessellatePool();
  const path = `${store.blobFolder}/joined.stp`;
  await import('node:fs/promises').then(({ writeFile }) => writeFile(path, step));
  const kernel = await pool.tessellate({ file: path });
  await pool.close();
  if (kernel.kind === 'nothing') throw new Error('the joined file has no geometry');
  const [scene] = (await readPacked(new Uint8Array(kernel.glb))).getRoot().listScenes();
  const theirs = drawn(scene?.listChildren() ?? []);
  for (const axis of [0, 1, 2]) {
    expect(own.low[axis]).toBeCloseTo(theirs.low[axis] ?? 0, 4);
    expect(own.high[axis]).toBeCloseTo(theirs.high[axis] ?? 0, 4);
  }
  // Both cut corners, the kernel by how large the whole is.
  expect(own.volume / theirs.volume).toBeCloseTo(1, 1);
  expect(own.volume).toBeGreaterThan(0);
  // Nodes are called as the structure calls them.
  const { nodes } = await store.json<SceneAnswer>('GET', '/api/scene?item=T-s1');
  const names = glb.listNodes().map((node) => node.getName());
  for (const { number } of nodes) expect(names.some((name) => name.startsWith(number))).toBe(true);
}, 120_000);

it('leads back to what it was made of, and says what is released now', async () => {
  const [file] = (await issued('T-s1')).filter(({ state }) => state === 'made');
  const from = (sha256: string, headers = {}): Promise<IssuedFromRow[]> =>
    store.call('GET', `/api/issued/from?sha256=${sha256}`, undefined, headers).then((answer) => answer.json() as Promise<IssuedFromRow[]>); // prettier-ignore
  expect(await from(file?.sha256 ?? '')).toEqual([
    expect.objectContaining({
      ...{ number: 'T-s1', version: 'A/1', kind: file?.kind, file: file?.name, released: 'A/1' },
      state: 'released',
    }),
  ]);
  expect(await from('0'.repeat(64))).toEqual([]);
  expect(await refused(from('x'))).toMatch(/must be the SHA-256 of a file/);
});

it('a baseline stays what it was, whatever is released later', async () => {
  const [baseline] = await store.json<BaselineRow[]>('GET', '/api/baselines?item=T-s1');
  const lens = encodeURIComponent(`baseline ${baseline?.id}`);
  const frozen = await store.json<StructureAnswer>('GET', `/api/made?item=T-s1&all=true&lens=${lens}`);
  const part = frozen.rows.find(({ kind }) => kind === 'part')?.number ?? '';
  await store.call('POST', '/api/revise', { items: [part] });
  const later = await store.json<StructureAnswer>('GET', `/api/made?item=T-s1&all=true&lens=newest`);
  const versions = (answer: StructureAnswer): unknown =>
    answer.rows.map(({ number, version, total }) => [number, version, total]);
  expect(later.rows.find(({ number }) => number === part)?.version).toBe('B/1');
  expect(versions(await store.json('GET', `/api/made?item=T-s1&all=true&lens=${lens}`))).toEqual(
    versions(frozen),
  );
  // Upwards, fetched, compared and as a bill it is the same.
  const used = await store.json<StructureAnswer>('GET', `/api/used?item=${part}&all=true&lens=${lens}`);
  expect(used.rows.map(({ number }) => number)).toContain('T-s1');
  const { manifest } = await store.fetch('T-s1', `&lens=${lens}`);
  expect(manifest.files.flatMap(({ items }) => items)).toContainEqual({ number: part, version: 'A/1' });
  expect(await refused(store.made('T-s1', '&lens=baseline%20999999'))).toMatch(
    /400 There is no baseline 999999/,
  );
  expect(
    (await store.json<BaselineRow[]>('GET', `/api/baselines?item=${part}`)).map(({ id }) => id),
  ).toContain(baseline?.id);
});

it('is had without its sources by who may receive, and never with what one may not have', async () => {
  await store.intake(
    new Map([
      ['box.stp', stepFile({ id: 'BOX', uses: [{ id: 'LID', locator: 'lid.stp' }] })],
      ['lid.stp', stepFile({ id: 'LID' })],
    ]),
    { place: '/boxes' },
  );
  await release(['BOX']);
  const rows = await made('BOX');
  const xml = of(rows, 'BOM as XML');
  const shop = { Authorization: `Bearer ${await store.tokenFor('iss-shop', 'viewer')}` };
  const admin = { Authorization: `Bearer ${await store.tokenFor('iss-admin', 'administrator')}` };
  const grant = (place: string, rights: readonly string[]): Promise<unknown> =>
    store.call(
      'PUT',
      '/api/places/access',
      {
        ...{ place, inherits: false, grants: [{ to: { kind: 'person', login: 'iss-shop' }, rights }] },
      },
      admin,
    );
  await grant('/boxes', ['receive']);
  expect(new TextDecoder().decode(await file('BOX', xml, shop))).toContain('LID');
  expect(await refused(store.call('GET', '/api/file?item=BOX', undefined, shop))).toMatch(/^403/);
  await store.call('POST', '/api/items/move', { items: ['LID'], place: '/secret' }, admin);
  await grant('/secret', ['see']);
  expect(await refused(file('BOX', xml, shop))).toMatch(/403 .*holds items that you may not have/);
  const [seen] = await store
    .call('GET', '/api/issued?item=BOX', undefined, shop)
    .then((answer) => answer.json() as Promise<IssuedFileRow[]>);
  expect(seen?.mayReceive).toBe(false);
});

it('holds nothing hidden, whatever it was made of: drafts below, alternates, what a drawing draws on', async () => {
  const admin = { Authorization: `Bearer ${await store.tokenFor('iss-admin', 'administrator')}` };
  const { lifecycles } = await store.json<LifecyclesAnswer>('GET', '/api/lifecycles');
  const [first] = lifecycles;
  if (!first) throw new Error('there is no lifecycle');
  const withSteps = (isOverUnreleased: boolean): Promise<unknown> =>
    store.call(
      'POST',
      '/api/lifecycles',
      {
        ...{ id: first.id, scopes: first.scopes, comment: '' },
        diagram: {
          ...first.diagram,
          steps: first.diagram.steps.map((step) => ({ ...step, isOverUnreleased })),
        },
      },
      admin,
    );
  await withSteps(true);
  await store.intake(
    new Map([
      ['case.stp', stepFile({ id: 'CASE', uses: [{ id: 'H-DRAFT', locator: 'h-draft.stp' }] })],
      ['h-draft.stp', stepFile({ id: 'H-DRAFT' })],
      ['tub.stp', stepFile({ id: 'TUB', uses: [{ id: 'CAP', locator: 'cap.stp' }] })],
      ['cap.stp', stepFile({ id: 'CAP' })],
      ['h-cap.stp', stepFile({ id: 'H-CAP' })],
      ['tray.dxf', dxf({ fields: { DRAWING_NO: 'TRAY-D' }, attached: { FRAME: 'h-frame.dxf' } })],
      ['h-frame.dxf', dxf({ fields: { DRAWING_NO: 'H-FRAME' }, notes: ['secret words'] })],
    ]),
    { place: '/cases' },
  );
  await store.call('PUT', '/api/alternates', { item: 'CAP', other: 'H-CAP' });
  await store.call('POST', '/api/alternates/approve', { item: 'CAP', other: 'H-CAP' }, checker);
  for (const item of ['CASE', 'TUB', 'TRAY-D']) {
    await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' });
    await store.call('POST', '/api/steps', { items: [item], step: 'release', reason: '' }, checker);
  }
  const rows = new Map<string, IssuedFileRow[]>();
  for (const item of ['CASE', 'TUB', 'TRAY-D']) rows.set(item, await made(item));
  await withSteps(false);
  await store.call(
    'POST',
    '/api/items/move',
    { items: ['H-DRAFT', 'H-CAP', 'H-FRAME'], place: '/hidden' },
    admin,
  );
  await store.call('PUT', '/api/places/access', { place: '/hidden', inherits: false, grants: [] }, admin);
  for (const [item, files] of rows) {
    const list = await store.call('GET', `/api/issued?item=${item}`);
    const text = await list.text();
    expect([item, text]).toEqual([item, expect.not.stringContaining('H-')]);
    expect((JSON.parse(text) as IssuedFileRow[]).some(({ mayReceive }) => mayReceive)).toBe(false);
    for (const each of files.filter(({ state }) => state === 'made'))
      expect([item, each.kind, await refused(file(item, each))]).toEqual([
        item,
        each.kind,
        expect.stringMatching(/403 .*holds items that you may not have/),
      ]);
  }
  const whole = of(rows.get('CASE') ?? [], 'BOM as CSV');
  expect(new TextDecoder().decode(await file('CASE', whole, admin))).toContain('H-DRAFT');
}, 120_000);

it('comes along where that is wished, in a folder of its own, and is no design file of the working copy', async () => {
  await store.intake(
    new Map([
      ['pack.stp', stepFile({ id: 'PACK', uses: [{ id: 'FOIL', locator: 'foil.stp' }] })],
      ['foil.stp', stepFile({ id: 'FOIL' })],
    ]),
    { place: '/packs' },
  );
  await release(['PACK']);
  await made('PACK');
  const plain = await store.fetch('PACK');
  expect(plain.manifest.issued).toBeUndefined();
  const { files, manifest } = await store.fetch('PACK', '&issued=true');
  const names = (await made('PACK'))
    .filter(({ state }) => state === 'made')
    .map(({ name }) => `issued files/${name}`);
  const lid = (await made('FOIL'))
    .filter(({ state }) => state === 'made')
    .map(({ name }) => `issued files/${name}`);
  expect(manifest.issued?.map(({ path }) => path).sort()).toEqual([...names, ...lid].sort());
  for (const { path, sha256 } of manifest.issued ?? [])
    expect(
      createHash('sha256')
        .update(files.get(path) ?? '')
        .digest('hex'),
    ).toBe(sha256);
  expect(manifest.files.map(({ path }) => path)).toEqual(plain.manifest.files.map(({ path }) => path));
  expect(isOfDesign('issued files/PACK A-1.stp', manifest)).toBe(false);
  expect(isOfDesign('pack.stp', manifest)).toBe(true);
  // The manifest comes back as it went.
  expect(manifestSchema.validate(manifest).error).toBeUndefined();
});

it('of what has no shape says that there is none, and leaves nothing waiting', async () => {
  await store.intake(new Map([['flat.stp', stepFile({ id: 'FLAT' })]]), { place: '/flat' });
  await release(['FLAT']);
  const rows = await made('FLAT');
  expect(of(rows, 'glTF')).toMatchObject({
    state: 'left out',
    problem: 'Nothing of FLAT has a shape of its own.',
  });
  expect(of(rows, 'STEP')).toMatchObject({ state: 'made', name: 'FLAT A-1.stp' });
});

it('is never written over, nor lost, and is what the setting says', async () => {
  const owner = await store.owner();
  await expect(owner.query(`UPDATE issued_file SET name = 'x' WHERE made_at IS NOT NULL`)).rejects.toThrow();
  await expect(owner.query('DELETE FROM issued_file')).rejects.toThrow();
  const admin = { Authorization: `Bearer ${await store.tokenFor('iss-admin', 'administrator')}` };
  const setting: IssuedFilesSetting = {
    issued: { part: [], assembly: ['BOM as CSV'], drawing: [], document: [] },
  };
  await store.call('PUT', '/api/settings/issued', setting, admin);
  await store.intake(new Map([['plain.stp', stepFile({ id: 'PLAIN' })]]), { place: '/flat' });
  await release(['PLAIN']);
  expect(await issued('PLAIN')).toEqual([]);
});
