import type { Stage } from './station.js';

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
  { login: 'jonas', name: 'Jonas Eklund', initials: 'JE', role: 'viewer', password: 'fenmark-jonas' },
];

/** One check-in of the history: the station as it was, and which files came in then. */
export interface HistoryStep {
  readonly folder: string;
  /** ISO 8601 */
  readonly at: string;
  readonly by: string;
  readonly comment: string;
  readonly stage: Stage;
  /** Numbers whose files came in; all where absent. */
  readonly only?: readonly string[];
  readonly without?: readonly string[];
  /** Items whose newest revision was released right after. */
  readonly release?: 'all' | readonly string[];
}

const FIRST: Stage = {
  armLength: 1200,
  enclosureHeight: 1500,
  sunRoof: false,
  tiltBracketThickness: 3,
  hingeLeft: false,
};
const LONGER_ARM: Stage = { ...FIRST, armLength: 1400, enclosureHeight: 1350 };
const SUN_ROOF: Stage = { ...LONGER_ARM, sunRoof: true };
const HINGE: Stage = { ...SUN_ROOF, hingeLeft: true };

export const HISTORY: readonly HistoryStep[] = [
  {
    folder: '1-first-model',
    at: '2025-03-10T09:42:00Z',
    by: 'ines',
    comment: 'First complete model of the river stage station',
    stage: FIRST,
    without: ['FM-9103'],
  },
  {
    folder: '2-longer-arm',
    at: '2025-06-18T14:05:00Z',
    by: 'teodor',
    comment:
      'Arm 200 mm longer: the beam touched the bank at low water. Enclosure lowered to reading height.',
    stage: LONGER_ARM,
    only: ['FM-3201', 'FM-2200', 'FM-1000'],
    release: 'all',
  },
  {
    folder: '3-sun-roof',
    at: '2026-02-03T10:20:00Z',
    by: 'ines',
    comment: 'Sun roof after the logger overheated in two stations; fourth gland for the rain gauge',
    stage: SUN_ROOF,
    only: ['FM-3304', 'FM-2300', 'FM-1000'],
    release: ['FM-3304'],
  },
  {
    folder: '4-hinge',
    at: '2026-05-27T08:15:00Z',
    by: 'ines',
    comment: 'Door hinged on the left, away from the prevailing wind; vent plugs instead of the M16 glands',
    stage: HINGE,
    only: ['FM-3302', 'FM-9103', 'FM-2300', 'FM-1000'],
    release: ['FM-9103'],
  },
  {
    folder: '5-tilt-bracket',
    at: '2026-09-22T16:31:00Z',
    by: 'teodor',
    comment: 'Tilt bracket 4 mm instead of 3 mm: bent under snow load',
    stage: { ...HINGE, tiltBracketThickness: 4 },
    only: ['FM-3402'],
  },
];
