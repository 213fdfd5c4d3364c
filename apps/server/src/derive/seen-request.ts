import type { DeriveRequest } from '@stem-trace/contract';
import { numberKey } from '@stem-trace/core';
import { isAmong } from '../database/conditions.js';
import { readRows, text, type Asks } from '../database/read-rows.js';

/**
 * A request of somebody else without decisions that name items of the store which the asker may not see.
 *
 * @param hidden places whose items the asker does not see
 */
export async function seenRequest(
  manager: Asks,
  request: DeriveRequest,
  hidden: readonly string[],
): Promise<DeriveRequest> {
  const { swap, uses, added } = request;
  const named = [
    ...swap.map(({ to }) => to),
    ...uses.flatMap(({ to }) => to ?? []),
    ...added.map(({ item }) => item),
  ];
  if (named.length === 0 || hidden.length === 0) return request;
  const keyOf = (reference: string): string => numberKey(reference.replace(/@[^@]*$/, ''));
  const rows = await readRows(
    manager,
    { key: text },
    `SELECT number_key AS key FROM item WHERE ${isAmong('number_key', '$1')} AND place_id <> ALL($2::bigint[])`,
    [named.map(keyOf), hidden],
  );
  const seen = new Set(rows.map(({ key }) => key));
  const isSeen = (reference: string): boolean => seen.has(keyOf(reference));
  return {
    ...request,
    swap: swap.filter(({ to }) => isSeen(to)),
    uses: uses.filter(({ to }) => to === undefined || isSeen(to)),
    added: added.filter(({ item }) => isSeen(item)),
  };
}
