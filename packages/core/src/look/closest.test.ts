import fc from 'fast-check';
import { Matrix4, Triangle, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { prism } from '../testing/bodies.js';
import { closestOf, distanceOfTriangles } from './closest.js';
import { near, pairOf } from './near.js';

const coordinate = fc.double({ min: -10, max: 10, noNaN: true }).map((value) => Math.round(value * 64) / 64);
const corner = fc.tuple(coordinate, coordinate, coordinate).map((point) => new Vector3(...point));
const triangle = fc
  .tuple(corner, corner, corner)
  .map((corners) => new Triangle(...corners))
  .filter((each) => each.getArea() > 0.05);

/** Many points of a triangle, with its corners and edges: a distance that needs no geometry at all. */
function pointsOf({ a, b, c }: Triangle, steps: number): Vector3[] {
  const points: Vector3[] = [];
  for (let i = 0; i <= steps; i++)
    for (let j = 0; j <= steps - i; j++)
      points.push(
        new Vector3()
          .addScaledVector(a, i / steps)
          .addScaledVector(b, j / steps)
          .addScaledVector(c, (steps - i - j) / steps),
      );
  return points;
}

describe('the distance of two triangles', () => {
  it('is as small as any two of their points are apart, and not smaller than these can say', () => {
    const STEPS = 12;
    fc.assert(
      fc.property(triangle, triangle, (one, other) => {
        const points = [new Vector3(), new Vector3()] as const;
        const distance = distanceOfTriangles(one, other, points);
        const theirs = pointsOf(other, STEPS);
        const least = Math.min(
          ...pointsOf(one, STEPS).map((point) => Math.min(...theirs.map((each) => each.distanceTo(point)))),
        );
        const size = ({ a, b, c }: Triangle): number =>
          Math.max(a.distanceTo(b), b.distanceTo(c), c.distanceTo(a));
        expect(distance).toBeLessThanOrEqual(least + 1e-9);
        expect(distance).toBeGreaterThanOrEqual(least - (size(one) + size(other)) / STEPS);
        // The points that are said lie on both, and so far apart.
        const [mine, its] = points;
        expect(mine.distanceTo(its)).toBeCloseTo(distance, 6);
        expect(one.closestPointToPoint(mine, new Vector3()).distanceTo(mine)).toBeLessThan(1e-6);
        expect(other.closestPointToPoint(its, new Vector3()).distanceTo(its)).toBeLessThan(1e-6);
      }),
      { numRuns: 400 },
    );
  });

  it('is that in their plane, where they lie in one but for the last digits', () => {
    const noise = fc.double({ min: -1e-13, max: 1e-13, noNaN: true });
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 50, noNaN: true }),
        fc.array(noise, { minLength: 6, maxLength: 6 }),
        (gap, off) => {
          const at = (x: number, y: number, index: number): Vector3 => new Vector3(x, y, off[index] ?? 0);
          const one = new Triangle(at(0, 0, 0), at(-7, 3, 1), at(-7, -4, 2));
          const other = new Triangle(at(gap, 0, 3), at(gap + 5, 2, 4), at(gap + 5, -3, 5));
          const points = [new Vector3(), new Vector3()] as const;
          expect(distanceOfTriangles(one, other, points)).toBeCloseTo(gap, 9);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('two bodies', () => {
  it('whose faces lie in one plane are as far apart as they are, however both are turned', () => {
    const box = (x: number, y: number, z: number) => prism([[0, 0], [x, 0], [x, y], [0, y]], z); // prettier-ignore
    const by = new Matrix4().fromArray([
      0.5751554669752362, -0.7288214233945565, 0.37150440321701506, 0, -0.6002666028015033,
      -0.6845418006438435, -0.41362123825116415, 0, 0.5557663127337245, 0.014894830392346153,
      -0.8312051188833853, 0, -46, -43, 15.333333333333334, 1,
    ]);
    const at = (x: number, y: number, z: number): number[] =>
      by
        .clone()
        .multiply(new Matrix4().makeTranslation(x, y, z))
        .transpose()
        .toArray()
        .slice(0, 12);
    const [one, other] = [
      { body: box(1, 1, 2), at: at(0, 0, 0) },
      { body: box(3, 1, 9), at: at(-3, 0, 12) },
    ];
    const [found] = near([one], [other], 100);
    expect(found?.kind).toBe('near');
    expect(found?.distanceMm).toBeCloseTo(10, 5);
    expect(pairOf(one, other, 9)).toBeUndefined();
  });

  it('are compared the same from both sides, and not looked for beyond what is asked', () => {
    const box = prism([[0, 0], [4, 0], [4, 3], [0, 3]], 2); // prettier-ignore
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 60 }), fc.integer({ min: 1, max: 80 }), (apart, most) => {
        const toOne = new Matrix4().makeTranslation(apart, 0, 0);
        const there = closestOf(box, box, toOne, most);
        const back = closestOf(box, box, toOne.clone().invert(), most);
        expect(there === undefined).toBe(apart - 4 > most);
        expect(back?.distanceMm).toBe(there?.distanceMm);
        if (there) expect(there.distanceMm).toBeCloseTo(apart - 4, 6);
      }),
    );
  });
});
