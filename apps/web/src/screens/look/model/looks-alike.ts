import type { SceneCamera } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';

/** Of the distance from which one looks. */
const SAME = 1e-6;

/** Whether two look from the same place in the same direction, as far as anybody can see. */
export function looksAlike(one: SceneCamera, other: SceneCamera): boolean {
  const size = Math.hypot(...one.from.map((each, axis) => each - (one.at[axis] ?? 0)));
  const isNear = (a: Point, b: Point, within: number): boolean =>
    a.every((each, axis) => Math.abs(each - (b[axis] ?? 0)) <= within);
  return (
    one.isParallel === other.isParallel &&
    isNear(one.from, other.from, size * SAME) &&
    isNear(one.at, other.at, size * SAME) &&
    isNear(one.up, other.up, SAME)
  );
}
