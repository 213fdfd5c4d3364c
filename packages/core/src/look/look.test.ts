/** Distances, faces and sections held against geometry that is known by formula. */
import fc from 'fast-check';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { IDENTITY_PLACEMENT, type Placement } from '../model/link.js';
import { between, surfaceDatum, type Between } from './measure.js';
import { near, type PlacedBody, type Point } from './near.js';
import { outlinesOf, type SectionPlane } from './section.js';
import { clipOutlines } from './section-clip.js';
import { surfaceOf, type Surface } from './surface.js';
import { cylinder, prism, sphere } from '../testing/bodies.js';

const betweenSurfaces = (one: Surface, other: Surface): Between | undefined => {
  const [first, second] = [surfaceDatum(one), surfaceDatum(other)];
  return first && second && between(first, second);
};
const at = (x: number, y: number, z: number): Placement => [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z];
const box = (width: number, depth: number, height: number) =>
  prism([[0, 0], [width, 0], [width, depth], [0, depth]], height); // prettier-ignore
const placed = (body: PlacedBody['body'], where: Placement = IDENTITY_PLACEMENT): PlacedBody => ({
  body,
  at: where,
});

const size = fc.integer({ min: 1, max: 20 });
const shift = fc.integer({ min: -40, max: 40 });
const sizes = fc.tuple(size, size, size);
const shifts = fc.tuple(shift, shift, shift);
/** Any turn and shift. */
const rigid = fc
  .tuple(
    fc.integer({ min: 0, max: 359 }),
    fc.integer({ min: -100, max: 100 }),
    fc.integer({ min: -100, max: 100 }),
  )
  .map(([degrees, tilt, x]) =>
    new Matrix4().compose(
      new Vector3(x, tilt, -x / 3),
      new Quaternion().setFromAxisAngle(
        new Vector3(1, tilt / 100, 0.3).normalize(),
        (degrees * Math.PI) / 180,
      ),
      new Vector3(1, 1, 1),
    ),
  );
const placementOf = (matrix: Matrix4): Placement => matrix.clone().transpose().toArray().slice(0, 12);
const turned = ({ body, at: where }: PlacedBody, by: Matrix4): PlacedBody => {
  const [m] = [new Matrix4().set(...([...where, 0, 0, 0, 1] as unknown as Parameters<Matrix4['set']>))];
  return { body, at: placementOf(by.clone().multiply(m)) };
};

describe('near', () => {
  it('knows the distance of boxes, and how far they reach into each other, wherever both stand', () => {
    fc.assert(
      fc.property(sizes, sizes, shifts, rigid, (one, other, to, by) => {
        const gaps = to.map((offset, axis) =>
          Math.max(offset - (one[axis] ?? 0), -offset - (other[axis] ?? 0)),
        );
        const distance = Math.hypot(...gaps.map((gap) => Math.max(gap, 0)));
        const isApart = gaps.some((gap) => gap > 0);
        const isInside = gaps.every((gap) => gap < 0);
        const bodies = [placed(box(...one)), placed(box(...other), at(...to))].map((each) =>
          turned(each, by),
        );
        const [found] = near(bodies.slice(0, 1), bodies.slice(1), 100);
        if (isApart) {
          expect(found?.kind).toBe('near');
          expect(found?.distanceMm).toBeCloseTo(distance, 3);
          const [from, towards] = found?.between ?? [[0, 0, 0] as const, [0, 0, 0] as const];
          expect(Math.hypot(...from.map((value, axis) => value - (towards[axis] ?? 0)))).toBeCloseTo(
            distance,
            3,
          );
        } else if (isInside) {
          expect(found?.kind).toBe('overlaps');
          // No way through both is longer than what would part them, the shortest along an axis.
          const parts = Math.min(...gaps.map((gap) => -gap));
          expect(found?.depthMm).toBeLessThanOrEqual(parts + 1e-3);
          expect(found?.depthMm).toBeGreaterThan(0.3 * Math.min(parts, ...one, ...other));
        } else expect(found).toMatchObject({ kind: 'touches', distanceMm: 0 });
      }),
      { numRuns: 150 },
    );
  });

  it('lists what is within the distance, and nothing that is further away, however large its faces are', () => {
    const lengths = fc.double({ min: 0.01, max: 40, noNaN: true });
    fc.assert(
      fc.property(lengths, lengths, rigid, (distance, within, by) => {
        fc.pre(Math.abs(distance - within) > 1e-3);
        // In the corner that a wedge leaves free in its box, so far from its slope.
        const wedge = placed(prism([[0, 0], [200, 0], [0, 200]], 20)); // prettier-ignore
        const corner = 100 + distance / Math.SQRT2;
        const cube = placed(box(3, 3, 3), at(corner, corner, 5));
        const found = near([turned(wedge, by)], [turned(cube, by)], within);
        expect(found).toHaveLength(distance <= within ? 1 : 0);
        if (found[0]) expect(found[0].distanceMm).toBeCloseTo(distance, 3);
      }),
      { numRuns: 150 },
    );
  });

  it('looks at surfaces and not at boxes: two angles that lie in one another are apart', () => {
    const angle = prism([[0, 0], [30, 0], [30, 10], [10, 10], [10, 30], [0, 30]], 20); // prettier-ignore
    // The other way round, with 3 mm between the ends of the legs and the other's sides.
    const other = placed(angle, [-1, 0, 0, 43, 0, -1, 0, 40, 0, 0, 1, 0]);
    expect(near([placed(angle)], [other], 2)).toEqual([]);
    const [found] = near([placed(angle)], [other], 4);
    expect(found).toMatchObject({ kind: 'near', depthMm: 0 });
    expect(found?.distanceMm).toBeCloseTo(3, 5);
  });

  it('sees a body that lies in another as a whole, bars that cross, and what only rests on another', () => {
    const cube = placed(box(10, 10, 10));
    expect(near([cube], [placed(box(2, 2, 2), at(4, 4, 4))], 1)[0]).toMatchObject({ kind: 'overlaps' });
    const bars = near(
      [placed(box(100, 10, 10), at(-50, -5, 0))],
      [placed(box(10, 100, 10), at(-5, -50, 0))],
      1,
    );
    expect(bars[0]?.kind).toBe('overlaps');
    expect(bars[0]?.depthMm).toBeCloseTo(10, 3);
    expect(near([cube], [placed(box(4, 4, 4), at(3, 3, 10))], 0)[0]).toMatchObject({
      kind: 'touches',
      depthMm: 0,
    });
    // A pin in its hole: the triangles of both lie off by less than is said.
    const pin = placed(cylinder(5, 40, 24, 0.2), at(0, 0, -10));
    expect(near([pin], [placed(cylinder(5.1, 20, 24, 0.2, true))], 1)[0]).toMatchObject({ kind: 'touches' });
  });

  it('lists each pair once, the nearest first, and nothing that is further away', () => {
    fc.assert(
      fc.property(fc.array(shifts, { maxLength: 12 }), fc.integer({ min: 0, max: 30 }), (places, within) => {
        const cube = box(3, 3, 3);
        const others = places.map((place) => placed(cube, at(...place)));
        const found = near([placed(cube)], others, within);
        const expected = places.filter(
          (place) => Math.hypot(...place.map((offset) => Math.max(Math.abs(offset) - 3, 0))) <= within + 1e-9,
        );
        expect(found).toHaveLength(expected.length);
        const distances = found.map(({ distanceMm }) => distanceMm);
        expect(distances).toEqual([...distances].sort((a, b) => a - b));
      }),
      { numRuns: 60 },
    );
  });
});

describe('a face', () => {
  it('is a plane or a cylinder again, with its radius, wherever it stands', () => {
    const degrees = fc.integer({ min: 3, max: 360 });
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        size,
        degrees,
        fc.boolean(),
        (radius, height, turn, isHole) => {
          const body = cylinder(radius, height, Math.max(3, Math.ceil(turn / 15)), 0, isHole, turn);
          const mantle = surfaceOf(body, body.faces[0] ?? { first: 0, last: 0 });
          expect(mantle).toMatchObject({ kind: 'cylinder', isHollow: isHole });
          if (mantle.kind !== 'cylinder') return;
          expect(mantle.radiusMm / radius).toBeCloseTo(1, 3);
          expect(Math.abs(mantle.axis[2])).toBeCloseTo(1, 5);
          expect(Math.abs(mantle.radiusMm - radius)).toBeLessThanOrEqual(radius * 1e-3);
        },
      ),
      { numRuns: 100 },
    );
    const cube = box(4, 5, 6);
    const kinds = cube.faces.map((face) => surfaceOf(cube, face));
    expect(kinds.map(({ kind }) => kind)).toEqual(Array.from({ length: 6 }, () => 'plane'));
    expect(kinds.reduce((sum, { areaMm2 }) => sum + areaMm2, 0)).toBeCloseTo(2 * (20 + 24 + 30), 6);
    const ball = sphere(7);
    expect(surfaceOf(ball, ball.faces[0] ?? { first: 0, last: 0 })).toMatchObject({ kind: 'sphere' });
  });

  it('says what it is to another', () => {
    const cube = box(4, 5, 6);
    const [bottom, top, ...sides] = cube.faces.map((face) => surfaceOf(cube, face));
    const side = sides[0];
    if (!bottom || !top || !side) throw new Error('a cube has faces');
    expect(betweenSurfaces(bottom, top)).toMatchObject({ distanceMm: 6, angleDegrees: 0 });
    expect(betweenSurfaces(bottom, side)?.angleDegrees).toBeCloseTo(90, 6);
    expect(betweenSurfaces(bottom, side)?.distanceMm).toBeUndefined();
    const round = cylinder(3, 10, 24);
    const mantle = surfaceOf(round, round.faces[0] ?? { first: 0, last: 0 });
    expect(
      betweenSurfaces(mantle, { ...mantle, centre: [8, 6, 3] } as typeof mantle)?.distanceMm,
    ).toBeCloseTo(10, 4);
    expect(betweenSurfaces(mantle, side)?.angleDegrees).toBe(0);
    expect(betweenSurfaces(mantle, bottom)?.angleDegrees).toBeCloseTo(90, 4);
    expect(betweenSurfaces(mantle, { kind: 'free', areaMm2: 1, middle: [0, 0, 0] })).toBeUndefined();
  });
});

describe('a section', () => {
  it('has the area of what it cuts, wherever the body and the plane stand, and all of its rings close', () => {
    const angle = prism([[0, 0], [30, 0], [30, 10], [10, 10], [10, 30], [0, 30]], 20); // prettier-ignore
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 19.999, noNaN: true }), rigid, (height, by) => {
        const plane: SectionPlane = {
          point: new Vector3(0, 0, height).applyMatrix4(by).toArray() as unknown as Point,
          normal: new Vector3(0, 0, 1).transformDirection(by).toArray() as unknown as Point,
        };
        const [cut] = outlinesOf([turned(placed(angle), by)], plane);
        expect(cut?.open).toEqual([]);
        expect(cut?.rings).toHaveLength(1);
        expect(cut?.areaMm2).toBeCloseTo(500, 1);
      }),
      { numRuns: 60 },
    );
  });

  it('goes through corners and faces without a gap, and takes holes off', () => {
    const cube = placed(box(10, 10, 10));
    const across = (x: number): SectionPlane => ({ point: [x, 0, 0], normal: [1, 0, 0] });
    expect(outlinesOf([cube], across(5))[0]).toMatchObject({ of: 0, open: [], areaMm2: 100 });
    // In the plane of a face there is all of it or nothing, never a part.
    for (const x of [0, 10])
      expect([0, 100]).toContain(Math.round(outlinesOf([cube], across(x))[0]?.areaMm2 ?? 0));
    expect(outlinesOf([cube], across(10.001))).toEqual([]);
    const diagonal = outlinesOf([cube], { point: [5, 5, 0], normal: [1, -1, 0] });
    expect(diagonal[0]?.open).toEqual([]);
    expect(diagonal[0]?.areaMm2).toBeCloseTo(100 * Math.SQRT2, 3);
    const pipe = outlinesOf([placed(cylinder(10, 20, 48)), placed(cylinder(6, 20, 48, 0, true))], {
      point: [0, 0, 7],
      normal: [0, 0, 1],
    });
    const polygon = (radius: number): number => 24 * radius * radius * Math.sin((2 * Math.PI) / 48);
    expect(pipe[0]?.areaMm2).toBeCloseTo(polygon(10), 2);
    expect(pipe[1]?.areaMm2).toBeCloseTo(-polygon(6), 2);
  });

  it('loses what other sections take away, and no more', () => {
    const pipe = prism([[0, 0], [40, 0], [40, 30], [0, 30]], 20); // prettier-ignore
    const plane: SectionPlane = { point: [0, 0, 8], normal: [0, 0, 1] };
    const outlines = outlinesOf([placed(pipe)], plane).map((outline) => ({
      ...outline,
      // A hole from 10 to 20 both ways.
      rings: [...outline.rings, [[10, 10], [10, 20], [20, 20], [20, 10]] as const], // prettier-ignore
    }));
    const area = (others: readonly SectionPlane[]): number =>
      clipOutlines(outlines, plane, others).reduce((sum, { areaMm2 }) => sum + areaMm2, 0);
    const share = fc.double({ min: 0.01, max: 0.99, noNaN: true });
    fc.assert(
      fc.property(share, share, fc.boolean(), (x, y, isTurned) => {
        const at: SectionPlane = { point: [x * 40, 0, 3], normal: [isTurned ? -1 : 1, 0, 0] };
        const across: SectionPlane = { point: [7, y * 30, 0], normal: [0, 1, 0] };
        const inHole = Math.min(Math.max(x * 40 - 10, 0), 10);
        const left = x * 40 * 30 - inHole * 10;
        expect(area([at])).toBeCloseTo(isTurned ? 1100 - left : left, 2);
        const sides = [1, -1].flatMap((side) =>
          [1, -1].map((other) =>
            area([
              { ...at, normal: [side, 0, 0] },
              { ...across, normal: [0, other, 0] },
            ]),
          ),
        );
        expect(sides.reduce((sum, each) => sum + each)).toBeCloseTo(1100, 2);
      }),
      { numRuns: 40 },
    );
    expect(area([{ point: [-5, 0, 0], normal: [1, 0, 0] }])).toBe(0);
    expect(clipOutlines(outlines, plane, [])).toEqual(outlines);
  });
});
