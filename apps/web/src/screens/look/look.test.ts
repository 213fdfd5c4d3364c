import { drawingOf } from '@stem-trace/formats/drawing';
import { sectionDxf } from './section-dxf.js';
import { dot, forward, kindOf, planeAt, planeInto, reachOf, UNITS } from './section-plane.js';
import type { SceneAnswer, SceneNodeView } from '@stem-trace/contract';
import { outlinesOf, solidBody, type SectionPlane } from '@stem-trace/core/look';
import { BoxGeometry, Mesh, MeshStandardMaterial, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { nested } from './caps.js';
import { lookMesh } from './look-mesh.js';
import { measured, sayMeasured } from './measured.js';
import { sectionSvg } from './section-svg.js';
import { inSight, levelsOf, withInside } from './uses.js';

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
  const { shape, parts } = block();
  expect(parts[0]?.colour.getHex()).toBe(0x336699);
  const xs = Array.from(shape.positions.filter((_, at) => at % 3 === 0));
  const zs = Array.from(shape.positions.filter((_, at) => at % 3 === 2));
  expect([Math.max(...xs) - Math.min(...xs), Math.max(...zs) - Math.min(...zs)].map(Math.round)).toEqual([
    20, 30,
  ]);
  // The first face looks along x, the second the other way; one of each block.
  const face = (place: number, triangle: number) =>
    measured({ node: place, mesh: 0, place, triangle, point: [place * 90, 0, 0] }, { scene: SCENE, shape });
  expect(sayMeasured([face(0, 1)], undefined, 'mm')).toBe('N--1: plane face, 300 mm²');
  expect(sayMeasured([face(0, 0), face(1, 3)], undefined, 'mm')).toMatch(
    /: distance ≈ 80 mm \(± 0.001 mm\), angle ≈ 0°, between the points 90 mm$/,
  );
  expect(sayMeasured([face(0, 0), face(0, 4)], undefined, 'mm')).toMatch(/: angle ≈ 90°, between/);
  expect(sayMeasured([], { min: new Vector3(), max: new Vector3(25.4, 50.8, 0) }, 'in')).toBe(
    'box 1 × 2 × 0 in',
  );
});

it('a section is filled ring by ring, each hole in what it lies in, and goes out at full size', () => {
  const ring = (at: number, size: number, isHole = false): [number, number][] => {
    const corners: [number, number][] = [[at, at], [at + size, at], [at + size, at + size], [at, at + size]]; // prettier-ignore
    return isHole ? corners.reverse() : corners;
  };
  const rings = [ring(0, 100), ring(10, 50, true), ring(20, 20), ring(22, 4, true)];
  expect(nested(rings).map(({ contour, holes }) => [contour, holes])).toEqual([
    [rings[2], [rings[3]]],
    [rings[0], [rings[1]]],
  ]);
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
