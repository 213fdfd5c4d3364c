import type { Placement } from '@stem-trace/core';
import { Matrix4 } from 'three';

/** From millimetres with z up, as placements are, to metres with y up, as meshes are. */
const TO_GLTF = new Matrix4().set(0.001, 0, 0, 0, 0, 0, 0.001, 0, 0, -0.001, 0, 0, 0, 0, 0, 1);
const FROM_GLTF = TO_GLTF.clone().invert();

/** Where a mesh stands, as it is drawn. */
export function placeMatrix(placement: Placement): Matrix4 {
  const m = (index: number): number => placement[index] ?? 0;
  const own = new Matrix4().set(
    ...([m(0), m(1), m(2), m(3), m(4), m(5), m(6), m(7)] as const),
    ...([m(8), m(9), m(10), m(11), 0, 0, 0, 1] as const),
  );
  return TO_GLTF.clone().multiply(own).multiply(FROM_GLTF);
}

/** The same backwards: where something that is drawn stands in the design. */
export function placementOf(drawn: Matrix4): Placement {
  const own = FROM_GLTF.clone().multiply(drawn).multiply(TO_GLTF);
  return own.transpose().toArray().slice(0, 12);
}
