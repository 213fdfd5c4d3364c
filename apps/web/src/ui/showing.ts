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
  readonly length: 'mm' | 'in';
}

const ShowingContext = createContext<Showing>({
  rowPx: size.row,
  pictures: 'none',
  dates: 'said',
  mass: 'kg',
  length: 'mm',
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

/** By definition (NIST SP 811, B.8). */
const MM_PER_INCH = 25.4;

/** The sides of a box, in mm, in the unit in which somebody wants them: `160 × 100 × 1.6 mm`. */
export function saySize(sidesMm: readonly number[], unit: Showing['length']): string {
  const sides = sidesMm.map((mm) => Number((unit === 'in' ? mm / MM_PER_INCH : mm).toPrecision(4)));
  return `${sides.join(' × ')} ${unit}`;
}

/** A volume and a surface: in cm³ and cm² where lengths are in mm. */
export function saySolid(volumeMm3: number, areaMm2: number, unit: Showing['length']): string {
  const [per, name] = unit === 'in' ? [MM_PER_INCH, 'in'] : [10, 'cm'];
  const [cubic, square] = [volumeMm3 / per ** 3, areaMm2 / per ** 2].map((value) =>
    Number(value.toPrecision(4)),
  );
  return `${cubic} ${name}³, ${square} ${name}²`;
}
