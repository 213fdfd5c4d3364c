/** Change orders as everybody who changes, moves or looks for items meets them. */
import { isChange, type Lane } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { isInLane } from '../database/conditions.js';
import { readRows, text, word, type Asks } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from './catalogue.service.js';

export interface OrderOf {
  readonly itemId: string;
  readonly revisionId: string;
  /** Of the change order. */
  readonly orderId: string;
  readonly order: string;
  readonly orderPlaceId: string;
}

/** Whether nobody is done with an order (`alias`, an item), as SQL. */
export function isUnderWay(alias: string): string {
  return `(${isInLane('open', alias)} OR ${isInLane('under check', alias)})`;
}

/** Orders that are not done and make the newest revisions of items; by item. */
export async function ordersOf(asks: Asks, itemIds: readonly string[]): Promise<Map<string, OrderOf>> {
  const rows = await readRows<OrderOf>(
    asks,
    { itemId: text, revisionId: text, orderId: text, order: text, orderPlaceId: text },
    `SELECT i.id AS "itemId", m.revision_id AS "revisionId", c.id AS "orderId", c.number AS "order", c.place_id AS "orderPlaceId"
     FROM item i JOIN version v ON v.id = i.newest_version_id JOIN change_makes m ON m.revision_id = v.revision_id
     JOIN item c ON c.id = m.change_id WHERE i.id = ANY($1::bigint[]) AND ${isUnderWay('c')}`,
    [itemIds],
  );
  return new Map(rows.map((row) => [row.itemId, row]));
}

/** Ids of items that orders make; of those that requests answer, the requests. */
export async function boundTo(
  manager: EntityManager,
  orderIds: readonly string[],
): Promise<Map<string, string>> {
  const rows = await readRows(
    manager,
    { id: text, order: text },
    `SELECT r.item_id AS id, m.change_id AS "order" FROM change_makes m JOIN revision r ON r.id = m.revision_id
     WHERE m.change_id = ANY($1::bigint[])
     UNION SELECT l.item_id, l.change_id FROM change_line l WHERE l.change_id = ANY($1::bigint[]) AND l.relation = 'answers'`,
    [orderIds],
  );
  return new Map(rows.map(({ id, order }) => [id, order]));
}

/**
 * What holds are for where an order is named. Where none is, a trigger sees to it that what an order makes is held for that order.
 *
 * @returns ids of orders, and why some may not be taken, both by item
 * @throws ProblemError INPUT_INVALID where it is no order, STEP_REFUSED where nothing is made under it any more
 */
export async function heldFor(
  manager: EntityManager,
  items: readonly DescribedVersion[],
  order: DescribedVersion | undefined,
): Promise<{ readonly orders: ReadonlyMap<string, string>; readonly refusals: ReadonlyMap<string, string> }> {
  if (order) await requireOpenOrder(manager, order);
  const known = await ordersOf(
    manager,
    items.map(({ itemId }) => itemId),
  );
  const orders = new Map<string, string>();
  const refusals = new Map<string, string>();
  for (const { itemId, kind, label } of items) {
    const other = known.get(itemId);
    if (isChange(kind) && order) refusals.set(itemId, 'a change is not made by another change');
    else if (other && order && other.orderId !== order.itemId)
      refusals.set(
        itemId,
        `${other.order} is at work on ${label}; wait until that is done, or work under it`,
      );
    else if (order) orders.set(itemId, order.itemId);
  }
  return { orders, refusals };
}

/** @throws ProblemError INPUT_INVALID where it is no order, STEP_REFUSED where nothing is made under it (any more) */
export async function requireOpenOrder(
  manager: EntityManager,
  { itemId, number, kind }: DescribedVersion,
): Promise<void> {
  if (kind !== 'order')
    throw new ProblemError('INPUT_INVALID', `${number} is no change order. Name one, as CO-0012.`);
  const [row] = await readRows(
    manager,
    { state: text, lane: word<Lane>() },
    'SELECT i.state, s.lane FROM item i JOIN state s ON s.name = i.state WHERE i.id = $1 FOR NO KEY UPDATE OF i',
    [itemId],
  );
  if (row?.lane !== 'open')
    throw new ProblemError(
      'STEP_REFUSED',
      `${number} is ${row?.state ?? 'gone'}, so that nothing is worked on under it. Nothing was changed.`,
    );
}

/** Ids of what a change has to do with: for `affected by` what has to change alone, else all of it and what was made under it. */
export async function itemsOfChange(
  asks: Asks,
  { itemId, kind, number }: DescribedVersion,
  relation: 'in change' | 'affected by',
): Promise<string[]> {
  if (!isChange(kind))
    throw new ProblemError(
      'INPUT_INVALID',
      `${number} is no change. Name a change request or order, as CO-0012.`,
    );
  const rows = await readRows(
    asks,
    { id: text },
    relation === 'affected by'
      ? `SELECT item_id AS id FROM change_line WHERE change_id = $1 AND relation = 'affects'`
      : `SELECT item_id AS id FROM change_line WHERE change_id = $1
         UNION SELECT r.item_id FROM change_makes m JOIN revision r ON r.id = m.revision_id WHERE m.change_id = $1
         UNION SELECT v.item_id FROM change_version c JOIN version v ON v.id = c.version_id WHERE c.change_id = $1`,
    [itemId],
  );
  return rows.map(({ id }) => id);
}
