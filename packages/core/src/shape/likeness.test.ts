import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { describeShape, likenessOf, SHAPE_DIMENSIONS, shapeVector } from './likeness.js';
import type { TriangleMesh } from './mass.js';

/** A box, turned about z by an angle and moved. */
function box(x: number, y: number, z: number, turn = 0, shift = 0): TriangleMesh {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((at) => {
    const [px, py, pz] = [at & 1 ? x : 0, at & 2 ? y : 0, at & 4 ? z : 0];
    return [
      px * Math.cos(turn) - py * Math.sin(turn) + shift,
      px * Math.sin(turn) + py * Math.cos(turn) + shift,
      pz + shift,
    ];
  });
  const faces = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  return {
    positions: corners,
    indices: faces.flatMap(([a = 0, b = 0, c = 0, d = 0]) => [a, b, c, a, c, d]),
  };
}

const edge = fc.integer({ min: 1, max: 200 });
const anyBox = fc.tuple(edge, edge, edge);

describe('likeness of shapes', () => {
  it('is one with itself, the same both ways, and between nothing and one', () => {
    fc.assert(
      fc.property(anyBox, anyBox, (a, b) => {
        const [first, second] = [describeShape([box(...a)]), describeShape([box(...b)])];
        expect(likenessOf(first, first).score).toBeCloseTo(1, 9);
        const { score } = likenessOf(first, second);
        expect(likenessOf(second, first).score).toBeCloseTo(score, 12);
        expect(score).toBeGreaterThanOrEqual(0);
        expect(score).toBeLessThanOrEqual(1 + 1e-12);
      }),
      { numRuns: 20 },
    );
  });

  it('does not mind being moved, or turned by right angles', () => {
    const one = describeShape([box(80, 40, 10)]);
    for (const other of [box(80, 40, 10, 0, 500), box(10, 80, 40), box(80, 40, 10, Math.PI / 2)])
      expect(likenessOf(one, describeShape([other])).score).toBeGreaterThan(0.97);
  });

  it('puts a longer plate before a cube and before a rod', () => {
    const plate = describeShape([box(100, 100, 5)]);
    const scores = [box(120, 100, 5), box(100, 100, 100), box(400, 4, 4)].map(
      (mesh) => likenessOf(plate, describeShape([mesh])).score,
    );
    expect(scores[0]).toBeGreaterThan(0.9);
    expect(scores[1]).toBeLessThan(0.7);
    expect(scores[2]).toBeLessThan(0.7);
  });

  it('has points that lie near for shapes that are alike', () => {
    const point = (...edges: readonly [number, number, number]): number[] =>
      shapeVector(describeShape([box(...edges)]));
    const far = (a: readonly number[], b: readonly number[]): number =>
      Math.hypot(...a.map((value, at) => value - (b[at] ?? 0)));
    const plate = point(100, 100, 5);
    expect(plate).toHaveLength(SHAPE_DIMENSIONS);
    expect(far(plate, point(120, 100, 5))).toBeLessThan(far(plate, point(100, 100, 100)));
    expect(far(plate, point(120, 100, 5))).toBeLessThan(far(plate, point(400, 4, 4)));
  });

  it('says the shares of distances, which are all of them', () => {
    const { distances, box: edges } = describeShape([box(3, 9, 6)]);
    expect(distances.reduce((sum, part) => sum + part, 0)).toBeCloseTo(1, 9);
    expect(edges).toEqual([9, 6, 3]);
  });

  it('is defined for a mesh of nothing', () => {
    const nothing = describeShape([{ positions: [0, 0, 0], indices: [0, 0, 0] }]);
    expect(likenessOf(nothing, nothing).score).toBeCloseTo(1, 9);
    expect(shapeVector(nothing).every(Number.isFinite)).toBe(true);
  });
});
