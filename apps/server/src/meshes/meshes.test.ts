import { NodeIO } from '@gltf-transform/core';
import type {
  DocumentAnswer,
  FindAnswer,
  KeptScene,
  KeptScenesAnswer,
  LikeAnswer,
  NearAnswer,
  OverlapsAnswer,
  OverlapsProgress,
  SceneAnswer,
  SceneLook,
  TraitsAnswer,
} from '@stem-trace/contract';
import type { MeshMass } from '@stem-trace/core';
import excel from 'exceljs';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import {
  readExchangeFile,
  readExchangeSet,
} from '../../../../packages/formats/src/testing/exchange-files.js';
import { finePrimitives, readPacked } from '../jobs/packed-glb.js';
import { ShapesService } from './shapes.service.js';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { CUBE } from '../testing/random-trees.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1-tu-203'), { prefix: 'T-' });
  await store.intake(readExchangeSet('s1_pe_214'));
});
afterAll(() => store.close());

it('a part has a mesh whose mass properties agree with those that its file states', async () => {
  const fetchMesh = async (): Promise<Uint8Array> =>
    new Uint8Array(await (await store.call('GET', '/api/mesh?item=T-tailturbine')).arrayBuffer());
  const [glb, again] = await Promise.all([fetchMesh(), fetchMesh()]);
  expect(again).toEqual(glb);
  const root = (await new NodeIO().readBinary(glb)).getRoot();
  expect(root.listMeshes().length).toBeGreaterThan(0);
  const { mass } = root.getExtras() as { mass: MeshMass };
  const stated = (
    await store.json<{ properties: { name: string; value: number }[] }>('GET', '/api/item?item=T-tailturbine')
  ).properties;
  const valueOf = (name: string): number => stated.find((property) => property.name === name)?.value ?? NaN;
  // The mesh cuts corners; within two in a hundred it is the same body.
  expect(mass.volumeMm3 / valueOf('volume')).toBeCloseTo(1, 1);
  expect(mass.areaMm2 / valueOf('surface')).toBeCloseTo(1, 1);
});

it('a mesh comes packed to whoever asks for that, and a scene says how large it is once it is made', async () => {
  const plain = await (await store.call('GET', '/api/mesh?item=T-headback')).arrayBuffer();
  const packed = await (await store.call('GET', '/api/mesh?item=T-headback&form=packed')).arrayBuffer();
  expect(packed.byteLength).toBeLessThan(plain.byteLength);
  const [primitive] = finePrimitives((await readPacked(new Uint8Array(packed))).getRoot());
  const corners = [...(primitive?.getAttribute('POSITION')?.getArray() ?? [])];
  // Metres with y up there, millimetres with z up here.
  const along = (axis: number, sign = 1): number[] =>
    corners.filter((_, at) => at % 3 === axis).map((each) => sign * each * 1000);
  const axes = [along(0), along(2, -1), along(1)];
  const { meshes } = await store.json<SceneAnswer>('GET', '/api/scene?item=T-s1');
  const { box, triangles } = meshes.find(({ item }) => item.startsWith('T-headback@')) ?? {};
  for (const [at, axis] of axes.entries()) {
    expect(box?.[0][at]).toBeCloseTo(Math.min(...axis), 3);
    expect(box?.[1][at]).toBeCloseTo(Math.max(...axis), 3);
  }
  expect(triangles).toBeGreaterThanOrEqual((primitive?.getIndices()?.getCount() ?? 0) / 3);
  await expect(store.call('GET', '/api/mesh?item=T-headback&form=odd')).rejects.toThrow('form');
});

it('meshes that are kept come together, in the order in which they are asked for', async () => {
  const named = ['T-tailturbine', 'T-s1', 'T-headback'];
  const one = async (item: string): Promise<Buffer> =>
    Buffer.from(await (await store.call('GET', `/api/mesh?item=${item}&form=packed`)).arrayBuffer());
  const [first, last] = [await one('T-tailturbine'), await one('T-headback')];
  const bytes = Buffer.from(await (await store.call('POST', '/api/meshes', { items: named })).arrayBuffer());
  expect([0, 4, 8].map((at) => bytes.readUInt32LE(at))).toEqual([first.length, 0, last.length]);
  expect(bytes.subarray(12)).toEqual(Buffer.concat([first, last]));
  await expect(store.call('POST', '/api/meshes', { items: ['T-s1', 'T-S1'] })).rejects.toThrow(/same/);
  await expect(store.call('POST', '/api/meshes', { items: ['T-s1', 'NOPE'] })).rejects.toThrow(/NOPE/);
});

it('a file that has not come in yet has a mesh that every reader reads, too', async () => {
  const { id } = await store.review(new Map([['cube.stp', CUBE]]));
  const answer = await store.call('GET', `/api/staged/mesh?id=${id}&path=cube.stp`);
  const root = (await new NodeIO().readBinary(new Uint8Array(await answer.arrayBuffer()))).getRoot();
  expect(root.listExtensionsUsed()).toEqual([]);
  expect(root.listScenes()).toHaveLength(1);
  // Two triangles on each side.
  expect(root.listMeshes()[0]?.listPrimitives()[0]?.getIndices()?.getCount()).toBe(36);
});

it('an assembly stands together from the meshes of its parts, each in all its places', async () => {
  const scene = await store.json<SceneAnswer>('GET', '/api/scene?item=T-s1');
  const counts = scene.meshes.map(({ item, at }) => `${item} ×${at.length}`).sort();
  expect(counts).toEqual([
    'T-footback@A/1 ×2',
    'T-footfront@A/1 ×2',
    'T-headback@A/1 ×1',
    'T-headfront@A/1 ×1',
    'T-mainbodyback@A/1 ×1',
    'T-mainbodyfront@A/1 ×1',
    'T-tailmiddlepart@A/1 ×1',
    'T-tailturbine@A/1 ×2',
  ]);
  const turbines = scene.meshes.find(({ item }) => item === 'T-tailturbine@A/1')?.at ?? [];
  expect(turbines.map((at) => [at[3], at[7], at[11]].map((value) => Math.round(value ?? NaN)))).toEqual([
    [315, -75, 0],
    [315, 75, 0],
  ]);
});

it('an assembly that only refers to others has none, and says so', async () => {
  await expect(store.call('GET', '/api/mesh?item=TAIL_ASM')).rejects.toMatchObject({
    status: 404,
    problem: { code: 'NO_GEOMETRY' },
  });
});

it('a part that lives in another’s file has its own piece of that file’s picture', async () => {
  await store.intake(new Map([['as1.stp', readExchangeFile('as1_pe_203.stp')]]), {
    place: '/as1',
    prefix: 'C-',
  });
  const meshOf = async (item: string): Promise<MeshMass> => {
    const glb = new Uint8Array(await (await store.call('GET', `/api/mesh?item=${item}`)).arrayBuffer());
    return ((await new NodeIO().readBinary(glb)).getRoot().getExtras() as { mass: MeshMass }).mass;
  };
  const [plate, whole] = [await meshOf('C-PLATE'), await meshOf('C-AS1_PE_ASM')];
  expect(plate.volumeMm3).toBeGreaterThan(0);
  expect(plate.volumeMm3).toBeLessThan(whole.volumeMm3 * 0.9);
});

it('parts of one shape are found by it, wherever they come from, and a file is not kept', async () => {
  await store.server.app.get(ShapesService).catchUp();
  const like = await store.json<LikeAnswer>('GET', '/api/like?item=T-tailturbine');
  // The other exchange set has the same body from another program.
  expect(like.rows[0]).toMatchObject({ number: 'TAIL_TURBINE' });
  expect(like.rows[0]?.likeness.score).toBeGreaterThan(0.95);
  const scores = like.rows.map(({ likeness }) => likeness.score);
  expect(scores).toEqual([...scores].sort((a, b) => b - a));
  const found = await store.json<FindAnswer>('GET', '/api/items?words=like%20T-tailturbine');
  expect(found.rows.map(({ number }) => number)).toEqual(like.rows.map(({ number }) => number));
  const before = (await store.json<FindAnswer>('GET', '/api/items')).total;
  const [file] = [...readExchangeSet('s1-tu-203')].filter(([path]) => path.includes('tailturbine'));
  const dropped = (await (await store.call('POST', '/api/like', file?.[1])).json()) as LikeAnswer;
  expect(
    dropped.rows
      .slice(0, 2)
      .map(({ number }) => number)
      .sort(),
  ).toEqual(['T-tailturbine', 'TAIL_TURBINE']);
  expect((await store.json<FindAnswer>('GET', '/api/items')).total).toBe(before);
});

it('what has no geometry is like nothing, and says so', async () => {
  await expect(store.call('GET', '/api/like?item=T-s1')).rejects.toThrow(/no geometry of its own/);
  const text = new TextEncoder().encode('this is no design');
  await expect(store.call('POST', '/api/like', text)).rejects.toThrow(/No geometry was found/);
});

it('what lies near is told surface to surface, of any use with all that lies in it', async () => {
  const part = (id: string): Uint8Array =>
    annotateStepPart(CUBE, {
      ...{ id, name: id, description: '', version: '', source: 'made', properties: [] },
      ...{ fileName: `${id}.stp`, time: '' },
    });
  const assembly = (id: string, ...uses: readonly (readonly [string, number])[]): Uint8Array =>
    writeStepAssembly({
      ...{ id, name: id, fileName: `${id}.stp`, time: '' },
      children: uses.map(([child]) => ({ id: child, name: child, locator: `${child}.stp` })),
      uses: uses.map(([child, x], at) => ({
        ...{ child: at, name: `${child} ${at}` },
        placement: [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0],
      })),
    });
  await store.intake(new Map(['N-A', 'N-B', 'N-C'].map((id) => [`${id}.stp`, part(id)])), { place: '/near' });
  const sizeOf = async (item: string): Promise<number> => {
    const glb = new Uint8Array(await (await store.call('GET', `/api/mesh?item=${item}`)).arrayBuffer());
    const { mass } = (await new NodeIO().readBinary(glb)).getRoot().getExtras() as { mass: MeshMass };
    return mass.box.max[0] - mass.box.min[0];
  };
  const size = await sizeOf('N-A');
  await store.intake(
    new Map([
      ['N-SUB.stp', assembly('N-SUB', ['N-A', 0], ['N-B', 3 * size])],
      // 3 mm beside the first, half into the second.
      ['N-TOP.stp', assembly('N-TOP', ['N-SUB', 0], ['N-C', size + 3], ['N-C', 3.5 * size])],
    ]),
    { place: '/near' },
  );
  const { nodes } = await store.json<SceneAnswer>('GET', '/api/scene?item=N-TOP');
  expect(nodes.map(({ number, parent, use }) => [number, parent, use])).toEqual([
    ['N-TOP', -1, ''],
    ['N-SUB', 0, 'N-SUB 0'],
    ['N-A', 1, 'N-A 0'],
    ['N-B', 1, 'N-B 1'],
    ['N-C', 0, 'N-C 1'],
    ['N-C', 0, 'N-C 2'],
  ]);
  const near = (of: string, within: number, count = nodes.length): Promise<NearAnswer> =>
    store.json('GET', `/api/near?item=N-TOP&of=${of}&nodes=${count}&within=${within}`);
  expect(await near('2', 4)).toEqual({ rows: [], unknown: ['N-B', 'N-C'] });
  await Promise.all([sizeOf('N-B'), sizeOf('N-C')]);
  const said = ({ rows }: NearAnswer): [number, number, string, number, number][] =>
    rows.map(({ of, node, kind, distanceMm, depthMm }) => [
      ...([of, node, kind, Math.round(distanceMm * 100) / 100, Math.round((10 * depthMm) / size)] as const),
    ]);
  expect(said(await near('2', 2))).toEqual([]);
  expect(said(await near('2', 4))).toEqual([[2, 4, 'near', 3, 0]]);
  // With all that lies in it, but for what is selected itself; half of the size is five tenths.
  expect(said(await near('1', 4))).toEqual([
    [3, 5, 'overlaps', 0, 5],
    [2, 4, 'near', 3, 0],
  ]);
  await expect(near('2', 4, 5)).rejects.toThrow(/made of other things by now/);
  // Of the others only those that are named, however far they are.
  expect(said(await near('2&to=5', 1e6))).toEqual([[2, 5, 'near', Math.round(250 * size) / 100, 0]]);
  expect(nodes.map(({ at }) => at !== undefined)).toEqual([true, true, false, false, false, false]);

  const overlaps = (query = ''): Promise<OverlapsAnswer> =>
    store.json('GET', `/api/overlaps?item=N-TOP&nodes=${nodes.length}${query}`);
  const deep = async (query?: string): Promise<unknown[]> =>
    (await overlaps(query)).rows.map(({ of, node, kind, number }) => [of, node, kind, number]);
  expect(await deep()).toEqual([[3, 5, 'overlaps', 'N-C']]);
  expect(await deep('&of=2')).toEqual([]);
  expect(await deep('&of=1&to=5')).toEqual([[3, 5, 'overlaps', 'N-C']]);
  expect(await deep('&of=1&to=4')).toEqual([]);
  await (
    await store.owner()
  ).query(`
    WITH made AS (INSERT INTO class (name) VALUES ('Fastener') RETURNING id)
    UPDATE item SET class_id = made.id FROM made WHERE number = 'N-C'`);
  expect(await deep('&without=fastener')).toEqual([]);
  const ask = (again: boolean): Promise<OverlapsProgress> =>
    store.json('POST', '/api/overlaps', { item: 'N-TOP', nodes: nodes.length, again });
  // A person who left asks the same later, and is given what was found.
  const begun = await ask(true);
  expect(begun.job).toMatchObject({ kind: 'overlaps', about: 'What touches and overlaps in N-TOP' });
  await vi.waitFor(async () => expect((await ask(false)).found).toEqual(await overlaps()), 10_000);
  const { rows, of } = await store.json<TraitsAnswer>('GET', '/api/scene/traits?item=N-TOP');
  expect(of.map((at) => rows[at]?.number)).toEqual(nodes.map(({ number }) => number));
  expect(rows.find(({ number }) => number === 'N-C')).toMatchObject({
    class: 'Fastener',
    behind: 0,
    lineage: 'own',
  });
});

it('each mesh has the volume and surface that its file states, as near as its triangles lie to the shape', async () => {
  const { rows } = await store.json<FindAnswer>('GET', '/api/items?words=T-');
  const measured: string[] = [];
  for (const { number } of rows) {
    const { properties } = await store.json<{ properties: { name: string; value: number }[] }>(
      'GET',
      `/api/item?item=${number}`,
    );
    const stated = (name: string): number | undefined => properties.find((each) => each.name === name)?.value;
    const [volume, surface] = [stated('volume'), stated('surface')];
    if (volume === undefined || surface === undefined) continue;
    const answer = await store.call('GET', `/api/mesh?item=${number}`).catch(() => undefined);
    if (!answer) continue;
    const root = (await new NodeIO().readBinary(new Uint8Array(await answer.arrayBuffer()))).getRoot();
    const { mass, deflectionMm } = root.getExtras() as { mass: MeshMass; deflectionMm: number };
    // No point lies further off than that, so no more than a layer as thick as that is missing or too much.
    expect(Math.abs(mass.volumeMm3 - volume), number).toBeLessThanOrEqual(surface * deflectionMm);
    expect(mass.areaMm2 / surface, number).toBeCloseTo(1, 1);
    measured.push(number);
  }
  expect(measured.length).toBeGreaterThanOrEqual(5);
});

it('colours tell what was copied from the origin, what is shared with it and what is its own', async () => {
  await store.derive({
    item: 'T-s1',
    copy: 'none',
    alsoCopy: ['T-footback'],
    prefix: 'W-',
    place: '/traits',
  });
  const { rows, origin } = await store.json<TraitsAnswer>('GET', '/api/scene/traits?item=W-T-s1');
  expect(origin).toBe('T-s1');
  const told = Object.fromEntries(
    rows.map(({ number, lineage, copiedFrom }) => [number, `${lineage} ${copiedFrom}`]),
  );
  expect(told).toMatchObject({
    'W-T-s1': 'copied T-s1',
    'W-T-footback': 'copied T-footback',
    'T-footfront': 'shared ',
  });
  const { rows: before, origin: none } = await store.json<TraitsAnswer>('GET', '/api/scene/traits?item=T-s1');
  expect([none, new Set(before.map(({ lineage }) => lineage))]).toEqual(['', new Set(['own'])]);
});

it('a scene is kept under a name, seen by whoever sees the item, changed and taken away only by who kept it', async () => {
  const look: SceneLook = {
    ...{ lens: 'recorded', selected: [], isGlass: true, colouredBy: 'state', note: 'Mind the gap' },
    ...{ hidden: ['/T-s1/T-footback'], spread: { amount: 0.5, levels: 2 } },
    sections: [{ point: [1, 2, 3], normal: [0, 0, -1] }],
    camera: { from: [1, 2, 3], at: [0, 0, 0], up: [0, 0, 1], isParallel: true },
    measures: [{ words: 'distance 3 mm', spots: [[0, 0, 0], [3, 0, 0]] }], // prettier-ignore
  };
  const { id } = await store.json<{ id: string }>('POST', '/api/scenes', {
    item: 'T-s1',
    name: 'From above',
    look,
  });
  const ben = { Authorization: `Bearer ${await store.tokenFor('ben', 'checker')}` };
  const list = async (): Promise<KeptScenesAnswer> =>
    (await (await store.call('GET', '/api/scenes?item=T-s1', undefined, ben)).json()) as KeptScenesAnswer;
  expect((await list()).rows).toMatchObject([
    { id, name: 'From above', note: 'Mind the gap', isMine: false, version: 'A/1' },
  ]);
  const one = await store.json<KeptScene>('GET', `/api/scenes/one?id=${id}`);
  expect(one).toMatchObject({ number: 'T-s1', isMine: true, look });
  await expect(store.call('PUT', '/api/scenes', { id, name: 'Mine', look }, ben)).rejects.toMatchObject({
    problem: { code: 'STEP_REFUSED' },
  });
  await expect(store.call('POST', '/api/scenes/remove', { id }, ben)).rejects.toMatchObject({ status: 409 });
  await store.call('PUT', '/api/scenes', { id, name: 'From below', look: { ...look, note: '' } });
  expect((await list()).rows).toMatchObject([{ name: 'From below', note: '' }]);
  await store.call('POST', '/api/scenes/remove', { id });
  expect((await list()).rows).toEqual([]);
  await expect(store.call('GET', `/api/scenes/one?id=${id}`)).rejects.toMatchObject({ status: 404 });
  const odd = { ...look, camera: { ...look.camera, from: [1, 2] } };
  await expect(
    store.call('POST', '/api/scenes', { item: 'T-s1', name: 'x', look: odd }),
  ).rejects.toMatchObject({
    problem: { code: 'INPUT_INVALID' },
  });
});

it('an office document is told as tables or flowing text, and anything else says that it is none', async () => {
  const book = new excel.Workbook();
  book.addWorksheet('Parts').addRows([['Bolt', 4], ['Nut', 8]]); // prettier-ignore
  await store.intake(new Map([['parts.xlsx', new Uint8Array(await book.xlsx.writeBuffer())]]), {
    place: '/office',
  });
  expect(await store.json<DocumentAnswer>('GET', '/api/document?item=parts')).toMatchObject({
    kind: 'tables',
    tables: [{ name: 'Parts', rows: [['Bolt', '4'], ['Nut', '8']], count: 2 }], // prettier-ignore
  });
  await expect(store.call('GET', '/api/document?item=T-tailturbine')).rejects.toMatchObject({
    problem: { code: 'NO_TEXT' },
  });
});
