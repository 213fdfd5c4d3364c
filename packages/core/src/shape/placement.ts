/** Arithmetic of placements: 3×4 matrices, row by row; see `Placement`. */
import type { Placement } from '../model/link.js';

/** Product of two 3×4 placements: first `b`, then `a`. */
export function multiply(a: Placement, b: Placement): Placement {
  const out: number[] = [];
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 4; column++) {
      let sum = column === 3 ? at(a, row, 3) : 0;
      for (let k = 0; k < 3; k++) sum += at(a, row, k) * at(b, k, column);
      out.push(tidy(sum));
    }
  }
  return out;
}

/** Inverse of a placement that turns and shifts but does not scale. */
export function invertRigid(m: Placement): Placement {
  const out: number[] = [];
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 3; column++) out.push(at(m, column, row));
    out.push(
      tidy(-(at(m, 0, row) * at(m, 0, 3) + at(m, 1, row) * at(m, 1, 3) + at(m, 2, row) * at(m, 2, 3))),
    );
  }
  return out;
}

/**
 * What stands on a face: the origin at a point, z along a direction, turned to it the shortest way.
 *
 * @param point x, y, z in millimetres
 * @param along of any length but zero
 */
export function standingOn(point: readonly number[], along: readonly number[]): Placement {
  const length = Math.hypot(...along);
  const [x = 0, y = 0, z = 0] = along.map((each) => each / length);
  const sine2 = x * x + y * y;
  // A half turn has no shortest way; it goes about x, also where noise alone would choose another.
  if (z < 0 && sine2 < 1e-14)
    return [1, 0, 0, point[0] ?? 0, 0, -1, 0, point[1] ?? 0, 0, 0, -1, point[2] ?? 0];
  // Rodrigues: the axis is z × along, whose length is the sine. Near a half turn 1 + z would lose all its digits.
  const share = z < 0 ? (1 - z) / sine2 : 1 / (1 + z);
  return [
    ...[1 - x * x * share, -x * y * share, x, point[0] ?? 0],
    ...[-x * y * share, 1 - y * y * share, y, point[1] ?? 0],
    ...[-x, -y, z, point[2] ?? 0],
  ].map(tidy);
}

function at(m: Placement, row: number, column: number): number {
  return m[row * 4 + column] ?? 0;
}

/** Rounds away the noise of the arithmetic, so that equal placements compare equal: 1e-9 mm. */
function tidy(value: number): number {
  const rounded = Math.round(value * 1e9) / 1e9;
  return rounded === 0 ? 0 : rounded;
}
