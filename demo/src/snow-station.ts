/** What the snow depth station changed in the copies that it was derived with. */
import { ALUMINIUM, assembled, designed, LYING, use, type AssemblyModel, type PartModel } from './models.js';
import * as shape from './shapes.js';

export const SNOW = 'Snow depth station';
const ARM_LENGTH = 800;

export function snowParts(): PartModel[] {
  return [
    designed(SNOW)('FM-7201', 'Arm tube', ALUMINIUM, `Carries the snow sensor, ${ARM_LENGTH} mm`, () =>
      shape.tube(50, 3, ARM_LENGTH),
    ),
  ];
}

export function snowAssemblies(): AssemblyModel[] {
  return [
    assembled(SNOW)('FM-6200', 'Sensor arm', 'Holds the snow sensor, shorter against the wind', [
      use('FM-2900', 0, 0, 0),
      use('FM-7201', 50, 0, 20, LYING),
      use('FM-7202', 50 + ARM_LENGTH, 0, 20, LYING),
      use('FM-7203', 46, 0, 20, LYING),
      use('FM-9507', 110 + ARM_LENGTH, 0, -276),
      ...shape.corners(60, 60).map(([y, z]) => use('FM-9002', 58 + ARM_LENGTH, y, 20 + z, LYING)),
    ]),
  ];
}
