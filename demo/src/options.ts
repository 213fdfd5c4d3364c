/** What a river stage station can have instead: longer arms, a taller mast, a larger panel, and a heater for the sensor head. */
import {
  ALUMINIUM,
  assembled,
  designed,
  LYING,
  STEEL,
  UNTILTED,
  use,
  type AssemblyModel,
  type PartModel,
} from './models.js';
import { MAST_OUTER } from './river-station.js';
import * as shape from './shapes.js';

export const OPTIONS = 'Options';

/** Arms in millimetres, with the numbers of tube and assembly. */
const ARMS = [
  { length: 1600, tube: 'FM-3216', arm: 'FM-2216' },
  { length: 2000, tube: 'FM-3220', arm: 'FM-2220' },
] as const;

export function optionParts(): PartModel[] {
  const made = designed(OPTIONS);
  return [
    ...ARMS.map(({ length, tube }) =>
      made(tube, `Arm tube ${length}`, ALUMINIUM, `Carries the sensor head, ${length} mm`, () =>
        shape.tube(50, 3, length),
      ),
    ),
    made('FM-3140', 'Mast tube 76 × 3.2, 4 m', STEEL, 'For banks that flood', () =>
      shape.tube(MAST_OUTER, 3.2, 4000),
    ),
    made('FM-3450', 'Panel frame 50 W', ALUMINIUM, 'For a 50 W panel in shaded valleys', () =>
      shape.frame(540, 670, 25, 30),
    ),
    made('FM-3610', 'Heater plate', ALUMINIUM, 'Keeps ice off the antenna, 12 W', () =>
      shape.plate(90, 90, 6, shape.corners(70, 70), 5.5),
    ),
  ];
}

export function optionAssemblies(): AssemblyModel[] {
  const assembly = assembled(OPTIONS);
  return [
    ...ARMS.map(({ length, tube, arm }) =>
      assembly(arm, `Sensor arm ${length}`, 'Holds the sensor head further out over the water', [
        use('FM-2900', 0, 0, 0),
        use(tube, 50, 0, 20, LYING),
        use('FM-3202', 50 + length, 0, 20, LYING),
        use('FM-3203', 46, 0, 20, LYING),
        use('FM-2210', 110 + length, 0, -76),
        ...shape.corners(60, 60).map(([y, z]) => use('FM-9002', 58 + length, y, 20 + z, LYING)),
      ]),
    ),
    assembly('FM-2140', 'Mast 4 m', 'Welded base and longer tube', [
      use('FM-3140', 0, 0, 12),
      use('FM-3102', 0, 0, 0),
      ...[0, 90, 180, 270].map((angle) => use('FM-3103', 0, 0, 12, angle)),
      ...shape.corners(200, 200).flatMap(([x, y]) => [use('FM-9004', x, y, 12), use('FM-9014', x, y, 12)]),
    ]),
    assembly('FM-2450', 'Solar panel unit 50 W', 'Larger panel with frame and tilt', [
      use('FM-3450', 0, 0, 0),
      use('FM-3402', -100, 0, -30),
      use('FM-3402', 100, 0, -30),
      use('FM-2900', 0, -134.4, -219.2, UNTILTED),
      ...shape.corners(200, 60).map(([x, y]) => use('FM-9002', x, y, -5)),
    ]),
    assembly('FM-2600', 'Sensor heater', 'Plate with its screws', [
      use('FM-3610', 0, 0, 0),
      ...shape.corners(70, 70).map(([x, y]) => use('FM-9006', x, y, 6)),
    ]),
  ];
}
