/** What is left of the outlines of one section where other sections take material away. */
import { difference, intersection } from 'polyclip-ts';
import { Vector3 } from 'three';
import { frameOf, signedArea, type Outline, type SectionPlane, type SectionPoint } from './section.js';

type Ring = [number, number][];

/**
 * Outlines of a plane, cut where other planes cut it. Rings turn as they did: counter-clockwise around material.
 *
 * `O(points × log points)` a body and a plane
 */
export function clipOutlines(
  outlines: readonly Outline[],
  plane: SectionPlane,
  others: readonly SectionPlane[],
): Outline[] {
  return others.reduce<Outline[]>(
    (left, other) =>
      left.flatMap((outline) => {
        const kept = keptSide(outline, plane, other);
        if (kept === 'all') return outline;
        if (kept === 'none') return [];
        const rings = intersection(polygonsOf(outline), [kept]).flatMap((polygon) =>
          polygon.map((ring) => ring.slice(0, -1).map(([x, y]): SectionPoint => [x, y])),
        );
        const areaMm2 = rings.reduce((sum, ring) => sum + signedArea(ring), 0);
        return rings.length === 0 ? [] : { ...outline, rings, areaMm2 };
      }),
    [...outlines],
  );
}

/** Rings that lie in each other: what is in an even number of them is outside, which is how the package joins them. */
function polygonsOf({ rings }: Outline): Ring[][] {
  const outer = rings.filter((ring) => signedArea(ring) > 0).map((ring): Ring[] => [ringOf(ring)]);
  const holes = rings.filter((ring) => signedArea(ring) < 0).map((ring): Ring[] => [ringOf(ring)]);
  return holes.length === 0 ? outer : difference(outer, ...holes.map((hole) => [hole]));
}

function ringOf(ring: readonly SectionPoint[]): Ring {
  return ring.map(([x, y]) => [x, y]);
}

/** The half of the section's plane that another plane leaves, as a rectangle beyond the outline. */
function keptSide({ rings }: Outline, plane: SectionPlane, other: SectionPlane): Ring[] | 'all' | 'none' {
  const { right, up } = frameOf(plane);
  const [across, upwards] = [new Vector3(...right), new Vector3(...up)];
  const normal = new Vector3(...other.normal).normalize();
  const from = new Vector3(...plane.point).sub(new Vector3(...other.point));
  const [a, b, c] = [normal.dot(across), normal.dot(upwards), normal.dot(from)];
  // a x + b y + c > 0 is cut away.
  const sides = rings.flat().map(([x, y]) => a * x + b * y + c);
  if (sides.every((side) => side <= 0)) return 'all';
  if (sides.every((side) => side >= 0)) return 'none';
  const steep = Math.hypot(a, b);
  const far = rings.flat().reduce((most, [x, y]) => Math.max(most, Math.abs(x), Math.abs(y)), 0);
  const reach = 4 * (far + Math.abs(c) / steep);
  const [nx, ny] = [a / steep, b / steep];
  const [x, y] = [(-nx * c) / steep, (-ny * c) / steep];
  const corner = (along: number, back: number): [number, number] => [
    x - ny * along * reach - nx * back * reach,
    y + nx * along * reach - ny * back * reach,
  ];
  return [[corner(1, 0), corner(-1, 0), corner(-1, 1), corner(1, 1)]];
}
