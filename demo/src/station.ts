/**
 * The river stage station of the made-up maker Fenmark Hydrometrics: what it is made of, and how that changed in
 * the course of its history. Lengths in millimetres, densities in kilograms per cubic metre.
 */
import type { Shape3D } from 'replicad';
import type { Placement } from '@stem-trace/core';
import * as shape from './shapes.js';

export interface PartModel {
  readonly kind: 'part';
  readonly number: string;
  readonly name: string;
  readonly folder: string;
  readonly description: string;
  readonly source: 'made' | 'bought';
  readonly material: string;
  readonly densityKgM3: number;
  /** `#rrggbb` */
  readonly colour: string;
  readonly build: () => Shape3D;
}

export interface AssemblyModel {
  readonly kind: 'assembly';
  readonly number: string;
  readonly name: string;
  readonly folder: string;
  readonly description: string;
  readonly uses: readonly Use[];
}

export interface Use {
  readonly number: string;
  readonly at: Placement;
}

const STATION = 'River stage station';
const SHARED = 'Shared assemblies';
const STANDARD = 'Standard parts';

const STEEL = { material: 'Steel S355, hot-dip galvanised', densityKgM3: 7850, colour: '#9aa5ab' };
const STAINLESS = { material: 'Stainless steel A4-70', densityKgM3: 7900, colour: '#b9c1c6' };
const ALUMINIUM = { material: 'Aluminium EN AW-6082 T6', densityKgM3: 2700, colour: '#cfd6d9' };
const POLYCARBONATE = { material: 'Polycarbonate, UV-stabilised', densityKgM3: 1200, colour: '#dfe3dc' };
const NYLON = { material: 'Polyamide 6, glass-filled', densityKgM3: 1360, colour: '#3d454a' };

const MAST_OUTER = 76.1;

/** What differs from one stage of the history to the next. */
export interface Stage {
  readonly armLength: number;
  readonly enclosureHeight: number;
  readonly sunRoof: boolean;
  readonly tiltBracketThickness: number;
  readonly hingeLeft: boolean;
}

export function parts(stage: Stage): PartModel[] {
  const made = (
    number: string,
    name: string,
    material: typeof STEEL,
    description: string,
    build: () => Shape3D,
  ): PartModel => ({
    kind: 'part',
    number,
    name,
    folder: STATION,
    description,
    source: 'made',
    ...material,
    build,
  });
  const bought = (
    number: string,
    name: string,
    material: typeof STEEL,
    description: string,
    build: () => Shape3D,
  ): PartModel => ({
    kind: 'part',
    number,
    name,
    folder: STANDARD,
    description,
    source: 'bought',
    ...material,
    build,
  });
  const square = shape.corners;
  return [
    made('FM-3101', 'Mast tube 76 × 3.2', STEEL, 'Main mast, 3 m', () => shape.tube(MAST_OUTER, 3.2, 3000)),
    made('FM-3102', 'Base plate', STEEL, 'Bolted to the foundation', () =>
      shape.plate(260, 260, 12, square(200, 200), 14),
    ),
    made('FM-3103', 'Base gusset', STEEL, 'Welded between mast and base plate', () =>
      shape.gusset(80, 140, 6),
    ),
    made('FM-3201', 'Arm tube', ALUMINIUM, `Carries the sensor head, ${stage.armLength} mm`, () =>
      shape.tube(50, 3, stage.armLength),
    ),
    made('FM-3202', 'Arm end flange', ALUMINIUM, 'Takes the sensor head', () =>
      shape.disc(110, 8, square(60, 60), 9),
    ),
    made('FM-3203', 'Arm end cap', NYLON, 'Keeps water and insects out', () => shape.drum(50, 18, 2)),
    made('FM-3211', 'Sensor housing', ALUMINIUM, 'Holds the radar module', () => shape.drum(120, 95, 4)),
    made('FM-3212', 'Horn antenna', ALUMINIUM, '26 GHz, 10° beam', () => shape.horn(92, 24, 110, 2)),
    made('FM-3213', 'Housing lid', ALUMINIUM, 'With groove for the seal', () =>
      shape.disc(120, 6, square(70, 70), 5.5),
    ),
    made('FM-3301', 'Enclosure body', POLYCARBONATE, 'IP 66, for logger and modem', () =>
      shape.tray(300, 400, 180, 4),
    ),
    made(
      'FM-3302',
      'Enclosure door',
      POLYCARBONATE,
      stage.hingeLeft ? 'Hinged on the left' : 'Hinged on the right',
      () =>
        shape.plate(
          300,
          400,
          6,
          stage.hingeLeft
            ? [
                [-138, 120],
                [-138, -120],
              ]
            : [
                [138, 120],
                [138, -120],
              ],
          6,
          8,
        ),
    ),
    made('FM-3303', 'Mounting rail 35 mm', STEEL, 'Hat rail, 260 mm', () => shape.rail(260)),
    ...(stage.sunRoof
      ? [
          made('FM-3304', 'Sun roof', ALUMINIUM, 'Shades the enclosure, 30 mm air gap', () =>
            shape.plate(360, 460, 2, square(280, 380), 6.6),
          ),
        ]
      : []),
    made(
      'FM-3311',
      'Logger circuit board',
      { material: 'FR-4', densityKgM3: 1850, colour: '#2f6b4f' },
      'Six layers, coated',
      () => shape.plate(160, 100, 1.6, square(148, 88), 3.2, 3),
    ),
    made('FM-3312', 'Board standoff M3×8', STAINLESS, 'Hexagon, 5.5 mm across flats', () =>
      shape.nut(3, 5.5, 8),
    ),
    made('FM-3401', 'Panel frame', ALUMINIUM, 'For a 20 W panel', () => shape.frame(360, 490, 20, 25)),
    made(
      'FM-3402',
      'Tilt bracket',
      STEEL,
      `Sets the panel to 30°, 45° or 60°, ${stage.tiltBracketThickness} mm sheet`,
      () => shape.angle(120, 90, 40, stage.tiltBracketThickness, 9),
    ),
    made('FM-3501', 'Battery tray', STEEL, 'For one 24 Ah battery', () => shape.tray(200, 180, 60, 2)),
    made('FM-3502', 'Battery strap', STAINLESS, 'Holds the battery down', () =>
      shape.angle(185, 140, 20, 1.5, 6.6),
    ),
    {
      ...made('FM-3901', 'Clamp half', ALUMINIUM, 'For masts of 76 mm', () =>
        shape.clampHalf(MAST_OUTER, 132, 40, 9),
      ),
      folder: SHARED,
    },
    bought('FM-9002', 'Hexagon bolt M8×30', STAINLESS, 'ISO 4017', () => shape.bolt(8, 30, 13, 5.3)),
    bought('FM-9004', 'Hexagon bolt M12×40', STAINLESS, 'ISO 4017', () => shape.bolt(12, 40, 18, 7.5)),
    bought('FM-9006', 'Hexagon bolt M5×16', STAINLESS, 'ISO 4017', () => shape.bolt(5, 16, 8, 3.5)),
    bought('FM-9012', 'Washer 8.4', STAINLESS, 'ISO 7089', () => shape.washer(8.4, 16, 1.6)),
    bought('FM-9014', 'Washer 13', STAINLESS, 'ISO 7089', () => shape.washer(13, 24, 2.5)),
    bought('FM-9022', 'Hexagon nut M8', STAINLESS, 'ISO 4032', () => shape.nut(8, 13, 6.8)),
    bought('FM-9101', 'Cable gland M20', NYLON, 'IP 68, clamps 6 to 12 mm', () => shape.gland(20, 24, 38)),
    bought('FM-9102', 'Cable gland M16', NYLON, 'IP 68, clamps 4 to 8 mm', () => shape.gland(16, 19, 32)),
    bought('FM-9103', 'Vent plug M16', NYLON, 'IP 67, lets pressure out and no water in', () =>
      shape.gland(16, 22, 20),
    ),
    bought(
      'FM-9301',
      'Solar panel 20 W',
      { material: 'Glass, aluminium', densityKgM3: 2300, colour: '#26384f' },
      'Monocrystalline, 12 V',
      () => shape.block(350, 480, 17, 4),
    ),
    bought(
      'FM-9401',
      'Battery 12 V 24 Ah',
      { material: 'Lead, AGM', densityKgM3: 2600, colour: '#4a4f54' },
      'Maintenance-free',
      () => shape.block(166, 175, 125, 3),
    ),
  ];
}

export function assemblies(stage: Stage): AssemblyModel[] {
  const assembly = (
    number: string,
    name: string,
    description: string,
    uses: readonly Use[],
    folder = STATION,
  ): AssemblyModel => ({
    kind: 'assembly',
    number,
    name,
    folder,
    description,
    uses,
  });
  const gap = MAST_OUTER / 2 + 14;
  const height = stage.enclosureHeight;
  return [
    assembly(
      'FM-2900',
      'Mast clamp 76',
      'Two halves with bolts; used wherever something is fixed to a mast',
      [
        use('FM-3901', 0, 0, 0),
        use('FM-3901', 0, 0, 0, 180),
        ...[-gap, gap].flatMap((x) => [
          use('FM-9002', x, 40, 20),
          use('FM-9012', x, 39, 20),
          use('FM-9012', x, -39, 20),
          use('FM-9022', x, -41, 20),
        ]),
      ],
      SHARED,
    ),
    assembly('FM-2100', 'Mast', 'Welded base and tube', [
      use('FM-3101', 0, 0, 12),
      use('FM-3102', 0, 0, 0),
      ...[0, 90, 180, 270].map((angle) => use('FM-3103', 0, 0, 12, angle)),
      ...shape.corners(200, 200).flatMap(([x, y]) => [use('FM-9004', x, y, 12), use('FM-9014', x, y, 12)]),
    ]),
    assembly('FM-2210', 'Radar sensor head', '26 GHz level radar with horn', [
      use('FM-3211', 0, 0, 0),
      use('FM-3212', 0, 0, -110),
      use('FM-3213', 0, 0, 95),
      use('FM-9101', 60, 0, 50, 90),
      ...shape.corners(70, 70).map(([x, y]) => use('FM-9006', x, y, 101)),
    ]),
    assembly('FM-2200', 'Sensor arm', 'Holds the sensor head over the water', [
      use('FM-2900', 0, 0, 0),
      use('FM-3201', 50, 0, 20, LYING),
      use('FM-3202', 50 + stage.armLength, 0, 20, LYING),
      use('FM-3203', 46, 0, 20, LYING),
      use('FM-2210', 110 + stage.armLength, 0, -76),
      ...shape.corners(60, 60).map(([y, z]) => use('FM-9002', 58 + stage.armLength, y, 20 + z, LYING)),
    ]),
    assembly('FM-2310', 'Logger board', 'Circuit board with standoffs', [
      use('FM-3311', 0, 0, 8),
      ...shape.corners(148, 88).map(([x, y]) => use('FM-3312', x, y, 0)),
    ]),
    assembly('FM-2300', 'Logger enclosure', 'Logger, modem and charge controller', [
      use('FM-3301', 0, 0, 0),
      use('FM-3302', 0, 0, 180),
      use('FM-3303', -130, 60, 20),
      use('FM-3303', -130, -60, 20),
      use('FM-2310', 0, 0, 30),
      use('FM-2900', 0, 150, -160, UNFACING),
      use('FM-2900', 0, -150, -160, UNFACING),
      ...Array.from({ length: stage.sunRoof ? 4 : 3 }, (_, index) =>
        use('FM-9101', -90 + 60 * index, -200, 60),
      ),
      use(stage.hingeLeft ? 'FM-9103' : 'FM-9102', -40, -200, 110),
      use(stage.hingeLeft ? 'FM-9103' : 'FM-9102', 40, -200, 110),
      use('FM-9501', 110, -180, 60),
      ...(stage.sunRoof
        ? [use('FM-3304', 0, 0, 215), ...shape.corners(280, 380).map(([x, y]) => use('FM-9006', x, y, 217))]
        : []),
    ]),
    assembly('FM-2400', 'Solar panel unit', 'Panel with frame and tilt', [
      use('FM-9301', 0, 0, 4),
      use('FM-3401', 0, 0, 0),
      use('FM-3402', -100, 0, -30),
      use('FM-3402', 100, 0, -30),
      use('FM-2900', 0, -134.4, -219.2, UNTILTED),
      ...shape.corners(200, 60).map(([x, y]) => use('FM-9002', x, y, -5)),
    ]),
    assembly('FM-2500', 'Battery unit', 'Tray with battery', [
      use('FM-3501', 0, 0, 0),
      use('FM-9401', 0, 0, 2),
      use('FM-3502', -30, 0, 2),
      use('FM-3502', 30, 0, 2),
      use('FM-2900', 0, -170, 0),
    ]),
    assembly('FM-1000', 'River stage station', 'Measures water level by radar, sends it every ten minutes', [
      use('FM-2100', 0, 0, 0),
      use('FM-2200', 0, 0, 2700),
      use('FM-2300', 0, 160, height, FACING),
      use('FM-2400', 0, -60, 2850, TILTED),
      use('FM-2500', 0, 170, height - 500),
      // Drawn by mistake in the first model: these bolts come with the clamps.
      ...(stage.hingeLeft ? [] : shape.corners(60, 40).map(([x, y]) => use('FM-9002', x, y, height + 20))),
    ]),
  ];
}

/** Three rows of a turn: where the used item's x, y and z come to lie. */
type Turn = readonly [number, number, number, number, number, number, number, number, number];

/** Its z points along x: tubes that lie. */
const LYING: Turn = [0, 0, 1, 0, 1, 0, -1, 0, 0];
/** Its z points along y: boxes that open to the front. */
const FACING: Turn = [1, 0, 0, 0, 0, 1, 0, -1, 0];
/** Upright within what faces the front. */
const UNFACING: Turn = [1, 0, 0, 0, 0, -1, 0, 1, 0];
/** Half a right angle back from the sun, and upright within that. */
const HALF = Math.round(Math.SQRT1_2 * 1e12) / 1e12;
const TILTED: Turn = [1, 0, 0, 0, HALF, -HALF, 0, HALF, HALF];
const UNTILTED: Turn = [1, 0, 0, 0, HALF, HALF, 0, -HALF, HALF];

/** A use at a position, turned; a number turns about the upright axis by so many degrees. */
function use(number: string, x: number, y: number, z: number, turn: number | Turn = 0): Use {
  const [a, b, c, d, e, f, g, h, i] = typeof turn === 'number' ? aboutZ(turn) : turn;
  return { number, at: [a, b, c, x, d, e, f, y, g, h, i, z] };
}

function aboutZ(degrees: number): Turn {
  const angle = (degrees * Math.PI) / 180;
  const round = (value: number): number => Math.round(value * 1e12) / 1e12;
  const [cos, sin] = [round(Math.cos(angle)), round(Math.sin(angle))];
  return [cos, -sin, 0, sin, cos, 0, 0, 0, 1];
}
