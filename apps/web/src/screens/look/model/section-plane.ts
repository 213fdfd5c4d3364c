/** Where a section lies: along an axis, or along a face that was clicked. */
import type { SectionPlane, Surface } from '@stem-trace/core/look';
import type { LookStage } from './look-stage.js';

type Vector = SectionPlane['normal'];

export const UNITS: Readonly<Record<'x' | 'y' | 'z', Vector>> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
/** A face that leans less is along the axis. */
const ALONG = 1 - 1e-9;

export function dot(a: Vector, b: Vector): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** Of the two directions across a plane, the one that counts up. */
export function forward([x, y, z]: Vector): Vector {
  const first = [x, y, z].find((value) => Math.abs(value) > 1e-9) ?? 1;
  return first < 0 ? [-x, -y, -z] : [x, y, z];
}

export function kindOf(section: SectionPlane | null): 'none' | 'x' | 'y' | 'z' | 'face' {
  if (!section) return 'none';
  return (
    (['x', 'y', 'z'] as const).find((axis) => Math.abs(dot(section.normal, UNITS[axis])) > ALONG) ?? 'face'
  );
}

/** @param isTurned whether what lies lower is cut away */
export function planeAt(along: Vector, at: number, isTurned: boolean): SectionPlane {
  const side = isTurned ? -1 : 1;
  return {
    point: [along[0] * at, along[1] * at, along[2] * at],
    normal: [along[0] * side, along[1] * side, along[2] * side],
  };
}

/** How deep into what is shown the cut along a face begins, by its depth. */
const INTO = 0.25;

/** Below a face: what lies on its outside is cut away. */
export function planeInto(
  { middle, normal }: Extract<Surface, { kind: 'plane' }>,
  [low, high]: readonly [number, number],
): SectionPlane {
  return planeAt(normal, dot(middle, normal) - (high - low) * INTO, false);
}

/** From where to where all that is shown reaches along a direction, millimetres. */
export function reachOf(stage: Pick<LookStage, 'boxOf'>, along: Vector): readonly [number, number] {
  const { min, max } = stage.boxOf();
  const ends = [min.x, max.x].flatMap((x) =>
    [min.y, max.y].flatMap((y) => [min.z, max.z].map((z) => dot([x, y, z], along))),
  );
  return [Math.min(...ends), Math.max(...ends)];
}
