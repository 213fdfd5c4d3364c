/** From the frame of the design, millimetres with z up, to what is drawn, metres with y up, and back. */
import type { Point } from '@stem-trace/core/look';
import { Vector3 } from 'three';

const PER_MM = 0.001;

export function toDrawn([x, y, z]: Point): Vector3 {
  return new Vector3(x * PER_MM, z * PER_MM, -y * PER_MM);
}

export function toDesign({ x, y, z }: Vector3): Point {
  return [x / PER_MM, -z / PER_MM, y / PER_MM];
}

/** Of directions, which have no length that matters. */
export function turnedToDrawn([x, y, z]: Point): Vector3 {
  return new Vector3(x, z, -y).normalize();
}
