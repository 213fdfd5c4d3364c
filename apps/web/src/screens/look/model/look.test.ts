import { SHIPPED_STATES, multiply, standingOn } from '@stem-trace/core';
import { drawingOf } from '@stem-trace/formats/drawing';
import { sectionDxf } from './section-dxf.js';
import { dot, forward, kindOf, planeAt, planeInto, reachOf, UNITS } from './section-plane.js';
import type { SceneAnswer, SceneMesh, SceneNodeView, TraitRow } from '@stem-trace/contract';
import { outlinesOf, solidBody, type SectionPlane } from '@stem-trace/core/look';
import { BoxGeometry, Mesh, MeshStandardMaterial, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { lookMesh } from './look-mesh.js';
import { coloured, coloursOf } from './colouring.js';
import { figuresOf, sayFigures } from './figures.js';
import { AT_FIRST, lookOf, stateOf, type LookState } from './look-state.js';
import { looksAlike } from './looks-alike.js';
import { measured, sayMeasured, sayShort } from './measured.js';
import { sectionSvg } from './section-svg.js';
import { largestFirst, lotsOf } from './use-meshes.js';
import { additionOf, withTried } from './use-tried.js';
import { inSight, levelsOf, namesOf, usesAt, waysOf, withInside } from './uses.js';

const place = (parent: number): SceneNodeView => ({
  ...{ parent, number: `N-${parent}`, name: '', kind: 'part', state: 'draft', use: '' },
});
/** 0 ─ 1 ─ 2, 3; 0 ─ 4 */
const NODES = [place(-1), place(0), place(1), place(1), place(0)];

it('a use is chosen, shown and folded with all that lies in it', () => {
  expect([...withInside(NODES, new Set([1]))]).toEqual([1, 2, 3]);
  expect([...withInside(NODES, new Set())]).toEqual([]);
  expect(levelsOf(NODES)).toEqual([1, 2, 3, 3, 2]);
  expect(inSight(NODES, new Set([1]))).toEqual([0, 1, 4]);
  expect(inSight(NODES, new Set([0]))).toEqual([0]);
});

/** 20 × 10 × 30 mm in the design: x, y towards the back, z up. */
function block(): ReturnType<typeof lookMesh> {
  const geometry = new BoxGeometry(0.02, 0.03, 0.01);
  // Two triangles a face, in the order in which three.js makes them.
  geometry.userData.faces = Array.from({ length: 6 }, (_, at) => [2 * at, 2 * at + 1]);
  return lookMesh([new Mesh(geometry, new MeshStandardMaterial({ color: 0x336699 }))], 0.01);
}
const SCENE: SceneAnswer = {
  meshes: [
    {
      item: 'P@A/1',
      at: [
        [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
        [1, 0, 0, 100, 0, 1, 0, 0, 0, 0, 1, 0],
      ],
      nodes: [0, 1],
    },
  ],
  nodes: [place(-1), place(-1)],
};

it('a mesh is measured in millimetres with z up, face by face', () => {
  const own = block();
  const { shape, parts } = own;
  expect(parts[0]?.colour.getHex()).toBe(0x336699);
  const xs = Array.from(shape.positions.filter((_, at) => at % 3 === 0));
  const zs = Array.from(shape.positions.filter((_, at) => at % 3 === 2));
  expect([Math.max(...xs) - Math.min(...xs), Math.max(...zs) - Math.min(...zs)].map(Math.round)).toEqual([
    20, 30,
  ]);
  // The first face looks along x, the second the other way; one of each block.
  const face = (place: number, triangle: number) =>
    measured(
      { node: place, mesh: 0, place, triangle, point: [place * 90, 0, 0] },
      { scene: SCENE, own, at: 'faces', far: () => 0 },
    );
  expect(sayMeasured([face(0, 1)], 'mm')).toBe('N--1: plane face, 300 mm²');
  expect(sayMeasured([face(0, 0), face(1, 3)], 'mm')).toMatch(
    /: distance ≈ 80 mm \(± 0.001 mm\), angle ≈ 0°, between the points 90 mm$/,
  );
  expect(sayMeasured([face(0, 0), face(0, 4)], 'mm')).toMatch(/: angle ≈ 90°, between/);
});

it('a click measures at the edge or the point of its face that is seen nearest', () => {
  const own = block();
  const at = (what: 'edges' | 'points', [x, y, z]: readonly [number, number, number]) =>
    measured(
      // The face that looks along x.
      { node: 0, mesh: 0, place: 0, triangle: 0, point: [10, 0, 0] },
      { scene: SCENE, own, at: what, far: ([a, b, c]) => Math.hypot(a - x, b - y, c - z) },
    );
  expect(sayMeasured([at('edges', [10, -5, 2])], 'mm')).toBe('N--1: edge 30 mm long (± 0.001 mm)');
  expect(sayMeasured([at('edges', [10, 1, 14])], 'mm')).toBe('N--1: edge 10 mm long (± 0.001 mm)');
  const [corner, middle] = [at('points', [9, -4, 14]), at('points', [9, -5, 1])];
  expect(sayMeasured([corner], 'mm')).toBe('N--1: corner at x 10, y -5, z 15 mm');
  expect(sayMeasured([corner, middle], 'mm')).toMatch(
    /middle of an edge at x 10, y -5, z 0 mm: distance 15 mm \(± 0.001 mm\), along x 0 mm, y 0 mm, z 15 mm$/,
  );
  expect(sayShort([corner, middle], 'mm')).toBe('15 mm');
  expect(sayMeasured([at('edges', [10, -5, 2]), at('edges', [10, 5, 2])], 'mm')).toMatch(
    /distance ≈ 10 mm .* angle ≈ 0°/,
  );
});

describe('figures of what is selected', () => {
  const row = (massKg: number | null): TraitRow => ({
    ...{ number: 'P', state: 'draft', behind: 0, holder: '', class: '', massKg, changedAt: '' },
    ...{ lineage: 'own', copiedFrom: '' },
  });
  const showing = { length: 'mm', mass: 'kg' } as Parameters<typeof sayFigures>[1];
  const of = (nodes: readonly number[], rows: readonly TraitRow[]) => {
    const traits = { rows, of: [0, 1], origin: '' };
    const found = figuresOf(new Set(nodes), { scene: SCENE, loaded: [block()], traits });
    if (!found) throw new Error('nothing is drawn of it');
    return found;
  };

  it('add up over uses, with the centre where the masses are', () => {
    const found = of([0, 1], [row(1), row(3)]);
    expect(found.volumeMm3).toBeCloseTo(12_000, 1);
    expect(found.areaMm2).toBeCloseTo(2 * 2 * (20 * 10 + 10 * 30 + 20 * 30), 1);
    expect(found.massKg).toBe(4);
    // A quarter of it about 0, three quarters about 100.
    expect(found.centre[0]).toBeCloseTo(75, 4);
    expect(sayFigures(found, showing)).toBe(
      'box 120 × 10 × 30 mm · ≈ 12 cm³, 44 cm² · 4 kg · centre of gravity ≈ x 75, y 0, z 0 mm',
    );
  });

  it('say which mass nobody knows, and then mean the volume', () => {
    const found = of([0, 1], [row(1), row(null)]);
    expect(found).toMatchObject({ massKg: 1, unknown: 1, uses: 2 });
    expect(found.centre[0]).toBeCloseTo(50, 4);
    expect(sayFigures(found, showing)).toContain('1 kg without 1 of 2 that say none · centre of the volume');
    expect(sayFigures(of([1], [row(1), row(null)]), showing)).toContain('nobody says its mass');
    expect(() => of([], [])).toThrow('nothing is drawn');
  });
});

describe('colours', () => {
  const row = (more: Partial<TraitRow>): TraitRow => ({
    ...{ number: 'P', state: 'draft', behind: 0, holder: '', class: '', massKg: null },
    ...{ changedAt: '2026-11-20T00:00:00.000Z', lineage: 'own', copiedFrom: '', ...more },
  });
  const traits = {
    rows: [
      row({ state: 'released', holder: 'Ines', massKg: 0.02, lineage: 'copied' }),
      row({ behind: 2, class: 'bolt', massKg: 40, changedAt: '2020-01-01T00:00:00.000Z' }),
    ],
    of: [0, 1, 1, -1],
    origin: 'O',
  };
  const options = {
    drawn: new Set([0, 1, 2, 3]),
    mass: 'kg',
    now: Date.parse('2026-11-22'),
    book: SHIPPED_STATES,
  } as const;

  it.each(['state', 'behind', 'holder', 'class', 'mass', 'age', 'lineage'] as const)(
    'by %s put every use in one group, what is hidden in its own',
    (by) => {
      const groups = coloured(by, traits, options);
      expect(groups.flatMap(({ nodes }) => nodes).sort()).toEqual([0, 1, 2, 3]);
      expect(groups).toHaveLength(3);
      expect(new Set(groups.map(({ colour }) => colour)).size).toBe(3);
      expect(groups.at(-1)?.says).toBe('hidden from you');
      expect(coloursOf(groups).size).toBe(4);
    },
  );

  it('say what they mean', () => {
    const says = (by: Parameters<typeof coloured>[0]): string[] =>
      coloured(by, traits, options).map((group) => group.says);
    expect(says('mass').slice(0, 2)).toEqual(['0.01 kg to 0.1 kg', 'over 10 kg']);
    expect(says('age').slice(0, 2)).toEqual(['changed within a week', 'longer ago']);
    expect(says('behind').slice(0, 2)).toEqual(['behind the newest', 'the newest']);
  });
});

describe('what is kept of a look', () => {
  it('is found again when the tree has grown around it', () => {
    const grown = [
      place(-1),
      { ...place(0), number: 'NEW' },
      { ...place(0), number: 'N-0' },
      { ...place(2), number: 'N-1' },
      { ...place(2), number: 'N-1' },
      { ...place(0), number: 'N-0' },
    ];
    const chosen = new Set([1, 2, 3]);
    const names = namesOf(NODES, chosen);
    expect(names).toEqual(['/N--1/N-0']);
    expect(usesAt(grown, [...names, '/gone'])).toEqual([2]);
    expect(new Set(waysOf(NODES)).size).toBe(NODES.length);
    const state: LookState = {
      ...AT_FIRST,
      hidden: chosen,
      selected: new Set([4]),
      isGlass: true,
      note: 'Mind',
    };
    const camera = { from: [0, 0, 1], at: [0, 0, 0], up: [0, 1, 0], isParallel: true } as const;
    const kept = lookOf(state, { nodes: NODES, lens: 'recorded', camera });
    expect(stateOf(kept, NODES)).toEqual({ ...state, isParallel: true });
  });
});

describe('a part that is tried', () => {
  it('stands where the other stood, with all that is in it, and changes no other use', () => {
    const other: SceneAnswer = {
      nodes: [place(-1), place(0)],
      meshes: [{ item: 'Q@A/1', at: [[1, 0, 0, 5, 0, 1, 0, 0, 0, 0, 1, 0]], nodes: [1] }],
    };
    const tried = withTried(SCENE, { node: 1, item: 'Q' }, other);
    expect(tried.nodes.slice(0, 2)).toEqual(SCENE.nodes);
    expect(tried.nodes.slice(2).map(({ parent }) => parent)).toEqual([-1, 2]);
    expect(tried.meshes.slice(0, 1)).toEqual(SCENE.meshes);
    expect(tried.meshes[1]).toEqual({
      ...{ item: 'Q@A/1', nodes: [3] },
      at: [[1, 0, 0, 105, 0, 1, 0, 0, 0, 0, 1, 0]],
    });
    expect(withTried(SCENE, { node: 7, item: 'Q' }, other)).toBe(SCENE);
  });

  it('stands on a face in the frame of its assembly, however that stands itself', () => {
    // A quarter turn about z, and moved.
    const within = [0, -1, 0, 10, 1, 0, 0, 20, 0, 0, 1, 30];
    const scene: SceneAnswer = { meshes: [], nodes: [place(-1), { ...place(0), number: 'SUB', at: within }] };
    const own = [0, 0, 1, 4, 1, 0, 0, 5, 0, 1, 0, 6];
    const other: SceneAnswer = { meshes: [{ item: 'Q@A/1', at: [own], nodes: [0] }], nodes: [place(-1)] };
    const part = { node: 1, item: 'Q', stands: { point: [11, 22, 33], along: [0, 1, 0] } } as const;
    const addition = additionOf(scene, part);
    expect(addition).toEqual({
      ...{ in: ['N--1', 'SUB'], item: 'Q', name: '', like: '' },
      // Along y of the whole is along x of what is turned.
      ...{ at: [2, -1, 3], along: [1, 0, 0] },
    });
    const tried = withTried(scene, part, other);
    expect(tried.nodes[2]?.parent).toBe(1);
    expect(tried.meshes[0]?.at[0]).toEqual(
      multiply(within, multiply(standingOn(addition?.at ?? [], addition?.along ?? []), own)),
    );
    // Turned as the assembly is, where nothing else is said.
    const { along: _, ...plain } = part.stands;
    expect(withTried(scene, { ...part, stands: plain }, other).meshes[0]?.at[0]).toEqual(
      multiply([0, -1, 0, 11, 1, 0, 0, 22, 0, 0, 1, 33], own),
    );
    expect(
      additionOf({ ...scene, nodes: [{ ...place(-1), number: '' }] }, { ...part, node: 0 }),
    ).toBeUndefined();
  });
});

it('meshes come in lots of which the first is small, each once', () => {
  for (const count of [0, 1, 10, 11, 50, 51, 137]) {
    const items = Array.from({ length: count }, (_, at) => `P-${at}`);
    const lots = lotsOf(items);
    expect(lots.flat()).toEqual(items);
    expect(lots.every(({ length }, at) => length > 0 && length <= (at === 0 ? 10 : 40))).toBe(true);
  }
});

it('meshes that fill most of the picture come first, those whose size nobody knows last', () => {
  const at = (count: number) => Array.from({ length: count }, () => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]);
  const sized = (item: string, size: number, count: number): SceneMesh => ({
    ...{ item, at: at(count), nodes: [...Array(count).keys()] },
    box: [
      [-size, 0, 0],
      [size, 0, 0],
    ],
  });
  const placed = [
    { item: 'UNKNOWN', at: at(50), nodes: [] },
    sized('SMALL', 1, 2),
    sized('MANY', 1, 200),
    sized('LARGE', 50, 1),
  ];
  expect(largestFirst(placed).map(({ item }) => item)).toEqual(['LARGE', 'MANY', 'SMALL', 'UNKNOWN']);
});

it('two look alike where nobody could tell, whether near or from afar', () => {
  const camera = { from: [0, -1000, 500], at: [0, 0, 0], up: [0, 0, 1], isParallel: false } as const;
  const moved = (mm: number, size = 1) => ({
    ...camera,
    from: [mm, -1000 * size, 500 * size] as const,
  });
  expect(looksAlike(camera, moved(1e-4))).toBe(true);
  expect(looksAlike(camera, moved(1))).toBe(false);
  expect(looksAlike(moved(0, 1e6), moved(1, 1e6))).toBe(true);
  expect(looksAlike(camera, { ...camera, at: [0, 0, 1] })).toBe(false);
  expect(looksAlike(camera, { ...camera, up: [0, 1, 0] })).toBe(false);
  expect(looksAlike(camera, { ...camera, isParallel: true })).toBe(false);
});

it('a section goes out at full size', () => {
  const plane: SectionPlane = { point: [0, 0, 5], normal: [0, 0, 1] };
  const outlines = outlinesOf([{ body: solidBody(block().shape), at: SCENE.meshes[0]?.at[0] ?? [] }], plane);
  const svg = sectionSvg(outlines, plane);
  expect(svg).toContain('width="20mm" height="10mm" viewBox="-10 -5 20 10"');
  expect(svg.match(/<path /g)).toHaveLength(1);
  expect(sectionSvg([], plane)).toContain('width="0mm"');
});

describe('a section', () => {
  const stage = { boxOf: () => ({ min: new Vector3(0, 0, 0), max: new Vector3(100, 40, 10) }) };

  it('reaches as far as what is shown does, along any direction', () => {
    expect(reachOf(stage, UNITS.x)).toEqual([0, 100]);
    const [low, high] = reachOf(stage, [0, 0.6, -0.8]);
    expect([low, high].map((value) => Number(value.toFixed(9)))).toEqual([-8, 24]);
  });

  it('begins below the face that was clicked, and takes away what lies on its outside', () => {
    const face: Parameters<typeof planeInto>[0] = {
      ...{ kind: 'plane', normal: [0, 0, 1], middle: [50, 20, 10], areaMm2: 4000, toleranceMm: 0 },
    };
    const plane = planeInto(face, reachOf(stage, face.normal));
    expect(plane).toEqual({ point: [0, 0, 7.5], normal: [0, 0, 1] });
    expect(kindOf(plane)).toBe('z');
    expect(kindOf({ ...plane, normal: [0, 0.6, 0.8] })).toBe('face');
  });

  it('lies at the same place whichever side is taken away', () => {
    const along = forward([0, -0.6, 0.8]);
    for (const turned of [false, true]) {
      const plane = planeAt(along, 12, turned);
      expect(forward(plane.normal)).toEqual(along);
      expect(dot(plane.point, along)).toBeCloseTo(12, 9);
      expect(dot(plane.normal, along) < 0).toBe(turned);
    }
  });

  it('goes out as DXF that says the same rings in millimetres', () => {
    const square = [
      [0, 0],
      [30, 0],
      [30, 20],
      [0, 20],
    ] as const;
    const hole = square.map(([x, y]) => [x / 3 + 5, y / 4 + 5] as const);
    const text = sectionDxf([{ of: 2, rings: [square, hole], open: [], areaMm2: 550 }]);
    const { sheets, layers, unitMm } = drawingOf(new TextEncoder().encode(text));
    expect(unitMm).toBe(1);
    expect(layers.map(({ name }) => name)).toContain('BODY-3');
    const closed = (ring: readonly (readonly number[])[]): unknown => [...ring, ring[0]];
    expect(sheets[0]?.marks.map((mark) => mark.kind === 'stroke' && mark.spots)).toEqual([
      closed(square),
      closed(hole),
    ]);
  });
});
