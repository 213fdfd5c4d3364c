/** Holds that a save needs: by whoever saves, or taken for this one save. */
import { refuseChange } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService } from './catalogue.service.js';
import { holdsOf } from './holds.js';
import { stateBook } from '../database/state-book.js';

/**
 * Holds for one save: nobody else can take them between, and whoever asks gives them back at the end.
 *
 * @returns items that nobody held before
 * @throws ProblemError NOT_HELD where something is in no state to be held
 */
export async function takeFree(
  manager: EntityManager,
  catalogue: CatalogueService,
  itemIds: readonly string[],
  person: Person,
  reason: string,
): Promise<string[]> {
  const newest = await catalogue.newestOf(itemIds, manager);
  const book = await stateBook(manager);
  const refused = newest.flatMap(({ number, state }) => {
    const why = refuseChange(book, state);
    return why === undefined ? [] : [`${number}: ${why}`];
  });
  if (refused.length > 0)
    throw new ProblemError('NOT_HELD', `${refused.join('; ')}. Nothing was changed.`, refused);
  const taken = await readRows(
    manager,
    { id: text },
    `INSERT INTO hold (item_id, person_id, reason) SELECT unnest($1::bigint[]), $2, $3
     ON CONFLICT DO NOTHING RETURNING item_id AS id`,
    [itemIds, person.id, reason],
  );
  return taken.map(({ id }) => id);
}

/** @throws ProblemError NOT_HELD with who holds what, and what nobody does */
export async function refuseNotHeld(
  manager: EntityManager,
  items: readonly { readonly itemId: string; readonly number: string }[],
  person: Person,
): Promise<void> {
  const holds = await holdsOf(
    manager,
    items.map(({ itemId }) => itemId),
  );
  const refused = items.flatMap(({ itemId, number }) => {
    const hold = holds.get(itemId);
    if (hold?.personId === person.id) return [];
    return [
      hold ? `${number}: ${hold.name} holds it` : `${number}: it is not checked out; check it out first`,
    ];
  });
  if (refused.length > 0)
    throw new ProblemError('NOT_HELD', `${refused.join('; ')}. Nothing was changed.`, refused);
}
