/** Numbers with units: kept as they were entered, compared in SI units. */
import Quantity from 'js-quantities';

export interface SiValue {
  readonly value: number;
  /** Base units that it is given in; the same for all that can be compared. */
  readonly unit: string;
}

/** How engineers write units, and how the library wants them. */
const SPELLINGS: readonly (readonly [RegExp, string])[] = [
  [/²/g, '2'],
  [/³/g, '3'],
  [/[·⋅×]/g, '*'],
  [/^°C$/, 'tempC'],
  [/^K$/, 'tempK'],
  [/°/g, 'deg'],
  [/[ΩΩ]/g, 'ohm'],
  [/μ/g, 'µ'],
  [/\bNm\b/g, 'N*m'],
];

/** What a unit means: a value in it is `zero + value * step` in base units. */
interface Meaning {
  readonly zero: number;
  readonly step: number;
  readonly base: string;
}

/** Units that were asked for; few are used, but each very often. */
const known = new Map<string, Meaning | undefined>();
const MOST_KNOWN = 1000;

/** In SI base units; undefined for a unit that nobody knows. A number without a unit stays as it is. */
export function toSi(value: number, unit: string): SiValue | undefined {
  if (unit.trim() === '') return { value, unit: '' };
  const meaning = known.has(unit) ? known.get(unit) : look(unit);
  return meaning && { value: meaning.zero + value * meaning.step, unit: meaning.base };
}

function look(unit: string): Meaning | undefined {
  // Anybody can ask for units that there are not.
  if (known.size >= MOST_KNOWN) known.clear();
  const meaning = meaningOf(unit);
  known.set(unit, meaning);
  return meaning;
}

function meaningOf(unit: string): Meaning | undefined {
  try {
    // The unit alone goes through the library, which reads numbers from text and stumbles over very small ones. A
    // temperature has an offset, so that two points make its line.
    const [zero, one] = [0, 1].map((point) => Quantity(point, spelled(unit)).toBase());
    return zero && one && { zero: zero.scalar, step: one.scalar - zero.scalar, base: one.units() };
  } catch {
    return undefined;
  }
}

/** Whether values in two units can be compared. */
export function areCompatible(a: string, b: string): boolean {
  const [left, right] = [toSi(1, a), toSi(1, b)];
  return left !== undefined && left.unit === right?.unit;
}

export interface Entered {
  readonly value: number;
  /** As written; empty where none was. */
  readonly unit: string;
}

/**
 * Reads a number with or without a unit as people write it: `12.5 mm`, `12,5mm`, `-3e-2 N*m`. A comma is a decimal sign
 * where no point is; blanks may group digits.
 */
export function parseQuantity(text: string): Entered | undefined {
  const found = /^ *([+-]?\d[\d \u00a0\u202f]*(?:[.,]\d+)?(?:[eE][+-]?\d{1,3})?) *([^\d\s.,][^\n]*)?$/.exec(
    text,
  );
  if (!found) return undefined;
  const value = Number((found[1] ?? '').replace(/\s/g, '').replace(',', '.'));
  const unit = (found[2] ?? '').trim();
  return Number.isFinite(value) ? { value, unit } : undefined;
}

function spelled(unit: string): string {
  return SPELLINGS.reduce((text, [from, to]) => text.replace(from, to), unit.trim());
}
