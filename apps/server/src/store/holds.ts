import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';

export interface StoredHold {
  readonly itemId: string;
  readonly personId: string;
  readonly name: string;
}

/** Holds of items, by item. */
export async function holdsOf(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<Map<string, StoredHold>> {
  const rows = await readRows<StoredHold>(
    manager,
    { itemId: text, personId: text, name: text },
    `SELECT h.item_id AS "itemId", h.person_id AS "personId", p.name
     FROM hold h JOIN person p ON p.id = h.person_id WHERE h.item_id = ANY($1::bigint[])`,
    [itemIds],
  );
  return new Map(rows.map((row) => [row.itemId, row]));
}

/** @returns ids of the items that nobody held, which the person holds now */
export async function insertHolds(
  manager: EntityManager,
  itemIds: readonly string[],
  {
    personId,
    reason,
    changes = new Map(),
  }: {
    readonly personId: string;
    readonly reason: string;
    /** Id of the change order that each is held for, by item. */
    readonly changes?: ReadonlyMap<string, string>;
  },
): Promise<string[]> {
  const taken = await readRows(
    manager,
    { id: text },
    `INSERT INTO hold (item_id, person_id, reason, change_id)
     SELECT t.item, $2, $3, t.change FROM unnest($1::bigint[], $4::bigint[]) AS t(item, change)
     ON CONFLICT DO NOTHING RETURNING item_id AS id`,
    [itemIds, personId, reason, itemIds.map((item) => changes.get(item) ?? null)],
  );
  return taken.map(({ id }) => id);
}

/** @throws ProblemError NOT_HELD where somebody else holds an item, or nobody */
export async function requireHold(
  manager: EntityManager,
  item: { readonly itemId: string; readonly number: string },
  person: Pick<Person, 'id'>,
): Promise<void> {
  const holder = (await holdsOf(manager, [item.itemId])).get(item.itemId);
  if (holder?.personId === person.id) return;
  throw new ProblemError(
    'NOT_HELD',
    holder
      ? `${holder.name} holds ${item.number}; only the holder can put a version back.`
      : `${item.number} is not checked out; check it out first.`,
  );
}

const holder = (change: string): string => `(
  SELECT jsonb_build_object('login', hp.login, 'name', hp.name, 'initials', hp.initials, 'since', h.since, 'reason', h.reason,
    'change', (${change}))
  FROM hold h JOIN person hp ON hp.id = h.person_id WHERE h.item_id = i.id) AS "heldBy"`;

/** Column that gives an item's holder as `StoredHolder`, or null. Wants `item` as `i`. */
export const HELD_BY = holder(
  `SELECT jsonb_build_object('number', c.number, 'placeId', c.place_id::text) FROM item c WHERE c.id = h.change_id`,
);

/** Column that gives an item's holder as `HolderView`, or null. @param hidden parameter with the places that the reader may not see */
export function heldBy(hidden: string): string {
  return holder(
    `SELECT c.number FROM item c WHERE c.id = h.change_id AND c.place_id <> ALL(${hidden}::bigint[])`,
  );
}
