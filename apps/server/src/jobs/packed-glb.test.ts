import { NodeIO } from '@gltf-transform/core';
import { massOf } from '@stem-trace/core';
import { deviationOf, solidBody, type SolidBody } from '@stem-trace/core/look';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  extrasIn,
  finePrimitives,
  isClosed,
  packGlb,
  plainGlb,
  readPacked,
  type MeshPiece,
} from './packed-glb.js';

/** A ring with a wavy tube, its faces as bands around it. */
function ring({ steps, around, wave }: { steps: number; around: number; wave: number }): MeshPiece {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let at = 0; at < steps; at++)
    for (let turn = 0; turn < around; turn++) {
      const [a, b] = [(at * 2 * Math.PI) / steps, (turn * 2 * Math.PI) / around];
      const radius = 0.05 + (0.012 + wave * Math.sin(5 * a)) * Math.cos(b);
      positions.push(radius * Math.cos(a), 0.012 * Math.sin(b), radius * Math.sin(a));
      const corner = (i: number, j: number): number => (i % steps) * around + (j % around);
      const [p, q, r, s] = [
        corner(at, turn),
        corner(at + 1, turn),
        corner(at + 1, turn + 1),
        corner(at, turn + 1),
      ];
      indices.push(p, r, q, p, s, r);
    }
  const perBand = 2 * around;
  return {
    positions: new Float32Array(positions),
    indices: new Uint32Array(indices),
    faces: Array.from({ length: steps }, (_, at) => [at * perBand, (at + 1) * perBand - 1] as const),
    colour: [0.1, 0.5, 0.9],
  };
}

function extrasOf(pieces: readonly MeshPiece[]): Parameters<typeof packGlb>[1] {
  const mass = massOf(
    pieces.map(({ positions, indices }) => ({ positions: [...positions], indices: [...indices] })),
  );
  return {
    ...{ mass, deflectionMm: 0.02 },
    triangles: pieces.reduce((sum, { indices }) => sum + indices.length / 3, 0),
  };
}

const shapes = fc.record({
  steps: fc.integer({ min: 3, max: 60 }),
  around: fc.integer({ min: 3, max: 24 }),
  wave: fc.float({ min: 0, max: Math.fround(0.005), noNaN: true }),
});

describe('packed meshes', () => {
  it('lose nothing: each corner, each triangle and each face is what it was', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(shapes, { minLength: 1, maxLength: 3 }), async (of) => {
        const pieces = of.map(ring);
        const packed = await packGlb(pieces, extrasOf(pieces));
        const primitives = finePrimitives((await readPacked(packed)).getRoot());
        expect(primitives).toHaveLength(pieces.length);
        pieces.forEach(({ positions, indices, faces }, at) => {
          const primitive = primitives[at];
          expect(primitive?.getAttribute('POSITION')?.getArray()).toEqual(positions);
          expect(primitive?.getExtras().faces).toEqual(faces);
          const read = [...(primitive?.getIndices()?.getArray() ?? [])];
          // A triangle may begin with another corner, but not turn over.
          expect(turnedFirst(read)).toEqual(turnedFirst([...indices]));
        });
      }),
      { numRuns: 25 },
    );
  });

  it('are plain glTF for whoever asks for that, with nothing coarser in it', async () => {
    const pieces = [ring({ steps: 60, around: 24, wave: 0.004 }), ring({ steps: 5, around: 4, wave: 0 })];
    const packed = await packGlb(pieces, extrasOf(pieces));
    const plain = await plainGlb(packed);
    const root = (await new NodeIO().readBinary(plain)).getRoot();
    expect(root.listExtensionsUsed()).toEqual([]);
    expect(root.listScenes()).toHaveLength(1);
    expect(root.listMeshes()).toHaveLength(2);
    expect(root.listAccessors()).toHaveLength(4);
    expect(packed.length).toBeLessThan(plain.length * 0.8);
    const length = new DataView(plain.buffer, plain.byteOffset).getUint32(12, true);
    expect(extrasIn(new TextDecoder().decode(plain.slice(20, 20 + length)))).toEqual(extrasOf(pieces));
    expect(extrasIn('{}')).toBeUndefined();
  });

  it('say whether they enclose a body', async () => {
    await packGlb([], extrasOf([])).catch(() => undefined);
    const closed = (piece: MeshPiece): boolean => isClosed(piece.positions, piece.indices);
    fc.assert(
      fc.property(shapes, fc.nat(), (of, at) => {
        const piece = ring(of);
        expect(closed(piece)).toBe(true);
        // The same with a triangle less, turned over as a whole, and with corners of its own for each triangle.
        const hole = 3 * (at % (piece.indices.length / 3));
        const holed = piece.indices.filter((_, index) => index < hole || index >= hole + 3);
        expect(closed({ ...piece, indices: holed })).toBe(false);
        expect(closed({ ...piece, indices: piece.indices.toReversed() })).toBe(false);
        const apart = Float32Array.from(
          [...piece.indices].flatMap((corner) => [...piece.positions.subarray(corner * 3, corner * 3 + 3)]),
        );
        expect(closed({ ...piece, positions: apart, indices: Uint32Array.from(piece.indices.keys()) })).toBe(
          true,
        );
      }),
      { numRuns: 30 },
    );
  });

  it('have coarser ones beside them, which lie off by about as much as they say', async () => {
    const pieces = [ring({ steps: 120, around: 48, wave: 0.004 })];
    const root = (await readPacked(await packGlb(pieces, extrasOf(pieces)))).getRoot();
    const [fine, ...coarser] = root.listScenes();
    expect(coarser).toHaveLength(3);
    const [corners] = finePrimitives(root).map((primitive) => primitive.getAttribute('POSITION'));
    const [piece] = pieces;
    const trueBody = bodyOf(piece as MeshPiece, (piece as MeshPiece).indices);
    let before = 120 * 48 * 2;
    for (const scene of coarser) {
      const primitive = scene.listChildren()[0]?.getMesh()?.listPrimitives()[0];
      expect(primitive?.getAttribute('POSITION')).toBe(corners);
      const order = primitive?.getIndices()?.getArray() ?? new Uint32Array();
      expect(order.length / 3).toBeLessThan(before * 0.7);
      before = order.length / 3;
      const { mostMm } = deviationOf(trueBody, bodyOf(piece as MeshPiece, order));
      const errorMm = Number(scene.getExtras().errorMm);
      expect(errorMm).toBeGreaterThan(0);
      // What simplifying says is a mean over the corners that were taken away.
      expect(mostMm).toBeLessThan(4 * errorMm);
    }
    expect(fine?.listChildren()).toHaveLength(1);
  });
});

/** Millimetres with z up, as `readBody` has it. */
function bodyOf({ positions }: MeshPiece, order: ArrayLike<number>): SolidBody {
  const turned = new Float32Array(positions.length);
  for (let at = 0; at < positions.length; at += 3) {
    turned[at] = (positions[at] ?? 0) * 1000;
    turned[at + 1] = -(positions[at + 2] ?? 0) * 1000;
    turned[at + 2] = (positions[at + 1] ?? 0) * 1000;
  }
  return solidBody({ positions: turned, indices: Uint32Array.from(order), faces: [], deflectionMm: 0 });
}

/** Triangles beginning with their smallest corner, in their order and turning as they did. */
function turnedFirst(indices: readonly number[]): number[][] {
  return Array.from({ length: indices.length / 3 }, (_, at) => {
    const triangle = indices.slice(at * 3, at * 3 + 3);
    const first = triangle.indexOf(Math.min(...triangle));
    return [...triangle.slice(first), ...triangle.slice(0, first)];
  });
}
