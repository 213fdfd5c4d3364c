/** Three years of the demo's history: who brought in what, derived, released, withdrew, and holds now. */
import { OPTIONS } from './options.js';
import { RIVER_RECIPE, RIVER_SHEETS } from './recipe.js';
import type { RiverStage } from './river-station.js';
import type { TideStage } from './tide-station.js';

export interface Person {
  readonly login: string;
  readonly name: string;
  readonly initials: string;
  readonly role: 'engineer' | 'checker' | 'planner' | 'viewer' | 'administrator';
  readonly password: string;
}

/** Made-up people of a made-up maker. */
export const PEOPLE: readonly Person[] = [
  { login: 'admin', name: 'Odalys Brandt', initials: 'OB', role: 'administrator', password: 'fenmark-admin' },
  { login: 'ines', name: 'Ines Halvorsen', initials: 'IH', role: 'engineer', password: 'fenmark-ines' },
  { login: 'teodor', name: 'Teodor Wick', initials: 'TW', role: 'engineer', password: 'fenmark-teodor' },
  { login: 'maren', name: 'Maren Oduya', initials: 'MO', role: 'checker', password: 'fenmark-maren' },
  { login: 'pavo', name: 'Pavo Lindqvist', initials: 'PL', role: 'planner', password: 'fenmark-pavo' },
  { login: 'jonas', name: 'Jonas Eklund', initials: 'JE', role: 'viewer', password: 'fenmark-jonas' },
  // Orders of the shop stand-in are made in its name.
  { login: 'shop', name: 'Shop of Fenmark', initials: 'SF', role: 'engineer', password: 'fenmark-shop' },
];

/** The designs as they were at a time. */
export interface Stage {
  readonly river: RiverStage;
  readonly tide: TideStage;
}

interface Happening {
  /** ISO 8601 */
  readonly at: string;
  readonly by: string;
}

/** One folder of files that comes in. */
export interface BringIn extends Happening {
  readonly kind: 'bring in';
  readonly folder: string;
  readonly comment: string;
  readonly stage: Stage;
  /** Models by folder or by number; both where both are given. */
  readonly folders?: readonly string[];
  readonly numbers?: readonly string[];
  readonly without?: readonly string[];
  /** Numbers of models whose drawings come in, or those of all models of these folders. */
  readonly drawings?: readonly string[];
  readonly papers?: 'datasheets' | 'specifications' | 'lists' | 'terms';
  /** That of the company where absent. */
  readonly place?: string;
  /** Items whose newest revision was released right after. */
  readonly release?: 'all' | readonly string[];
}

export interface Derive extends Happening {
  readonly kind: 'derive';
  readonly item: string;
  readonly place: string;
  readonly share: readonly string[];
  readonly replace: readonly { readonly from: string; readonly to: string }[];
}

export interface Hold extends Happening {
  readonly kind: 'hold';
  readonly items: readonly string[];
  readonly reason: string;
}

export interface Withdraw extends Happening {
  readonly kind: 'withdraw';
  readonly item: string;
  readonly reason: string;
}

/** A change request or order, as it was written, what it makes of what had come in by then, and how it went on. */
export interface Change extends Happening {
  readonly kind: 'change';
  readonly change: 'request' | 'order';
  readonly number: string;
  readonly name: string;
  readonly why: string;
  readonly urgency: string;
  /** Login. */
  readonly owner: string;
  readonly until: string;
  readonly lines: readonly { readonly relation: string; readonly item: string; readonly note?: string }[];
  readonly tasks: readonly {
    readonly key: string;
    readonly what: string;
    readonly who: string;
    readonly until: string;
    readonly doneAt?: string;
  }[];
  readonly costs: readonly { readonly kind: string; readonly what: string; readonly amount: string }[];
  readonly makes: readonly string[];
  readonly moves: readonly {
    readonly at: string;
    readonly by: string;
    readonly step: string;
    readonly done: string;
    readonly from: string;
    readonly to: string;
    readonly reason: string;
  }[];
}

/** Items that are checked together, and perhaps sent back with a point that was answered. */
export interface Check extends Happening {
  readonly kind: 'check';
  readonly items: readonly string[];
  readonly reason: string;
  readonly sentBack?: {
    readonly at: string;
    readonly by: string;
    readonly reason: string;
    readonly about: string;
    readonly point: string;
    readonly answer: string;
    readonly answeredAt: string;
  };
}

/** A place that only some may look into. */
export interface Shut extends Happening {
  readonly kind: 'shut';
  readonly place: string;
  readonly grants: readonly {
    readonly to:
      { readonly kind: 'role'; readonly role: string } | { readonly kind: 'person'; readonly login: string };
    readonly rights: readonly string[];
  }[];
}

/** Files that are issued of what was released then. */
export interface Issue extends Happening {
  readonly kind: 'issue';
  readonly items: readonly string[];
  readonly notes: string;
}

/** From when until when a row of an assembly counts. */
export interface Counts extends Happening {
  readonly kind: 'counts';
  readonly item: string;
  readonly row: string;
  readonly planned: string;
  readonly actual: string;
}

/** A bill is made of an item, or carried over; gets rows of its own; and is released. */
export interface Bill extends Happening {
  readonly kind: 'bill';
  readonly item: string;
  readonly number: string;
  readonly name: string;
  readonly place: string;
  readonly added: readonly {
    readonly name: string;
    readonly amount: string;
    readonly operation: string;
    readonly note: string;
  }[];
  readonly notes: string;
}

/** A recipe, and sheets of wishes that are fulfilled by it one after another. */
export interface Wishes extends Happening {
  readonly kind: 'wishes';
  readonly item: string;
  readonly number: string;
  readonly name: string;
  readonly place: string;
  readonly recipe: object;
  readonly sheets: readonly { readonly for: string; readonly wishes: Readonly<Record<string, string>> }[];
}

/** Later changes of its origin come into a variant, but for those that are left for later. */
export interface CarryOver extends Happening {
  readonly kind: 'carry over';
  readonly item: string;
  readonly leave: readonly string[];
}

export interface SetProperties extends Happening {
  readonly kind: 'set';
  readonly items: readonly string[];
  readonly set: Readonly<Record<string, string>>;
  readonly comment: string;
}

/** What somebody draws on the newest version of an item, and what others answer. */
export interface DrawOn extends Happening {
  readonly kind: 'draw on';
  readonly item: string;
  readonly marks: readonly {
    readonly sheet: string;
    readonly kind: 'cloud' | 'arrow' | 'pin';
    readonly tone: 'change' | 'question' | 'note';
    readonly spots: readonly (readonly number[])[];
    readonly words: string;
    readonly answers: readonly { readonly by: string; readonly words: string }[];
    readonly isSettled: boolean;
  }[];
}

export type HistoryStep =
  | BringIn
  | Change
  | Derive
  | Hold
  | Withdraw
  | Check
  | Shut
  | Bill
  | Issue
  | Counts
  | Wishes
  | CarryOver
  | SetProperties
  | DrawOn;

/** The bill of the river station, with what nobody models. */
const RIVER_BILL = {
  kind: 'bill',
  item: 'FM-1000',
  number: 'FB-1000',
  name: 'River stage station, for the workshop',
  place: '/Fenmark/Bills',
} as const;
const added = (name: string, amount: string, operation: string, note = ''): Bill['added'][number] => ({
  ...{ name, amount, operation, note },
});

const FIRST: RiverStage = {
  armLength: 1200,
  enclosureHeight: 1500,
  sunRoof: false,
  tiltBracketThickness: 3,
  hingeLeft: false,
};
const LONGER_ARM: RiverStage = { ...FIRST, armLength: 1400, enclosureHeight: 1350 };
const SUN_ROOF: RiverStage = { ...LONGER_ARM, sunRoof: true };
const HINGE: RiverStage = { ...SUN_ROOF, hingeLeft: true };
const BARE: TideStage = { anodes: false };
const ANODES: TideStage = { anodes: true };

const at = (river: RiverStage, tide: TideStage = BARE): Stage => ({ river, tide });

function change(
  kind: Change['change'],
  number: string,
  name: string,
): Omit<Change, 'at' | 'by' | 'why' | 'urgency' | 'lines'> {
  return {
    ...{ kind: 'change', change: kind, number, name, owner: '', until: '' },
    ...{ tasks: [], costs: [], makes: [], moves: [] },
  };
}

/** A step as it was taken. */
function moved(
  when: string,
  by: string,
  step: string,
  done: string,
  from: string,
  to: string,
): Change['moves'][number] {
  return { at: when, by, step, done, from, to, reason: '' };
}

export const HISTORY: readonly HistoryStep[] = [
  {
    kind: 'bring in',
    folder: '01-first-model',
    at: '2023-11-14T09:42:00Z',
    by: 'ines',
    comment: 'First complete model of the river stage station',
    stage: at(FIRST),
    folders: ['River stage station', 'Shared assemblies', 'Standard parts', 'Electronic parts'],
    without: ['FM-9103'],
  },
  {
    kind: 'bring in',
    folder: '02-drawings',
    at: '2024-02-20T15:10:00Z',
    by: 'ines',
    comment: 'Drawings for the first ten stations',
    stage: at(FIRST),
    drawings: ['River stage station', 'Shared assemblies'],
  },
  {
    kind: 'bring in',
    folder: '03-longer-arm',
    at: '2024-06-18T14:05:00Z',
    by: 'teodor',
    comment:
      'Arm 200 mm longer: the beam touched the bank at low water. Enclosure lowered to reading height.',
    stage: at(LONGER_ARM),
    numbers: ['FM-3201', 'FM-2200', 'FM-1000'],
    drawings: ['FM-3201', 'FM-2200', 'FM-1000'],
    release: 'all',
  },
  {
    kind: 'bring in',
    folder: '04-datasheets',
    at: '2024-09-03T08:30:00Z',
    by: 'teodor',
    comment: 'Datasheets of bought parts',
    stage: at(LONGER_ARM),
    papers: 'datasheets',
    release: 'all',
  },
  {
    kind: 'shut',
    at: '2024-09-30T07:40:00Z',
    by: 'admin',
    place: '/Fenmark/Bills',
    grants: [
      { to: { kind: 'role', role: 'planner' }, rights: ['see', 'fetch', 'change'] },
      { to: { kind: 'role', role: 'engineer' }, rights: ['see', 'fetch', 'change'] },
      { to: { kind: 'role', role: 'checker' }, rights: ['see', 'fetch', 'change', 'release'] },
      { to: { kind: 'role', role: 'viewer' }, rights: ['see'] },
    ],
  },
  {
    ...RIVER_BILL,
    at: '2024-10-02T09:15:00Z',
    by: 'pavo',
    added: [
      added('Thread-lock, medium strength', '2 ml per batch', '30 mast'),
      added('Cable tie 200 mm, UV-stabilised', '14', '40 wiring'),
      added('Type label, anodised', '1', '50 final', 'serial number engraved'),
    ],
    notes: 'First batch of six stations',
  },
  {
    kind: 'bring in',
    folder: '05-specifications',
    at: '2024-11-11T11:00:00Z',
    by: 'maren',
    comment: 'Requirements and manual as agreed with the river authority',
    stage: at(LONGER_ARM),
    papers: 'specifications',
  },
  {
    ...change('request', 'CR-0001', 'Logger overheats in full sun'),
    at: '2025-01-13T09:30:00Z',
    by: 'teodor',
    why: 'Two stations switched off at noon in December already; the enclosure stood at 68 °C.\nShade it, or let air through.',
    urgency: 'at once',
    lines: [{ relation: 'shows in', item: 'FM-2300', note: 'stations 14 and 19' }],
  },
  {
    kind: 'bring in',
    folder: '06-sun-roof',
    at: '2025-02-03T10:20:00Z',
    by: 'ines',
    comment: 'Sun roof after the logger overheated in two stations; fourth gland for the rain gauge',
    stage: at(SUN_ROOF),
    numbers: ['FM-3304', 'FM-2300', 'FM-1000'],
    drawings: ['FM-3304'],
    release: ['FM-3304'],
  },
  {
    ...change('order', 'CO-0001', 'Sun roof over the enclosure'),
    at: '2025-02-03T10:30:00Z',
    by: 'ines',
    why: 'A roof of sheet metal with an air gap of 20 mm over the enclosure, on the screws that are there.',
    urgency: 'at once',
    owner: 'ines',
    until: '2025-02-14',
    lines: [
      { relation: 'answers', item: 'CR-0001' },
      { relation: 'affects', item: 'FM-2300' },
    ],
    costs: [{ kind: 'parts', what: 'Roof, for each station', amount: '11.40' }],
    makes: ['FM-3304'],
    moves: [
      moved('2025-02-03T11:00:00Z', 'ines', 'begin', 'began …', 'planned', 'under way'),
      moved('2025-02-05T08:10:00Z', 'ines', 'ask for check', 'sent … for checking', 'under way', 'in check'),
      moved('2025-02-07T14:45:00Z', 'maren', 'carry out', 'carried … out', 'in check', 'carried out'),
    ],
  },
  {
    kind: 'issue',
    at: '2025-02-07T14:45:00Z',
    by: 'maren',
    items: ['FM-3304', 'FM-3304-D', 'FM-2900', 'FM-2900-D'],
    notes: 'The sun roof and the clamp that it shares the mast with',
  },
  {
    ...{ kind: 'counts', at: '2025-02-18T09:20:00Z', by: 'maren', item: 'FM-2300', row: 'FM-3304' },
    ...{ planned: 'from 2025-02-10; FM-1000 from 41', actual: 'from 2025-02-17' },
  },
  {
    ...RIVER_BILL,
    at: '2025-03-04T13:05:00Z',
    by: 'pavo',
    added: [
      added('Desiccant bag 33 g', '2', '50 final', 'one more in the rain season'),
      added('Carton 1200 × 600 × 400, lined', '1', '60 packing'),
    ],
    notes: 'Sun roof; desiccant and packing are listed',
  },
  {
    kind: 'bring in',
    folder: '07-tide-station',
    at: '2025-05-19T13:40:00Z',
    by: 'teodor',
    comment:
      'Tide station for Saltmarsh pier: sensor head, enclosure, panel and battery as on the river station',
    stage: at(SUN_ROOF),
    folders: ['Tide station'],
    drawings: ['Tide station'],
    release: 'all',
  },
  {
    kind: 'bring in',
    folder: '08-lists',
    at: '2025-07-08T09:05:00Z',
    by: 'ines',
    comment: 'Cable list, spare parts and notes from the field',
    stage: at(SUN_ROOF),
    papers: 'lists',
  },
  {
    kind: 'derive',
    at: '2025-11-17T10:00:00Z',
    by: 'ines',
    item: 'FM-1000',
    place: '/Fenmark/Snow depth station',
    share: ['FM-2900', 'FM-2310', 'FM-2400', 'FM-2500'],
    replace: [
      { from: 'FM-1', to: 'FM-5' },
      { from: 'FM-2', to: 'FM-6' },
      { from: 'FM-3', to: 'FM-7' },
      { from: 'River stage', to: 'Snow depth' },
    ],
  },
  {
    kind: 'bring in',
    folder: '09-snow-arm',
    at: '2025-12-15T16:20:00Z',
    by: 'ines',
    comment: 'Ultrasonic snow sensor instead of the radar; arm 800 mm, shorter against the wind on ridges',
    stage: at(SUN_ROOF),
    numbers: ['FM-7201', 'FM-6200'],
  },
  {
    kind: 'bring in',
    folder: '10-anodes',
    at: '2026-01-28T12:15:00Z',
    by: 'teodor',
    comment: 'Zinc anodes on the pier bracket: pitting near the welds after the first winter',
    stage: at(SUN_ROOF, ANODES),
    numbers: ['FM-4110', 'FM-2610'],
    drawings: ['FM-4110', 'FM-2610'],
  },
  {
    ...change('request', 'CR-0002', 'Door blows shut in the wind'),
    at: '2026-05-11T07:55:00Z',
    by: 'teodor',
    why: 'On the dike the door of the enclosure is torn out of the hand whenever the wind comes from the west. One gland was sheared off.',
    urgency: 'soon',
    lines: [{ relation: 'shows in', item: 'FM-3302' }],
  },
  {
    kind: 'bring in',
    folder: '11-hinge',
    at: '2026-05-27T08:15:00Z',
    by: 'ines',
    comment: 'Door hinged on the left, away from the prevailing wind; vent plugs instead of the M16 glands',
    stage: at(HINGE, ANODES),
    numbers: ['FM-3302', 'FM-9103', 'FM-2300', 'FM-1000'],
    drawings: ['FM-3302'],
    release: ['FM-9103'],
  },
  {
    ...change('order', 'CO-0002', 'Hinge on the lee side, vents instead of glands'),
    at: '2026-05-28T08:20:00Z',
    by: 'ines',
    why: 'The door is hinged on the left, away from the prevailing wind. Vent plugs take the place of the M16 glands, which nobody uses.',
    urgency: 'soon',
    owner: 'ines',
    until: '2026-10-30',
    lines: [
      { relation: 'answers', item: 'CR-0002' },
      { relation: 'affects', item: 'FM-3302', note: 'left hand' },
      { relation: 'affects', item: 'FM-2300' },
      { relation: 'affects', item: 'FM-1000' },
      { relation: 'affects', item: 'FM-3302-D' },
    ],
    tasks: [
      {
        ...{ key: 'vents', what: 'Order vent plugs for the first ten stations' },
        ...{ who: 'pavo', until: '2026-09-30', doneAt: '2026-09-25T13:00:00Z' },
      },
      {
        ...{ key: 'wind', what: 'Try the hinge on the dike in a west wind' },
        ...{ who: 'teodor', until: '2026-10-16' },
      },
    ],
    costs: [
      { kind: 'parts', what: 'Vent plug less two glands, for each station', amount: '-3.10' },
      { kind: 'tools', what: 'Drill jig for the left hand door', amount: '280' },
      { kind: 'scrap', what: 'Four right hand doors in stock', amount: '96' },
    ],
    makes: ['FM-3302', 'FM-3302-D', 'FM-2300', 'FM-1000'],
    moves: [moved('2026-05-28T08:40:00Z', 'ines', 'begin', 'began …', 'planned', 'under way')],
  },
  // The vents; the door of the snow station opens to the side where the ladder is not.
  {
    kind: 'carry over',
    at: '2026-06-08T10:30:00Z',
    by: 'ines',
    item: 'FM-5000',
    leave: ['FM-7302', 'FM-7302-D'],
  },
  {
    kind: 'bring in',
    folder: '12-half-done',
    at: '2026-08-12T15:55:00Z',
    by: 'teodor',
    comment: 'Groundwater logger and rain gauge, first shapes',
    stage: at(HINGE, ANODES),
    folders: ['Groundwater logger', 'Rain gauge'],
  },
  {
    kind: 'bring in',
    folder: '13-tilt-bracket',
    at: '2026-09-22T16:31:00Z',
    by: 'teodor',
    comment: 'Tilt bracket 4 mm instead of 3 mm: bent under snow load',
    stage: at({ ...HINGE, tiltBracketThickness: 4 }, ANODES),
    numbers: ['FM-3402'],
    drawings: ['FM-3402'],
  },
  // The notes and the dimension lie at the lower left of the sheet.
  {
    kind: 'draw on',
    at: '2026-09-24T07:40:00Z',
    by: 'teodor',
    item: 'FM-3402-D',
    marks: [
      {
        ...{ sheet: 'Model', kind: 'cloud', tone: 'change', words: 'Say which edges stay sharp' },
        spots: [
          [24, 42],
          [150, 64],
        ],
        ...{ answers: [], isSettled: false },
      },
      {
        ...{
          sheet: 'Model',
          kind: 'pin',
          tone: 'question',
          words: 'Does the M8 spanner still fit beside the web?',
        },
        spots: [[60, 75]],
        answers: [{ by: 'ines', words: 'It does, with 4 mm to spare; looked at with the clamp beside it' }],
        isSettled: true,
      },
    ],
  },
  {
    kind: 'shut',
    at: '2026-09-28T07:50:00Z',
    by: 'admin',
    place: '/Fenmark/Supplier terms',
    grants: [
      { to: { kind: 'role', role: 'planner' }, rights: ['see', 'fetch', 'change'] },
      { to: { kind: 'role', role: 'checker' }, rights: ['see'] },
    ],
  },
  {
    kind: 'bring in',
    folder: '14-supplier-terms',
    at: '2026-09-29T10:10:00Z',
    by: 'pavo',
    place: '/Fenmark/Supplier terms',
    comment: 'Prices and agreements for 2027, not for everybody',
    stage: at(HINGE, ANODES),
    papers: 'terms',
  },
  {
    kind: 'withdraw',
    at: '2026-10-06T09:30:00Z',
    by: 'maren',
    item: 'FM-9502',
    reason: 'The supplier has stopped making it; the rod of the tide station needs another source',
  },
  {
    ...change('request', 'CR-0003', 'Paint the mast green'),
    at: '2026-10-07T12:05:00Z',
    by: 'pavo',
    why: 'The river board asks whether the mast could be painted, so that it is seen less from the path.',
    urgency: 'whenever it fits',
    lines: [{ relation: 'shows in', item: 'FM-2100' }],
    moves: [
      {
        ...moved('2026-10-09T09:20:00Z', 'maren', 'refuse', 'refused …', 'raised', 'refused'),
        reason: 'Paint would hide cracks at the welds; a mast anodised dark may be an order of its own',
      },
    ],
  },
  {
    kind: 'derive',
    at: '2026-10-12T08:15:00Z',
    by: 'ines',
    item: 'FM-3102',
    place: '/Fenmark/Templates',
    share: [],
    replace: [
      { from: 'FM-3102', to: 'FT-1' },
      { from: 'Base plate', to: 'Plate' },
    ],
  },
  {
    kind: 'set',
    at: '2026-10-12T08:20:00Z',
    by: 'ines',
    items: ['FT-1'],
    set: { Template: 'yes' },
    comment: 'To begin plates with',
  },
  {
    kind: 'bring in',
    folder: '15-options',
    at: '2026-10-19T13:30:00Z',
    by: 'ines',
    comment: 'Options for stations to order: arms of 1.6 and 2 m, mast of 4 m, panel of 50 W, heater',
    stage: at({ ...HINGE, tiltBracketThickness: 4 }, ANODES),
    folders: [OPTIONS],
  },
  {
    kind: 'wishes',
    at: '2026-10-21T09:10:00Z',
    by: 'ines',
    item: 'FM-1000',
    number: 'FR-1000',
    name: 'River stage stations to order',
    place: '/Fenmark/Recipes',
    recipe: RIVER_RECIPE,
    sheets: RIVER_SHEETS,
  },
  {
    kind: 'hold',
    at: '2026-11-20T08:05:00Z',
    by: 'ines',
    items: ['FM-1300'],
    reason: 'Funnel to be deeper, splashes lost in heavy rain',
  },
  {
    kind: 'hold',
    at: '2026-11-23T13:25:00Z',
    by: 'teodor',
    items: ['FM-4110'],
    reason: 'Anodes last one year only: 2 kg instead of 1.2',
  },
  {
    ...change('request', 'CR-0004', 'Splashes are lost from the funnel'),
    at: '2026-11-19T15:10:00Z',
    by: 'maren',
    why: 'In the heavy rain of the ninth the gauge measured 11 % less than the two beside it. Splashes leave the funnel over its edge.',
    urgency: 'at once',
    lines: [{ relation: 'shows in', item: 'FM-1300' }],
  },
  {
    ...change('order', 'CO-0003', 'Anodes that last two winters'),
    at: '2026-11-23T13:10:00Z',
    by: 'teodor',
    why: 'The anodes of 1.2 kg are gone after one winter. At the current that was measured, 2 kg last two of them.',
    urgency: 'soon',
    owner: 'teodor',
    until: '2026-12-18',
    lines: [{ relation: 'affects', item: 'FM-4110' }],
    tasks: [{ key: 'foundry', what: 'Ask the foundry for 2 kg anodes', who: 'pavo', until: '2026-12-04' }],
  },
  {
    kind: 'check',
    at: '2026-11-23T15:40:00Z',
    by: 'teodor',
    items: ['FM-2610', 'FM-2610-D'],
    reason: 'Zinc anodes on the pier bracket',
    sentBack: {
      at: '2026-11-24T09:05:00Z',
      by: 'maren',
      reason: 'One question first',
      about: 'FM-2610',
      point: 'Can the anodes be exchanged without taking the bracket off the pier?',
      answer: 'Yes: both bolts are reached from the water side',
      answeredAt: '2026-11-24T13:20:00Z',
    },
  },
  {
    kind: 'check',
    at: '2026-11-24T13:30:00Z',
    by: 'teodor',
    items: ['FM-2610', 'FM-2610-D'],
    reason: 'Question answered; nothing was changed',
  },
];
