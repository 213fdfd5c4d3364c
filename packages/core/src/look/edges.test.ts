/** Edges, what is measured between them, and how shapes differ, held against geometry that is known by formula. */
import fc from 'fast-check';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import type { Placement } from '../model/link.js';
import { cylinder, prism, sphere } from '../testing/bodies.js';
import { solidBody, type SolidBody } from './body.js';
import { deviationOf } from './deviation.js';
import { bodyFigures } from './figures.js';
import { edgeDatum, between, type Datum } from './measure.js';
import { edgesOf, middleOf, placedEdge, type Edge } from './edges.js';

const box = (width: number, depth: number, height: number) =>
  prism([[0, 0], [width, 0], [width, depth], [0, depth]], height); // prettier-ignore
const size = fc.integer({ min: 1, max: 200 }).map((value) => value / 4);
const turn = fc
  .tuple(fc.integer({ min: 0, max: 359 }), fc.integer({ min: -500, max: 500 }))
  .map(([degrees, shift]) =>
    new Matrix4().compose(
      new Vector3(shift, shift / 3, -shift),
      new Quaternion().setFromAxisAngle(
        new Vector3(1, shift / 100, 0.3).normalize(),
        (degrees * Math.PI) / 180,
      ),
      new Vector3(1, 1, 1),
    ),
  );
const placementOf = (matrix: Matrix4): Placement => matrix.clone().transpose().toArray().slice(0, 12);
const turnedBody = (body: SolidBody, by: Matrix4): SolidBody => {
  const positions = new Float32Array(body.positions.length);
  for (let at = 0; at < positions.length; at += 3)
    new Vector3().fromArray(body.positions, at).applyMatrix4(by).toArray(positions, at);
  return solidBody({ ...body, positions });
};
/** As near as single precision of coordinates of half a metre allows. */
const near = (value: number, wanted: number): void => expect(value).toBeCloseTo(wanted, 2);

describe('edges', () => {
  it('of a box are twelve lines as long as the box is, however it is turned', () => {
    fc.assert(
      fc.property(size, size, size, turn, (width, depth, height, by) => {
        const edges = edgesOf(turnedBody(box(width, depth, height), by));
        expect(edges.map(({ kind, isClosed }) => [kind, isClosed])).toEqual(
          Array.from({ length: 12 }, () => ['line', false]),
        );
        const lengths = edges.map(({ lengthMm }) => lengthMm).sort((a, b) => a - b);
        const wanted = [width, depth, height].flatMap((each) => [each, each, each, each]);
        wanted.sort((a, b) => a - b).forEach((each, at) => near(lengths[at] ?? 0, each));
        for (const { faces } of edges) expect(faces).toHaveLength(2);
      }),
    );
  });

  it('of a cylinder are two circles, of a part of one two arcs and two lines', () => {
    fc.assert(
      fc.property(size, size, fc.integer({ min: 20, max: 300 }), turn, (radius, height, degrees, by) => {
        const whole = edgesOf(turnedBody(cylinder(radius, height, 24), by));
        expect(whole).toHaveLength(2);
        for (const edge of whole) {
          if (edge.kind !== 'arc') throw new Error(`it is a ${edge.kind}`);
          expect(edge.isClosed).toBe(true);
          near(edge.radiusMm, radius);
          near(edge.lengthMm, 2 * Math.PI * radius);
        }
        const part = edgesOf(cylinder(radius, height, 24, 1e-6, true, degrees));
        expect(part.map(({ kind }) => kind).sort()).toEqual(['arc', 'arc', 'line', 'line']);
        for (const { kind, lengthMm } of part)
          near(lengthMm, kind === 'line' ? height : (radius * degrees * Math.PI) / 180);
      }),
    );
  });

  it('of a sphere are none, and a bare triangle has three', () => {
    expect(edgesOf(sphere(4)).filter(({ lengthMm }) => lengthMm > 1e-6)).toEqual([]);
    const sides = edgesOf({
      ...{ positions: new Float32Array([0, 0, 0, 3, 0, 0, 0, 4, 0]), indices: new Uint32Array([0, 1, 2]) },
      ...{ faces: [{ first: 0, last: 0 }], deflectionMm: 0 },
    });
    expect(sides.map(({ kind, lengthMm }) => [kind, lengthMm])).toEqual([
      ...[['line', 3], ['line', 4], ['line', 5]], // prettier-ignore
    ]);
  });

  it('have their middle halfway, on the circle where they are one', () => {
    for (const edge of edgesOf(cylinder(5, 8, 7)))
      near(
        Math.hypot(
          ...middleOf(edge)
            .slice(0, 2)
            .map((each, at) => each - (centre(edge)[at] ?? 0)),
        ),
        5,
      );
    const line = edgesOf(box(6, 2, 2)).find(({ lengthMm }) => lengthMm > 5);
    if (!line) throw new Error('a box has edges');
    expect(middleOf(line)[0]).toBeCloseTo(3);
  });

  it('are measured from each other, wherever both stand', () => {
    const far = edgesOf(box(10, 20, 30));
    const datums = far.flatMap((edge) => edgeDatum(edge) ?? []);
    fc.assert(
      fc.property(fc.nat(11), fc.nat(11), turn, (a, b, by) => {
        const [one, other] = [datums[a], datums[b]] as [Datum, Datum];
        const [turnedOne, turnedOther] = [far[a], far[b]].map(
          (edge) => edge && edgeDatum(placedEdge(edge, placementOf(by))),
        ) as [Datum, Datum];
        const [here, there] = [between(one, other), between(turnedOne, turnedOther)];
        expect(there.angleDegrees ?? -1).toBeCloseTo(here.angleDegrees ?? -1, 3);
        expect(there.distanceMm ?? -1).toBeCloseTo(here.distanceMm ?? -1, 3);
        expect(between(other, one).distanceMm ?? -1).toBeCloseTo(here.distanceMm ?? -1, 6);
      }),
    );
    const along = (x: number): Datum => ({
      ...{ kind: 'axis', at: [x, 0, 0], direction: [0, 0, 1], toleranceMm: 0 },
    });
    const across: Datum = { kind: 'axis', at: [0, 7, 5], direction: [1, 0, 0], toleranceMm: 0 };
    expect(between(along(0), along(4))).toMatchObject({ distanceMm: 4, angleDegrees: 0 });
    expect(between(along(0), across)).toMatchObject({ distanceMm: 7, angleDegrees: 90 });
    const point: Datum = { kind: 'point', at: [3, 4, 9], toleranceMm: 0.1 };
    expect(between(point, along(0))).toEqual({ distanceMm: 5, toleranceMm: 0.1 });
  });
});

function centre(edge: Edge): readonly number[] {
  if (edge.kind !== 'arc') throw new Error(`it is a ${edge.kind}`);
  return edge.centre;
}

describe('the figures of a body', () => {
  it('are those of what is round, however few triangles it is made of, and of what is flat', () => {
    fc.assert(
      fc.property(size, size, fc.integer({ min: 8, max: 40 }), (radius, height, steps) => {
        const { volumeMm3, toleranceMm3, centre } = bodyFigures(cylinder(radius, height, steps));
        expect(volumeMm3 / (Math.PI * radius ** 2 * height)).toBeCloseTo(1, 4);
        expect(toleranceMm3).toBe(0);
        expect(centre[2]).toBeCloseTo(height / 2, 3);
        const flat = bodyFigures(box(radius, height, 3));
        expect(flat.volumeMm3 / (radius * height * 3)).toBeCloseTo(1, 5);
        expect(flat.areaMm2 / (2 * (radius * height + 3 * radius + 3 * height))).toBeCloseTo(1, 5);
      }),
    );
  });

  it('say how far they may be off where a face is something else', () => {
    const { volumeMm3, toleranceMm3 } = bodyFigures({
      ...sphere(10),
      faces: [{ first: 0, last: 100 }],
      deflectionMm: 0.4,
    });
    expect(toleranceMm3).toBeGreaterThan(0);
    expect(Math.abs(volumeMm3 - (4000 / 3) * Math.PI)).toBeLessThan(4 * Math.PI * 100 * 0.4);
  });
});

describe('a deviation', () => {
  it('is what a face was moved by, and nothing where nothing changed', () => {
    fc.assert(
      fc.property(size, size, size, size, (width, depth, height, more) => {
        const [before, after] = [box(width, depth, height), box(width, depth, height + more)];
        expect(deviationOf(before, before).mostMm).toBeCloseTo(0, 4);
        expect(deviationOf(after, before).mostMm).toBeCloseTo(more, 4);
        const { ofCorners, toleranceMm } = deviationOf(after, before);
        expect(ofCorners).toHaveLength(after.positions.length / 3);
        expect(toleranceMm).toBeCloseTo(2e-6, 9);
      }),
    );
  });
});
