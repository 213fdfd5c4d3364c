/** A product of 2,000 placed parts and five million triangles: tubes of 200 sizes, in rows. */
import type { Placement } from '@stem-trace/core';
import type { Body } from '@stem-trace/core/look';

export const FILES = 200;
export const PLACES_OF_EACH = 10;
/** Around a tube; eight triangles each: outside, inside, above and below. */
const STEPS = 312;
const WALL_MM = 2;
const IN_A_ROW = 45;
/** So far apart that none touches another; and so near that wide ones stand in their neighbours. */
export const APART_MM = 31;
export const CROWDED_MM = 24;

export function tubeOf(file: number): Body {
  return tube(8 + (file % 7), 40 + file);
}

export function placeOf(at: number, apartMm: number): Placement {
  return [1, 0, 0, (at % IN_A_ROW) * apartMm, 0, 1, 0, Math.floor(at / IN_A_ROW) * apartMm, 0, 0, 1, 0];
}

/** Standing on its end, closed. */
function tube(radius: number, height: number): Body {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let step = 0; step < STEPS; step++) {
    const angle = (step * 2 * Math.PI) / STEPS;
    for (const r of [radius, radius - WALL_MM])
      for (const z of [0, height]) positions.push(r * Math.cos(angle), r * Math.sin(angle), z);
    const corner = (at: number, of: number): number => ((step + at) % STEPS) * 4 + of;
    const wall = (low: number, high: number): void => {
      const [a, b, c, d] = [corner(0, low), corner(1, low), corner(1, high), corner(0, high)] as const;
      indices.push(a, b, c, a, c, d);
    };
    // Outside, inside, above, below; each turned outwards.
    wall(0, 1);
    wall(3, 2);
    wall(1, 3);
    wall(2, 0);
  }
  return {
    ...{ positions: new Float32Array(positions), indices: new Uint32Array(indices) },
    ...{ faces: [{ first: 0, last: indices.length / 3 - 1 }], deflectionMm: 0.01 },
  };
}
