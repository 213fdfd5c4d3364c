import { validateNumber } from './number.js';

/** How serial numbers of one kind look: `FM-` and five digits. */
export interface NumberScheme {
  readonly name: string;
  readonly prefix: string;
  /** Digits at least, filled up with zeros. */
  readonly digits: number;
  readonly suffix: string;
}

/** The number that a count stands for. */
export function serialNumber({ prefix, digits, suffix }: NumberScheme, count: number): string {
  return `${prefix}${String(count).padStart(digits, '0')}${suffix}`;
}

/** What is wrong with a scheme, as the end of a sentence; undefined where nothing is. */
export function validateScheme(scheme: NumberScheme): string | undefined {
  // The longest that there will be for a long time.
  return validateNumber(serialNumber(scheme, 10 ** Math.max(scheme.digits, 9)));
}
