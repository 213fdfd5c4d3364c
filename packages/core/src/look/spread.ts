/** Assemblies taken apart for looking: every use is moved away from the middle of what it lies in. */
import type { Point } from './near.js';

export interface SpreadUse {
  /** Place of what it lies in; -1 for the root. A use comes after that. */
  readonly parent: number;
  /** Of the box around all that is drawn of it; absent where nothing is. */
  readonly middle?: Point;
}

/**
 * How far each use moves, in the frame of the root: what lies deeper moves with what it lies in, and away from it besides.
 *
 * @param amount 0 leaves all in place; at 1 the distance from the middle is doubled
 * @param levels how many levels are taken apart, counted from the root
 */
export function spreadOf(
  uses: readonly SpreadUse[],
  { amount, levels }: { readonly amount: number; readonly levels: number },
): Point[] {
  const depth: number[] = [];
  const moved: Point[] = [];
  uses.forEach(({ parent, middle }) => {
    const level = parent < 0 ? 0 : (depth[parent] ?? 0) + 1;
    depth.push(level);
    const [x, y, z] = moved[parent] ?? [0, 0, 0];
    const around = uses[parent]?.middle;
    if (level === 0 || level > levels || !middle || !around) return moved.push([x, y, z]);
    const away = (axis: 0 | 1 | 2): number => (middle[axis] - around[axis]) * amount;
    return moved.push([x + away(0), y + away(1), z + away(2)]);
  });
  return moved.slice(0, uses.length);
}
