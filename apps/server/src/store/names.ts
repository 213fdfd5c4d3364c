/**
 * Names of things for a reader. Whatever another item, place or change is called goes into an answer, a file, a notice or an error
 * through one of these functions.
 */
import type { HolderView } from '@stem-trace/contract';
import { numberKey } from '@stem-trace/core';
import type { Rights } from '../access/rights.service.js';
import { readRows, text, type Asks } from '../database/read-rows.js';

/** An item as the database knows it, before it is known who reads it. */
export interface NamedItem {
  readonly number: string;
  readonly placeId: string;
}

/** A holder before it is known who reads it. */
export interface StoredHolder extends Omit<HolderView, 'change'> {
  readonly change: NamedItem | null;
}

/** @returns null if there is none, or the reader may not see it */
export function numberFor(rights: Rights, item: NamedItem | null): string | null {
  return item !== null && rights.may('see', item.placeId) ? item.number : null;
}

/** The number as part of a sentence. */
export function sayItem(rights: Rights, item: NamedItem): string {
  return numberFor(rights, item) ?? 'an item that you have no access to';
}

export function holderFor(rights: Rights, holder: StoredHolder | null): HolderView | null {
  return holder && { ...holder, change: numberFor(rights, holder.change) };
}

/** Whether an item is in a place that a reader may not see; never told of a number that the reader made up. */
export async function isHiddenNumber(
  asks: Asks,
  number: string,
  hidden: readonly string[],
): Promise<boolean> {
  const rows = await readRows(
    asks,
    { id: text },
    'SELECT id FROM item WHERE number_key = $1 AND place_id = ANY($2::bigint[])',
    [numberKey(number), hidden],
  );
  return rows.length > 0;
}
