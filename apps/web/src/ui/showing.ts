/** How things are shown to the person who looks: what tables and dates go by. */
import { createContext, useContext } from 'react';
import { size } from './theme.js';

export interface Showing {
  /** Height of the rows of tables. */
  readonly rowPx: number;
  /** `said`: “yesterday”, with the exact time on hover; `exact`: as ISO 8601 writes it. */
  readonly dates: 'said' | 'exact';
  readonly mass: 'kg' | 'g' | 'lb';
}

const ShowingContext = createContext<Showing>({ rowPx: size.row, dates: 'said', mass: 'kg' });

export const ShowingProvider = ShowingContext.Provider;

export function useShowing(): Showing {
  return useContext(ShowingContext);
}

/** International pound (NIST SP 811, B.8). */
const KG_PER_LB = 0.45359237;
const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 4 });

/** A mass in the unit in which somebody wants it. */
export function sayMass(kg: number, unit: Showing['mass']): string {
  const inUnit = { kg, g: kg * 1000, lb: kg / KG_PER_LB }[unit];
  return `${DIGITS.format(inUnit)} ${unit}`;
}
