/** Where an entity's own coordinates come to lie on the sheet, seen from above. */
import type { Spot } from '@stem-trace/core/sheet';
import { first, pointOf, type Entity, type Triple } from '../entities.js';

/** Columns and offset of a map of space; what is drawn is its x and y. */
export interface Placing {
  readonly x: Triple;
  readonly y: Triple;
  readonly z: Triple;
  readonly at: Triple;
}

/** What an entity needs to know of where it stands. */
export interface Placed {
  readonly placing: Placing;
}

export const UPRIGHT: Placing = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1], at: [0, 0, 0] };

export function put({ x, y, z, at }: Placing, [a, b, c]: Triple): Triple {
  return [
    x[0] * a + y[0] * b + z[0] * c + at[0],
    x[1] * a + y[1] * b + z[1] * c + at[1],
    x[2] * a + y[2] * b + z[2] * c + at[2],
  ];
}

export function spotOf(placing: Placing, point: Triple): Spot {
  const [x, y] = put(placing, point);
  return [x, y];
}

/** First `inner`, then `outer`. */
export function placed(outer: Placing, inner: Placing): Placing {
  const turn = (along: Triple): Triple => {
    const [x, y, z] = put({ ...outer, at: [0, 0, 0] }, along);
    return [x, y, z];
  };
  return { x: turn(inner.x), y: turn(inner.y), z: turn(inner.z), at: put(outer, inner.at) };
}

/** Axes of an entity's own plane from the direction it is extruded along (DXF reference, arbitrary axis algorithm). */
function ownPlane(normal: Triple): Placing {
  const length = Math.hypot(...normal);
  const z: Triple = length > 0 ? [normal[0] / length, normal[1] / length, normal[2] / length] : [0, 0, 1];
  const isSteep = Math.abs(z[0]) < 1 / 64 && Math.abs(z[1]) < 1 / 64;
  const x = unit(cross(isSteep ? [0, 1, 0] : [0, 0, 1], z));
  return { x, y: unit(cross(z, x)), z, at: [0, 0, 0] };
}

/** Of an entity that may say along which direction it is extruded. */
export function planeOf(entity: Entity): Placing {
  if (!first(entity, 230)) return UPRIGHT;
  return ownPlane(pointOf(entity, 210));
}

/** Shifted, turned by radians, stretched by axis: what an insertion does to a block. */
export function inserted(at: Triple, turn: number, stretch: Triple): Placing {
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  return {
    x: [cos * stretch[0], sin * stretch[0], 0],
    y: [-sin * stretch[1], cos * stretch[1], 0],
    z: [0, 0, stretch[2]],
    at,
  };
}

export function shifted(by: Triple): Placing {
  return { ...UPRIGHT, at: by };
}

/** By how much a placing magnifies what lies flat; undefined where it does so unevenly, or tilts. */
export function evenScale({ x, y }: Placing): number | undefined {
  const [a, b] = [Math.hypot(x[0], x[1]), Math.hypot(y[0], y[1])];
  const lean = x[0] * y[0] + x[1] * y[1];
  return Math.abs(a - b) <= 1e-9 * Math.max(a, b) && Math.abs(lean) <= 1e-9 * a * b ? a : undefined;
}

/** Whether it turns what lies flat over. */
export function isMirrored({ x, y }: Placing): boolean {
  return x[0] * y[1] - x[1] * y[0] < 0;
}

function cross(a: Triple, b: Triple): Triple {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

function unit(a: Triple): Triple {
  const length = Math.hypot(...a) || 1;
  return [a[0] / length, a[1] / length, a[2] / length];
}
