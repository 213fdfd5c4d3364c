/** How things are shown to the person who looks: what tables and dates go by. */
import { createContext, useContext } from 'react';
import { size } from './theme.js';

export interface Showing {
  /** Height of the rows of tables. */
  readonly rowPx: number;
  /** Size of the pictures in rows of items. */
  readonly pictures: 'none' | 'small' | 'large';
  /** `said`: “yesterday”, with the exact time on hover; `exact`: as ISO 8601 writes it. */
  readonly dates: 'said' | 'exact';
  readonly mass: 'kg' | 'g' | 'lb';
}

const ShowingContext = createContext<Showing>({
  rowPx: size.row,
  pictures: 'none',
  dates: 'said',
  mass: 'kg',
});

export const ShowingProvider = ShowingContext.Provider;

export function useShowing(): Showing {
  return useContext(ShowingContext);
}

const PICTURE_ROW = { small: 42, large: 86 } as const;

/** Height of a table's rows. @param showsItems whether pictures of items stand in them */
export function rowHeight({ rowPx, pictures }: Showing, showsItems: boolean): number {
  return showsItems && pictures !== 'none' ? PICTURE_ROW[pictures] : rowPx;
}

/** International pound (NIST SP 811, B.8). */
const KG_PER_LB = 0.45359237;
const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 4 });

/** A mass in the unit in which somebody wants it. */
export function sayMass(kg: number, unit: Showing['mass']): string {
  const inUnit = { kg, g: kg * 1000, lb: kg / KG_PER_LB }[unit];
  return `${DIGITS.format(inUnit)} ${unit}`;
}
