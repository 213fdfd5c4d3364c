import { refuseChange } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { json, orNull, readRows, text } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { numberFor, type NamedItem } from '../store/names.js';
import { holdsOf } from '../store/holds.js';

export interface Locked {
  readonly code: 'NOT_ALLOWED' | 'NOT_HELD' | 'STEP_REFUSED';
  /** As the end of a sentence. */
  readonly says: string;
}

/**
 * Why somebody may not change what a change says; undefined where they may. Who raised a request may write it as long as nothing
 * answers it; else it takes the right to change at its place.
 */
export async function whyLocked(
  manager: EntityManager,
  { itemId, kind, state, placeId }: DescribedVersion,
  person: Person,
  rights: Rights,
): Promise<Locked | undefined> {
  const holder = (await holdsOf(manager, [itemId])).get(itemId);
  if (holder && holder.personId !== person.id) return { code: 'NOT_HELD', says: `${holder.name} holds it` };
  const refusal = refuseChange(await stateBook(manager), state);
  if (refusal !== undefined) return { code: 'STEP_REFUSED', says: refusal };
  const [row] = await readRows(
    manager,
    { answer: orNull(json<NamedItem>()), author: text },
    `SELECT v.author_id AS author, (SELECT jsonb_build_object('number', o.number, 'placeId', o.place_id::text) FROM change_line l JOIN item o ON o.id = l.change_id
       WHERE l.item_id = v.item_id AND l.relation = 'answers' AND o.state NOT IN (SELECT name FROM state WHERE lane = 'out of use')
       LIMIT 1) AS answer
     FROM version v WHERE v.item_id = $1 AND v.ordinal = 1`,
    [itemId],
  );
  if (row?.answer)
    return {
      code: 'STEP_REFUSED',
      says: `${numberFor(rights, row.answer) ?? 'a change order'} answers it; write there what is to be done`,
    };
  if (rights.may('change', placeId) || (kind === 'request' && row?.author === person.id)) return undefined;
  return { code: 'NOT_ALLOWED', says: 'your access at its place does not allow you to change it' };
}
