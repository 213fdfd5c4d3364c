/** Where pictures lie on a drawing, and what masks cover. */
import type { LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import { pointOf, pointsOf, type Entity, type Triple } from '../entities.js';
import { spotOf, type Placing } from './placing.js';

export function imageCorners(entity: Entity, placing: Placing): Spot[] {
  const [at, u, v] = [pointOf(entity, 10), pointOf(entity, 11), pointOf(entity, 12)];
  const [wide, tall] = pointOf(entity, 13);
  const corner = (x: number, y: number): Spot =>
    spotOf(placing, [at[0] + u[0] * x + v[0] * y, at[1] + u[1] * x + v[1] * y, at[2] + u[2] * x + v[2] * y]);
  return [corner(0, 0), corner(wide, 0), corner(wide, tall), corner(0, tall)];
}

/** Covers what was drawn before it. */
export function wipeout(entity: Entity, { placing }: { readonly placing: Placing }, look: LineLook): Mark[] {
  const bounds = pointsOf(entity, 14);
  const corners = bounds.length < 3 ? imageCorners(entity, placing) : maskCorners(entity, placing, bounds);
  return [{ kind: 'fill', look, rings: [corners], isPaper: true }];
}

/** Of a mask in pixels, of which the first is at the upper left and half a pixel in. */
function maskCorners(entity: Entity, placing: Placing, bounds: readonly Triple[]): Spot[] {
  const [at, u, v] = [pointOf(entity, 10), pointOf(entity, 11), pointOf(entity, 12)];
  const [, tall] = pointOf(entity, 13);
  return bounds.map(([x, y]) => {
    const [right, up] = [x + 0.5, (tall || 1) - (y + 0.5)];
    return spotOf(placing, [at[0] + u[0] * right + v[0] * up, at[1] + u[1] * right + v[1] * up, 0]);
  });
}
