/** Nothing is made of itself, under any lens in which it would show. */
import { valueAt, known } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { isReleased, isStructure } from '../database/conditions.js';
import { orNull, readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';

/** What is followed: links of structure. A drawing that shows a part which names the drawing is no circle. */
const STRUCTURE = `${isStructure()} AND l.target_item_id IS NOT NULL`;

/** The version that a link leads to; what lives in the same file is in every lens what was recorded. */
const NEXT: Readonly<Record<CircleLens, string>> = {
  newest: 'CASE WHEN l.carried THEN l.target_version_id ELSE t.newest_version_id END',
  recorded: 'l.target_version_id',
  released: `CASE WHEN l.carried THEN l.target_version_id ELSE (
    SELECT v.id FROM version v JOIN revision r ON r.id = v.revision_id
    WHERE v.item_id = t.id AND ${isReleased()} ORDER BY v.ordinal DESC LIMIT 1) END`,
};

export type CircleLens = 'newest' | 'recorded' | 'released';

/**
 * Versions of one circle below the given ones, in order; empty where there is none. One query a level, then one walk:
 * `O(links below)`.
 */
export async function findCircle(
  manager: EntityManager,
  versions: readonly string[],
  lens: CircleLens,
): Promise<string[]> {
  const children = new Map<string, string[]>();
  let frontier = [...new Set(versions)];
  while (frontier.length > 0) {
    const rows = await readRows(
      manager,
      { parent: text, child: orNull(text) },
      `SELECT l.version_id AS parent, ${NEXT[lens]} AS child FROM link l JOIN item t ON t.id = l.target_item_id
       WHERE l.version_id = ANY($1::bigint[]) AND ${STRUCTURE}`,
      [frontier],
    );
    for (const id of frontier) children.set(id, []);
    const next = new Set<string>();
    for (const { parent, child } of rows) {
      if (child === null) continue;
      children.get(parent)?.push(child);
      if (!children.has(child)) next.add(child);
    }
    frontier = [...next];
  }
  return circleIn(children);
}

/** Depth first; arriving at a version that is on the way down closes a circle. */
function circleIn(children: ReadonlyMap<string, readonly string[]>): string[] {
  const done = new Set<string>();
  for (const start of children.keys()) {
    const path = done.has(start) ? [] : [{ id: start, next: 0 }];
    const onPath = new Set<string>(path.map(({ id }) => id));
    for (let top = path.at(-1); top; top = path.at(-1)) {
      const child = children.get(top.id)?.[top.next++];
      if (child === undefined) {
        done.add(top.id);
        onPath.delete(top.id);
        path.pop();
      } else if (onPath.has(child))
        return path.slice(path.findIndex(({ id }) => id === child)).map(({ id }) => id);
      else if (!done.has(child)) {
        onPath.add(child);
        path.push({ id: child, next: 0 });
      }
    }
  }
  return [];
}

/**
 * To be called when links were written or states changed, before the transaction ends.
 *
 * @param because how the sentence begins, `With these files`
 * @throws ProblemError INTAKE_CYCLE where an item would contain itself
 */
export async function refuseCircles(
  manager: EntityManager,
  itemIds: readonly string[],
  because: string,
  lens: 'newest' | 'released' = 'newest',
): Promise<void> {
  if (itemIds.length === 0) return;
  const starts = await readRows(
    manager,
    { id: text },
    lens === 'newest'
      ? 'SELECT newest_version_id AS id FROM item WHERE id = ANY($1::bigint[]) AND newest_version_id IS NOT NULL'
      : `SELECT DISTINCT ON (v.item_id) v.id FROM version v JOIN revision r ON r.id = v.revision_id
         WHERE v.item_id = ANY($1::bigint[]) AND ${isReleased()} ORDER BY v.item_id, v.ordinal DESC`,
    [itemIds],
  );
  const circle = await findCircle(
    manager,
    starts.map(({ id }) => id),
    lens,
  );
  if (circle.length === 0) return;
  const numbers = await readRows(
    manager,
    { id: text, number: text },
    'SELECT v.id, i.number FROM version v JOIN item i ON i.id = v.item_id WHERE v.id = ANY($1::bigint[])',
    [circle],
  );
  const numberOf = new Map(numbers.map(({ id, number }) => [id, number]));
  const chain = [...circle, valueAt(circle, 0)].map((id) => known(numberOf, id)).join(' › ');
  throw new ProblemError(
    'INTAKE_CYCLE',
    `${because} ${known(numberOf, valueAt(circle, 0))} would contain itself: ${chain}. Leave one of them out, or correct its references. Nothing was changed.`,
  );
}

/** Items below an item through any version of it and of what is below, itself included. `O(links below in all versions)`. */
export async function itemsEverBelow(manager: EntityManager, itemId: string): Promise<Set<string>> {
  const rows = await readRows(
    manager,
    { id: text },
    `WITH RECURSIVE below AS (
       SELECT $1::bigint AS item
       UNION SELECT l.target_item_id FROM below b JOIN version v ON v.item_id = b.item JOIN link l ON l.version_id = v.id
       WHERE ${STRUCTURE}
     ) SELECT item AS id FROM below`,
    [itemId],
  );
  return new Set(rows.map(({ id }) => id));
}
