import type { RolledSum } from '@stem-trace/core';

const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 4 });
const COUNT = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 3 });

export const sayCount = (value: number): string => COUNT.format(value);

/** `12.3` or, where some of it is not known, `≥ 12.3`; a dash where nothing is. */
export function saySum({ value, unknown, of }: RolledSum): string {
  if (unknown === of) return '–';
  return `${unknown > 0 ? '≥ ' : ''}${DIGITS.format(value)}`;
}

/** `3 of 41 unknown`; empty where all is known, or there is nothing to know. */
export function sayUnknown({ unknown, of }: RolledSum): string {
  return unknown > 0 && unknown < of ? `${unknown} of ${of} unknown` : '';
}
