import { parseReference, type StructureRow } from '@stem-trace/contract';

export interface ChainLink {
  readonly number: string;
  /** In the link before it; absent for the first. */
  readonly quantity?: number;
}

/** `NUMBER@B/3` of a row that is in the store. */
export function referenceOf(row: StructureRow): string {
  return row.version === null ? row.number : `${row.number}@${row.version}`;
}

/**
 * The chain from product to part that the cursor stands on, topmost first.
 * @param path rows from the focus outwards
 */
export function chainOf(
  focus: string,
  side: 'left' | 'right',
  path: readonly (StructureRow | undefined)[],
): ChainLink[] {
  const start = parseReference(focus).number;
  const rows = path.flatMap((row) => row ?? []);
  if (side === 'right')
    return [{ number: start }, ...rows.map(({ number, quantity }) => ({ number, quantity }))];
  // Upwards each row says how many of the one below it holds, so quantities move one place down the chain.
  const upwards = [start, ...rows.map(({ number }) => number)];
  return upwards
    .map((number, index): ChainLink => {
      const holder = rows[index];
      return holder ? { number, quantity: holder.quantity } : { number };
    })
    .reverse();
}

/** Quantity of the last link in the first. */
export function totalOf(chain: readonly ChainLink[]): number {
  return chain.reduce((total, { quantity }) => total * (quantity ?? 1), 1);
}
