import type { RevisionScheme } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { orNull, readRows, text, word } from '../database/read-rows.js';
import { revisionScheme } from '../settings/settings.service.js';

/** How revisions of items are called that are opened now: as their lifecycle says, or else the store. One statement, or two. */
export async function revisionSchemes(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<(itemId: string) => RevisionScheme> {
  if (itemIds.length === 0) return () => 'letters';
  const own = await readRows(
    manager,
    { id: text, scheme: orNull(word<RevisionScheme>()) },
    `SELECT i.id, l.diagram->>'revisions' AS scheme FROM item i JOIN lifecycle_version l ON l.id = lifecycle_for(i.id)
     WHERE i.id = ANY($1::bigint[]) AND l.diagram ? 'revisions'`,
    [itemIds],
  );
  const byItem = new Map(own.map(({ id, scheme }) => [id, scheme]));
  const otherwise = await revisionScheme(manager);
  return (itemId) => byItem.get(itemId) ?? otherwise;
}
