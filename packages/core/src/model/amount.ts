/** How much of something a use asks for. */

/**
 * What an amount is counted by. `each`: for every piece of what it is in. `batch`: for every batch that is made. `fixed`: once,
 * however many are made. `as required`: nobody says how much.
 */
export const BASES = ['each', 'batch', 'fixed', 'as required'] as const;
export type Basis = (typeof BASES)[number];

/** What is not needed, and yet said: what comes out besides, or what is only pointed at. */
export const ROLES = ['by-product', 'reference'] as const;
export type AmountRole = (typeof ROLES)[number];

export interface Amount {
  /** Decimal, as `0.4`; never with an exponent, a plus or zeros that say nothing. Empty where it is as required. */
  readonly value: string;
  /** Empty for pieces. */
  readonly unit: string;
  readonly basis: Basis;
  /** Share that is lost on the way, as `0.05`; none where absent. */
  readonly scrap?: string;
  /** What is bought or cut: the amount with its loss goes up to a multiple of it. */
  readonly step?: string;
  /** Needed where absent. A by-product never adds to what is needed; a reference adds to nothing at all. */
  readonly role?: AmountRole;
}
