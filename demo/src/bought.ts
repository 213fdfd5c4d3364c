/** Standard and bought parts, as tables: what differs between two bolts is their size. */
import type { Shape3D } from 'replicad';
import {
  ALUMINIUM,
  NYLON,
  POLYCARBONATE,
  STAINLESS,
  STEEL,
  type Material,
  type PartModel,
} from './models.js';
import * as shape from './shapes.js';

export const STANDARD = 'Standard parts';
export const ELECTRONICS = 'Electronic parts';

function bought(
  number: string,
  name: string,
  material: Material,
  description: string,
  build: () => Shape3D,
  folder = STANDARD,
): PartModel {
  return { kind: 'part', number, name, folder, description, source: 'bought', ...material, build };
}

/** Number, thread, length, width across flats, height of the head; ISO 4017. */
const BOLTS: readonly (readonly [string, number, number, number, number])[] = [
  ['FM-9001', 6, 20, 10, 4],
  ['FM-9002', 8, 30, 13, 5.3],
  ['FM-9003', 10, 40, 16, 6.4],
  ['FM-9004', 12, 40, 18, 7.5],
  ['FM-9005', 4, 12, 7, 2.8],
  ['FM-9006', 5, 16, 8, 3.5],
  ['FM-9007', 8, 50, 13, 5.3],
  ['FM-9008', 12, 60, 18, 7.5],
  ['FM-9009', 16, 80, 24, 10],
];
/** Number, hole, outer diameter, thickness; ISO 7089. */
const WASHERS: readonly (readonly [string, number, number, number])[] = [
  ['FM-9011', 6.4, 12, 1.6],
  ['FM-9012', 8.4, 16, 1.6],
  ['FM-9013', 10.5, 20, 2],
  ['FM-9014', 13, 24, 2.5],
  ['FM-9015', 4.3, 9, 0.8],
  ['FM-9016', 5.3, 10, 1],
  ['FM-9017', 17, 30, 3],
];
/** Number, thread, width across flats, height; ISO 4032. */
const NUTS: readonly (readonly [string, number, number, number])[] = [
  ['FM-9021', 6, 10, 5.2],
  ['FM-9022', 8, 13, 6.8],
  ['FM-9023', 10, 16, 8.4],
  ['FM-9024', 12, 18, 10.8],
  ['FM-9025', 5, 8, 4.7],
  ['FM-9026', 16, 24, 14.8],
];
/** Number, thread, width across flats, length, what it clamps. */
const GLANDS: readonly (readonly [string, number, number, number, string])[] = [
  ['FM-9101', 20, 24, 38, '6 to 12 mm'],
  ['FM-9102', 16, 19, 32, '4 to 8 mm'],
  ['FM-9104', 12, 15, 27, '2 to 5 mm'],
  ['FM-9105', 25, 30, 44, '10 to 16 mm'],
];
/** Number, kind, poles, length. */
const CONNECTORS: readonly (readonly [string, string, number, number])[] = [
  ['FM-9201', 'socket', 4, 42],
  ['FM-9202', 'socket', 5, 42],
  ['FM-9203', 'socket', 8, 44],
  ['FM-9204', 'plug', 4, 48],
  ['FM-9205', 'plug', 5, 48],
  ['FM-9206', 'plug', 8, 50],
];

const GLASS: Material = { material: 'Glass, aluminium', densityKgM3: 2300, colour: '#26384f' };
const CELL: Material = { material: 'Lead, AGM', densityKgM3: 2600, colour: '#4a4f54' };
const DEVICE: Material = { material: 'Assembled device', densityKgM3: 1400, colour: '#56636b' };
const BRASS: Material = { material: 'Brass, nickel-plated', densityKgM3: 8400, colour: '#c8b98a' };

export function boughtParts(): PartModel[] {
  return [
    ...BOLTS.map(([number, thread, length, flats, head]) =>
      bought(number, `Hexagon bolt M${thread}×${length}`, STAINLESS, 'ISO 4017', () =>
        shape.bolt(thread, length, flats, head),
      ),
    ),
    ...WASHERS.map(([number, hole, outer, thickness]) =>
      bought(number, `Washer ${hole}`, STAINLESS, 'ISO 7089', () => shape.washer(hole, outer, thickness)),
    ),
    ...NUTS.map(([number, thread, flats, height]) =>
      bought(number, `Hexagon nut M${thread}`, STAINLESS, 'ISO 4032', () => shape.nut(thread, flats, height)),
    ),
    ...GLANDS.map(([number, thread, flats, length, clamps]) =>
      bought(number, `Cable gland M${thread}`, NYLON, `IP 68, clamps ${clamps}`, () =>
        shape.gland(thread, flats, length),
      ),
    ),
    bought('FM-9103', 'Vent plug M16', NYLON, 'IP 67, lets pressure out and no water in', () =>
      shape.gland(16, 22, 20),
    ),
    bought('FM-9106', 'Blanking plug M20', NYLON, 'IP 68', () => shape.bolt(20, 10, 24, 5)),
    ...CONNECTORS.map(([number, kind, poles, length]) =>
      bought(number, `M12 ${kind}, ${poles} poles`, BRASS, 'IP 67, A-coded', () =>
        shape.gland(12, 15, length),
      ),
    ),
    ...([10, 20, 40] as const).map((watts, index) =>
      bought(
        ['FM-9300', 'FM-9301', 'FM-9302'][index] ?? '',
        `Solar panel ${watts} W`,
        GLASS,
        'Monocrystalline, 12 V',
        () => shape.block(350, [250, 480, 680][index] ?? 0, 17, 4),
      ),
    ),
    bought('FM-9310', 'Charge controller 10 A', DEVICE, 'Temperature-compensated', () =>
      shape.block(100, 80, 32, 3),
    ),
    bought('FM-9311', 'Fuse holder', NYLON, 'For rail mounting', () => shape.block(60, 12, 45, 1)),
    bought('FM-9312', 'Terminal 2.5 mm²', NYLON, 'For rail mounting', () => shape.block(48, 5.2, 42, 0.5)),
    ...([12, 24, 40] as const).map((charge, index) =>
      bought(
        ['FM-9400', 'FM-9401', 'FM-9402'][index] ?? '',
        `Battery 12 V ${charge} Ah`,
        CELL,
        'Maintenance-free',
        () =>
          shape.block([151, 166, 197][index] ?? 0, [98, 175, 165][index] ?? 0, [95, 125, 170][index] ?? 0, 3),
      ),
    ),
    bought('FM-9502', 'Lightning rod 1 m', ALUMINIUM, 'Tapered, 10 mm', () => shape.tube(10, 4, 1000)),
    bought('FM-9503', 'GNSS antenna', POLYCARBONATE, 'L1 and L5, with ground plane', () =>
      shape.disc(146, 62, [], 1),
    ),
    bought('FM-9504', 'LTE antenna', NYLON, 'Omnidirectional, M16', () => shape.disc(80, 90, [], 1)),
    bought('FM-9505', 'Pressure probe', STAINLESS, '0 to 10 m, 4 to 20 mA', () => shape.tube(22, 6, 180)),
    bought('FM-9506', 'Thermistor probe', STAINLESS, '10 kΩ at 25 °C', () => shape.tube(6, 2, 50)),
    bought('FM-9507', 'Ultrasonic snow sensor', NYLON, '50 kHz, 0.5 to 10 m', () => shape.drum(75, 290, 20)),
    bought('FM-9508', 'Tipping bucket', ALUMINIUM, '0.1 mm resolution', () => shape.drum(160, 90, 3)),
    bought('FM-9509', 'Hose clamp 90–110', STAINLESS, 'DIN 3017', () => shape.tube(110, 1, 12)),
    bought('FM-9510', 'Padlock', BRASS, 'Keyed alike', () => shape.block(40, 14, 34, 3)),
    bought('FM-9511', 'Eye bolt M8', STEEL, 'DIN 580', () => shape.tube(36, 8, 8)),
    ...electronicParts(),
  ];
}

const CHIP: Material = { material: 'Epoxy moulding compound', densityKgM3: 1900, colour: '#23272a' };
const CERAMIC: Material = { material: 'Ceramic', densityKgM3: 3900, colour: '#b9a98c' };
const PIN: Material = { material: 'Polyamide 46', densityKgM3: 1400, colour: '#2d5f4f' };

/** Number, name, body, width, depth, height. */
const COMPONENTS: readonly (readonly [string, string, Material, number, number, number])[] = [
  ['FM-9601', 'Resistor 10 kΩ 0603', CERAMIC, 1.6, 0.8, 0.45],
  ['FM-9602', 'Resistor 1 kΩ 0603', CERAMIC, 1.6, 0.8, 0.45],
  ['FM-9603', 'Resistor 100 Ω 0603', CERAMIC, 1.6, 0.8, 0.45],
  ['FM-9604', 'Shunt 10 mΩ 2512', CERAMIC, 6.3, 3.2, 0.6],
  ['FM-9605', 'Capacitor 100 nF 0603', CERAMIC, 1.6, 0.8, 0.8],
  ['FM-9606', 'Capacitor 10 µF 0805', CERAMIC, 2, 1.25, 1.25],
  ['FM-9607', 'Capacitor 22 pF 0603', CERAMIC, 1.6, 0.8, 0.8],
  ['FM-9608', 'Electrolytic capacitor 470 µF', ALUMINIUM, 10, 10, 10.5],
  ['FM-9609', 'Inductor 22 µH', CHIP, 7, 7, 4],
  ['FM-9610', 'Diode, Schottky 40 V', CHIP, 4.3, 2.6, 2.2],
  ['FM-9611', 'Suppressor diode 24 V', CHIP, 4.3, 3.6, 2.3],
  ['FM-9612', 'Light diode green', CERAMIC, 2, 1.25, 0.8],
  ['FM-9613', 'Transistor, N-channel 60 V', CHIP, 2.9, 1.3, 1.1],
  ['FM-9614', 'Microcontroller, 100 pins', CHIP, 14, 14, 1.4],
  ['FM-9615', 'Flash memory 16 MB', CHIP, 5.2, 5.2, 1.9],
  ['FM-9616', 'Converter, analogue to digital, 24 bit', CHIP, 6.4, 5, 1.2],
  ['FM-9617', 'Step-down converter 5 V', CHIP, 4.9, 3.9, 1.5],
  ['FM-9618', 'Bus driver RS-485', CHIP, 4.9, 3.9, 1.5],
  ['FM-9619', 'Real-time clock', CHIP, 3.2, 2.5, 1],
  ['FM-9620', 'Crystal 16 MHz', STAINLESS, 5, 3.2, 1],
  ['FM-9621', 'Terminal block, 4 poles', PIN, 20, 8, 10],
  ['FM-9622', 'Pin header, 10 poles', PIN, 12.7, 5, 8.5],
  ['FM-9623', 'LTE modem module', STAINLESS, 30, 30, 2.5],
  ['FM-9624', 'Card holder', STAINLESS, 14, 15, 1.9],
];

function electronicParts(): PartModel[] {
  return COMPONENTS.map(([number, name, material, width, depth, height]) =>
    bought(
      number,
      name,
      material,
      'Surface-mounted',
      () => shape.block(width, depth, height, Math.min(width, depth) * 0.08),
      ELECTRONICS,
    ),
  );
}
