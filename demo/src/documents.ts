/** Documents of the made-up maker: what they are called, where they lie and what they say. */
import { pdf, workbook } from './papers.js';
import type { Model, PartModel } from './models.js';

export interface DemoDocument {
  /** Relative to the folder that comes in. */
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** Bought parts that came with a datasheet, with what it says beyond the description. */
const DATASHEETS: Readonly<Record<string, readonly (readonly [string, string])[]>> = {
  'FM-9101': [
    ['Clamping range', '6 to 12 mm'],
    ['Protection', 'IP 68, 5 bar'],
    ['Temperature', '-40 to 100 °C'],
  ],
  'FM-9102': [
    ['Clamping range', '4 to 8 mm'],
    ['Protection', 'IP 68, 5 bar'],
    ['Temperature', '-40 to 100 °C'],
  ],
  'FM-9103': [
    ['Air flow', '180 ml/min at 70 mbar'],
    ['Protection', 'IP 67'],
    ['Membrane', 'ePTFE'],
  ],
  'FM-9105': [
    ['Clamping range', '10 to 16 mm'],
    ['Protection', 'IP 68, 5 bar'],
  ],
  'FM-9201': [
    ['Contacts', '4, gold-plated'],
    ['Current', '4 A'],
    ['Protection', 'IP 67'],
  ],
  'FM-9202': [
    ['Contacts', '5, gold-plated'],
    ['Current', '4 A'],
    ['Protection', 'IP 67'],
  ],
  'FM-9300': [
    ['Rated power', '10 W'],
    ['Open-circuit voltage', '21.8 V'],
    ['Short-circuit current', '0.62 A'],
  ],
  'FM-9301': [
    ['Rated power', '20 W'],
    ['Open-circuit voltage', '21.9 V'],
    ['Short-circuit current', '1.24 A'],
  ],
  'FM-9302': [
    ['Rated power', '40 W'],
    ['Open-circuit voltage', '22.1 V'],
    ['Short-circuit current', '2.41 A'],
  ],
  'FM-9310': [
    ['Charging current', '10 A'],
    ['Own consumption', '4 mA'],
    ['Temperature compensation', '-24 mV/K'],
  ],
  'FM-9400': [
    ['Capacity', '12 Ah at 20 h'],
    ['Inner resistance', '16 mΩ'],
    ['Service life', '8 years'],
  ],
  'FM-9401': [
    ['Capacity', '24 Ah at 20 h'],
    ['Inner resistance', '11 mΩ'],
    ['Service life', '8 years'],
  ],
  'FM-9402': [
    ['Capacity', '40 Ah at 20 h'],
    ['Inner resistance', '8 mΩ'],
    ['Service life', '10 years'],
  ],
  'FM-9503': [
    ['Bands', 'L1, L5'],
    ['Gain', '28 dB'],
    ['Phase centre variation', '±2 mm'],
  ],
  'FM-9505': [
    ['Range', '0 to 10 m'],
    ['Accuracy', '0.1 % of range'],
    ['Output', '4 to 20 mA'],
  ],
  'FM-9506': [
    ['Resistance', '10 kΩ at 25 °C'],
    ['Tolerance', '±0.2 K'],
  ],
  'FM-9507': [
    ['Range', '0.5 to 10 m'],
    ['Accuracy', '±10 mm'],
    ['Beam angle', '22°'],
  ],
  'FM-9508': [
    ['Resolution', '0.1 mm'],
    ['Accuracy', '±2 % up to 200 mm/h'],
  ],
  'FM-9614': [
    ['Core', '32 bit, 80 MHz'],
    ['Flash', '1 MB'],
    ['Sleep current', '1.1 µA'],
  ],
  'FM-9616': [
    ['Resolution', '24 bit'],
    ['Rate', '10 to 3840 per second'],
    ['Noise', '16 nV'],
  ],
  'FM-9617': [
    ['Input', '4.5 to 36 V'],
    ['Output', '5 V, 2 A'],
    ['Quiescent current', '25 µA'],
  ],
  'FM-9618': [
    ['Bus load', '1/8'],
    ['Rate', '500 kbit/s'],
    ['Protection', '±15 kV'],
  ],
  'FM-9623': [
    ['Bands', '1, 3, 8, 20, 28'],
    ['Peak current', '0.55 A at 3.8 V'],
  ],
};

export async function datasheets(
  models: readonly Model[],
  at: string,
  fileName: (model: Model, ending: string) => string,
): Promise<DemoDocument[]> {
  const bought = models.filter((model): model is PartModel => model.number in DATASHEETS);
  return Promise.all(
    bought.map(async (model) => ({
      path: `${model.folder}/${fileName(model, 'pdf')}`,
      bytes: await pdf({
        title: `Datasheet: ${model.name}`,
        subject: model.description,
        author: 'Purchasing',
        at,
        paragraphs: [
          `${model.name}, as bought by Fenmark Hydrometrics under ${model.number}. Values hold at 20 °C unless said otherwise.`,
          'Samples of every delivery are inspected on arrival; deviations go to the engineer named in the item.',
        ],
        rows: [...(DATASHEETS[model.number] ?? []), ['Material', model.material]],
      }),
    })),
  );
}

export async function specifications(at: string): Promise<DemoDocument[]> {
  return [
    {
      path: 'Requirements/FM-1000-S.pdf',
      bytes: await pdf({
        title: 'Requirement specification, river stage station',
        subject: 'What the station has to do, and how that is shown',
        author: 'Ines Halvorsen',
        at,
        paragraphs: [
          'R1 The station measures the water level without touching the water, from 1 to 15 m, with an uncertainty of at most 10 mm.',
          'R2 It works for thirty days without sun at -20 °C, sending every ten minutes.',
          'R3 Every part that can fall into the water is secured twice.',
          'R4 The enclosure keeps out water at IP 66; condensation leaves through vent plugs.',
          'R5 Two people mount the station in half a day with hand tools. No part is heavier than 25 kg.',
          'R6 The arm turns back over the bank for service; nobody leans out over the water.',
          'R7 The logger survives 70 °C in the enclosure: in direct sun a roof with an air gap is needed.',
          'R8 Lightning strikes nearby do not damage the logger (surge arrester on every line that leaves the enclosure).',
        ],
      }),
    },
    {
      path: 'Requirements/FM-1100-S.pdf',
      bytes: await pdf({
        title: 'Requirement specification, tide station',
        subject: 'What the station has to do, and how that is shown',
        author: 'Teodor Wick',
        at,
        paragraphs: [
          'T1 Sea level is tied to the national datum by a GNSS antenna within 15 mm.',
          'T2 Waves of 2 m are damped to 20 mm by a stilling tube.',
          'T3 Everything below the splash line is stainless steel or polyethylene and is protected by anodes.',
          'T4 The tube is cleaned from above without a diver.',
        ],
      }),
    },
    {
      path: 'Requirements/FM-1000-M.pdf',
      bytes: await pdf({
        title: 'Mounting manual, river stage station',
        subject: 'For two people and half a day',
        author: 'Maren Oduya',
        at,
        paragraphs: [
          '1. Set the base plate on the foundation and tighten the four M12 bolts with 60 Nm.',
          '2. Clamp arm, enclosure, solar panel and battery to the mast from the top down; clamp bolts M8 with 18 Nm.',
          '3. Level the sensor head: the horn points straight down within 1°.',
          '4. Lead all cables through the glands at the bottom, with a drip loop.',
          '5. Turn the panel to the south and tilt it to 60° where snow is likely.',
        ],
      }),
    },
  ];
}

/** What purchasing keeps to itself. */
export async function terms(at: string): Promise<DemoDocument[]> {
  return [
    {
      path: 'Price list 2027.xlsx',
      bytes: await workbook('Price list 2027', at, [
        {
          name: 'Prices',
          rows: [
            ['Item', 'Price for 10', 'Price for 100', 'Lead time weeks'],
            ['FM-9101', 2.4, 1.9, 2],
            ['FM-9301', 38, 33.5, 6],
            ['FM-9401', 61, 55, 4],
            ['FM-9503', 420, 395, 10],
            ['FM-9507', 310, 288, 8],
          ],
        },
      ]),
    },
    {
      path: 'Framework agreement glands.pdf',
      bytes: await pdf({
        title: 'Framework agreement, cable glands',
        subject: 'Quantities and prices for two years',
        author: 'Pavo Lindqvist',
        at,
        paragraphs: [
          'At least 2000 glands a year are taken, of any size. Prices fall by 4 % beyond 3000.',
          'Late deliveries of more than two weeks are credited with 3 % of their value.',
        ],
      }),
    },
  ];
}

/** As a supplier writes: numbers with a blank or without a dash, pieces with a decimal comma, an article nobody asked for. */
const OFFERED: readonly (readonly (string | number)[])[] = [
  [10, 'FM-9002', 'BF 0830 A4', 'Hexagon bolt M8 x 30 A4', '20,0', 'Stk', 0.31],
  [20, 'FM 9004', 'BF 1240 A4', 'Hexagon bolt M12 x 40 A4', '4,0', 'Stk', 0.92],
  [30, 'FM-9006', 'BF 0516 A2', 'Cap screw M5 x 16 A2', '4,0', 'Stk', 0.07],
  [40, 'FM9014', 'BF W12', 'Washer 12 A4', '8,0', 'Stk', 0.05],
  [50, 'FM-9101', 'BF G20', 'Cable gland M20, nickel-plated', '6,0', 'Stk', 2.25],
  [60, 'FM-9103', 'BF V16', 'Vent plug M16', '2,0', 'Stk', 4.4],
  [70, '', 'BF AS 5', 'Anti-seize paste, tube', '0,05', 'kg', 18.9],
];

export async function lists(at: string): Promise<DemoDocument[]> {
  return [
    {
      path: 'Lists/FM-1000-L.xlsx',
      bytes: await workbook('Cable list, river stage station', at, [
        {
          name: 'Cables',
          rows: [
            ['Cable', 'From', 'To', 'Type', 'Length m', 'Gland'],
            ['W1', 'Radar sensor head', 'Logger J1', '4 × 0.34 mm²', 4.5, 'M16'],
            ['W2', 'Solar panel', 'Charge controller', '2 × 1.5 mm²', 3, 'M20'],
            ['W3', 'Battery', 'Charge controller', '2 × 2.5 mm²', 1.2, 'M20'],
            ['W4', 'LTE antenna', 'Modem', 'Coaxial', 2, 'M16'],
            ['W5', 'Rain gauge', 'Logger J3', '2 × 0.34 mm²', 6, 'M20'],
          ],
        },
        {
          name: 'Terminals',
          rows: [
            ['Terminal', 'Signal', 'Wire'],
            ['J1.1', 'Radar +', 'W1 brown'],
            ['J1.2', 'Radar −', 'W1 white'],
            ['J3.1', 'Rain pulse', 'W5 brown'],
            ['J3.2', 'Rain return', 'W5 white'],
          ],
        },
      ]),
    },
    {
      path: 'Lists/FM-2310-L.xlsx',
      bytes: await workbook('Placement list, logger board', at, [
        {
          name: 'Placement',
          rows: [
            ['Designator', 'Item', 'Side'],
            ['U1', 'FM-9614', 'top'],
            ['U8', 'FM-9623', 'top'],
            ['J1 to J5', 'FM-9621', 'top'],
          ],
        },
      ]),
    },
    {
      path: 'Lists/Offer 4711 Brackwater Fixings.xlsx',
      bytes: await workbook('Offer 4711', at, [
        {
          name: 'Offer',
          rows: [
            ['Offer 4711, Brackwater Fixings'],
            ['To Fenmark Hydrometrics; valid for 60 days; prices without tax'],
            [],
            ['Pos.', 'Your ref.', 'Our article', 'Description', 'Qty', 'UoM', 'Price EUR each'],
            ...OFFERED,
          ],
        },
      ]),
    },
    {
      path: 'Lists/Spare parts.csv',
      bytes: new TextEncoder().encode(
        'item,name,pieces per ten stations\r\nFM-9101,Cable gland M20,10\r\nFM-9103,Vent plug M16,5\r\nFM-9401,Battery 12 V 24 Ah,2\r\nFM-9311,Fuse holder,3\r\n',
      ),
    },
    {
      path: 'Lists/Field notes 2025.txt',
      bytes: new TextEncoder().encode(
        'Field notes, winter 2024/25\n\nUpper Fen bridge: the arm iced over twice, the beam saw the icicles. Longer arm helps.\nSaltmarsh pier: weed in the inlet grid every six weeks. Bracket shows pitting near the welds: anodes?\nRidge hut: tilt bracket bent 12° under wet snow. 4 mm sheet from now on.\n',
      ),
    },
    {
      path: 'Lists/Beam footprint.svg',
      bytes: new TextEncoder().encode(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 240 160"><rect width="240" height="160" fill="#f4f6f6"/><path d="M120 20 92 140h56Z" fill="#9cc7cc"/><path d="M20 140h200" stroke="#22313a" stroke-width="2"/><rect x="108" y="8" width="24" height="14" fill="#22313a"/><text x="150" y="90" font-family="sans-serif" font-size="11" fill="#22313a">10° beam</text><text x="24" y="154" font-family="sans-serif" font-size="10" fill="#22313a">water level</text></svg>\n',
      ),
    },
  ];
}
