import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cylinder, prism } from '../testing/bodies.js';
import type { Placement } from '../model/link.js';
import {
  filledOf,
  nestedRings,
  outlinesOf,
  type FilledSection,
  type PlacedBody,
  type SectionPoint,
} from './index.js';

/** By the formula for triangles (Gauss), of all that belongs to one body. */
function areaOf({ corners, of, triangles }: FilledSection, body: number): number {
  let twice = 0;
  for (let at = 0; at + 2 < triangles.length; at += 3) {
    const [a = 0, b = 0, c = 0] = triangles.subarray(at, at + 3);
    if (of[a] !== body) continue;
    const [x, y] = [
      (corner: number) => corners[corner * 2] ?? 0,
      (corner: number) => corners[corner * 2 + 1] ?? 0,
    ];
    twice += Math.abs((x(b) - x(a)) * (y(c) - y(a)) - (x(c) - x(a)) * (y(b) - y(a)));
  }
  return twice / 2;
}

function at(x: number, y: number): Placement {
  return [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, 0];
}

describe('what closes a section', () => {
  it('has the area of the body that is cut, and belongs to it', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            width: fc.double({ min: 1, max: 50, noNaN: true }),
            depth: fc.double({ min: 1, max: 50, noNaN: true }),
            isRound: fc.boolean(),
            steps: fc.integer({ min: 3, max: 40 }),
          }),
          { minLength: 1, maxLength: 6 },
        ),
        (shapes) => {
          const bodies = shapes.map(({ width, depth, isRound, steps }, index): PlacedBody => ({
            body: isRound
              ? cylinder(width, 10, steps)
              : prism([[0, 0], [width, 0], [width, depth], [0, depth]], 10), // prettier-ignore
            at: at(index * 200, -30),
          }));
          const outlines = outlinesOf(bodies, { point: [0, 0, 4], normal: [0, 0, 1] });
          const filled = filledOf(outlines);
          shapes.forEach(({ width, depth, isRound, steps }, index) => {
            const wanted = isRound
              ? (steps / 2) * width * width * Math.sin((2 * Math.PI) / steps)
              : width * depth;
            expect(areaOf(filled, index) / wanted).toBeCloseTo(1, 4);
          });
          expect(filled.lines.length / 4).toBe(
            outlines.reduce((sum, { rings }) => sum + rings.reduce((all, ring) => all + ring.length, 0), 0),
          );
        },
      ),
      { numRuns: 60 },
    );
  });

  it('takes each hole out of what it lies in', () => {
    const ring = (low: number, size: number, isHole = false): SectionPoint[] => {
      const high = low + size;
      const corners: SectionPoint[] = [[low, low], [high, low], [high, high], [low, high]]; // prettier-ignore
      return isHole ? corners.reverse() : corners;
    };
    const rings = [ring(0, 100), ring(10, 50, true), ring(20, 20), ring(22, 4, true)];
    expect(nestedRings(rings).map(({ contour, holes }) => [contour, holes])).toEqual([
      [rings[2], [rings[3]]],
      [rings[0], [rings[1]]],
    ]);
    const filled = filledOf([{ of: 7, rings, open: [[[0, 0], [1, 1], [2, 0]]], areaMm2: 0 }]); // prettier-ignore
    expect(areaOf(filled, 7)).toBeCloseTo(100 ** 2 - 50 ** 2 + 20 ** 2 - 4 ** 2, 6);
    // What does not close is drawn, and not filled.
    expect(filled.lines.length / 4).toBe(16 + 2);
  });
});
