/** Two products that somebody is still at work on: all of it draft. */
import {
  ALUMINIUM,
  assembled,
  designed,
  POLYETHYLENE,
  STAINLESS,
  use,
  type AssemblyModel,
  type PartModel,
} from './models.js';
import * as shape from './shapes.js';

const WELL = 'Groundwater logger';
const RAIN = 'Rain gauge';

export function halfDoneParts(): PartModel[] {
  const well = designed(WELL);
  const rain = designed(RAIN);
  return [
    well('FM-4301', 'Well head', ALUMINIUM, 'For 2″ pipes', () => shape.drum(76, 120, 6)),
    well('FM-4302', 'Well cap', ALUMINIUM, 'Locks with a padlock', () => shape.disc(84, 12, [[30, 0]], 8)),
    well('FM-4303', 'Probe hanger', STAINLESS, 'Holds the cable without kinking it', () =>
      shape.angle(50, 60, 20, 2, 6.6),
    ),
    rain('FM-4401', 'Funnel', POLYETHYLENE, '200 cm² opening', () => shape.horn(160, 30, 180, 3)),
    rain('FM-4402', 'Gauge body', ALUMINIUM, 'Holds funnel and bucket', () => shape.tube(170, 2, 320)),
    rain('FM-4403', 'Bucket plate', ALUMINIUM, 'With level', () =>
      shape.disc(164, 6, shape.corners(90, 90), 5.5),
    ),
    rain('FM-4404', 'Insect screen', STAINLESS, 'Pressed into the funnel', () =>
      shape.disc(28, 1, [[0, 0]], 4),
    ),
  ];
}

export function halfDoneAssemblies(): AssemblyModel[] {
  const well = assembled(WELL);
  const rain = assembled(RAIN);
  return [
    well('FM-2710', 'Probe string', 'Probe on its cable', [
      use('FM-9505', 0, 0, -3000),
      use('FM-4303', 0, 0, 0),
      use('FM-9506', 12, 0, -2900),
    ]),
    well('FM-1200', 'Groundwater logger', 'Level and temperature in a 2″ well', [
      use('FM-4301', 0, 0, 0),
      use('FM-4302', 0, 0, 120),
      use('FM-2710', 0, 0, 100),
      use('FM-9510', 34, 0, 110),
      use('FM-2310', 0, 0, 60),
    ]),
    rain('FM-2810', 'Bucket unit', 'Tipping bucket on its plate', [
      use('FM-4403', 0, 0, 0),
      use('FM-9508', 0, 0, 6),
      ...shape.corners(90, 90).map(([x, y]) => use('FM-9006', x, y, 6)),
    ]),
    rain('FM-1300', 'Rain gauge', 'Stands beside the river station', [
      use('FM-4402', 0, 0, 0),
      use('FM-4401', 0, 0, 250),
      use('FM-4404', 0, 0, 250),
      use('FM-2810', 0, 0, 40),
      use('FM-9104', 80, 0, 20),
      use('FM-9204', 90, 0, 20),
    ]),
  ];
}
