/** The tide station: the radar looks down a stilling tube at a pier, a GNSS antenna ties it to the datum. */
import {
  ALUMINIUM,
  assembled,
  designed,
  FACING,
  POLYETHYLENE,
  STAINLESS,
  STEEL,
  TILTED,
  use,
  ZINC,
  type AssemblyModel,
  type PartModel,
} from './models.js';
import * as shape from './shapes.js';

const FOLDER = 'Tide station';

/** Configurations: fed by its own panel or from the pier, tied to the datum or not. */
const SUN = 'Sun powered';
const PIER = 'Pier powered';
const NO_DATUM = 'Without datum';

export interface TideStage {
  /** Zinc anodes came after the first winter in salt water. */
  readonly anodes: boolean;
}

export function tideParts(stage: TideStage): PartModel[] {
  const made = designed(FOLDER);
  const square = shape.corners;
  return [
    made('FM-4101', 'Pier plate', STAINLESS, 'Anchored in the pier wall', () =>
      shape.plate(300, 400, 10, square(240, 340), 18),
    ),
    made('FM-4102', 'Pier bracket arm', STAINLESS, 'Carries mast and stilling tube', () =>
      shape.frame(420, 120, 40, 60),
    ),
    made('FM-4103', 'Bracket brace', STAINLESS, '45°, welded', () => shape.angle(260, 260, 40, 6, 14)),
    made('FM-4104', 'Stilling tube 160', POLYETHYLENE, 'Damps the waves, 4 m', () =>
      shape.tube(160, 9.1, 4000),
    ),
    made('FM-4105', 'Tube inlet grid', POLYETHYLENE, 'Keeps weed and fish out', () =>
      shape.disc(142, 12, [...square(60, 60), ...square(90, 0.1), [0, 0]], 14),
    ),
    made('FM-4106', 'Tube guide', POLYETHYLENE, 'Slides in the bracket arm', () => shape.tube(200, 19, 30)),
    made('FM-4107', 'Well cover', ALUMINIUM, 'With seat for the sensor head', () =>
      shape.disc(240, 8, square(150, 150), 9),
    ),
    made('FM-4108', 'Antenna pole', ALUMINIUM, 'For the GNSS antenna, 1.2 m', () => shape.tube(40, 3, 1200)),
    made('FM-4109', 'Antenna plate', ALUMINIUM, 'Levelled with three screws', () =>
      shape.disc(160, 8, square(80, 80), 6.6),
    ),
    ...(stage.anodes
      ? [
          made('FM-4110', 'Anode', ZINC, 'Protects bracket and plate, 1.2 kg', () =>
            shape.block(120, 60, 24, 6),
          ),
        ]
      : []),
    made('FM-4111', 'Cable duct', STEEL, 'From the enclosure to the well', () => shape.tray(60, 600, 40, 2)),
  ];
}

export function tideAssemblies(stage: TideStage): AssemblyModel[] {
  const assembly = assembled(FOLDER);
  return [
    assembly('FM-2610', 'Pier bracket', 'Welded, all stainless', [
      use('FM-4101', 0, 0, 0, FACING),
      use('FM-4102', 0, 240, 80),
      use('FM-4103', -120, 40, -200),
      use('FM-4103', 120, 40, -200),
      ...shape.corners(240, 340).map(([x, z]) => use('FM-9009', x, 12, z, FACING)),
      ...shape.corners(240, 340).map(([x, z]) => use('FM-9017', x, 11, z, FACING)),
      ...(stage.anodes ? [use('FM-4110', -60, 20, -120, FACING), use('FM-4110', 60, 20, -120, FACING)] : []),
    ]),
    assembly('FM-2620', 'Stilling well', 'Tube with inlet grid, guides and cover', [
      use('FM-4104', 0, 0, 0),
      use('FM-4105', 0, 0, -12),
      use('FM-4106', 0, 0, 900),
      use('FM-4106', 0, 0, 2900),
      use('FM-4107', 0, 0, 4000),
      use('FM-9509', 0, 0, 920),
      use('FM-9509', 0, 0, 2920),
      ...shape.corners(150, 150).map(([x, y]) => use('FM-9002', x, y, 4008)),
      use('FM-2210', 0, 0, 4140),
    ]),
    assembly('FM-2630', 'Antenna unit', 'GNSS antenna on a pole', [
      use('FM-4108', 0, 0, 0),
      use('FM-4109', 0, 0, 1200),
      use('FM-9503', 0, 0, 1208),
      ...shape.corners(80, 80).map(([x, y]) => use('FM-9001', x, y, 1208)),
    ]),
    assembly('FM-2640', 'Cable run', 'Duct with glands', [
      use('FM-4111', 0, 0, 0),
      use('FM-9105', 0, -300, 20),
      use('FM-9105', 0, 300, 20),
      use('FM-9104', 20, -300, 20),
    ]),
    assembly('FM-1100', 'Tide station', 'Measures sea level at a pier, tied to the national datum', [
      use('FM-2610', 0, 0, 3000),
      use('FM-2620', 0, 340, 0),
      { ...use('FM-2630', -160, 240, 3160), only: [SUN, PIER] },
      { ...use('FM-2640', 140, 40, 3200), only: [PIER] },
      use('FM-2300', 0, 60, 4300, FACING),
      { ...use('FM-2400', 0, 0, 5200, TILTED), only: [SUN, NO_DATUM] },
      { ...use('FM-2500', 300, 80, 3400), only: [SUN, NO_DATUM] },
      use('FM-9502', 200, 200, 4200),
    ]),
  ];
}
