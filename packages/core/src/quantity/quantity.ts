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

/** In SI base units; undefined for a unit that nobody knows. A number without a unit stays as it is. */
export function toSi(value: number, unit: string): SiValue | undefined {
  if (unit.trim() === '') return { value, unit: '' };
  try {
    // The unit alone goes through the library, which reads numbers from text and stumbles over very small ones. A
    // temperature has an offset, so that two points make its line.
    const [zero, one] = [0, 1].map((point) => Quantity(point, spelled(unit)).toBase());
    if (!zero || !one) return undefined;
    return { value: zero.scalar + value * (one.scalar - zero.scalar), unit: one.units() };
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
