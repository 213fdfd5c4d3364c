/** Gaps of versions that are in the store already, filled by what comes in. */
import {
  known,
  base,
  comesIn,
  isModel,
  nameFold,
  normaliseLocator,
  numberKey,
  pathsOf,
  storePathOf,
  type IntakePlan,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { orNull, readRows, text } from '../database/read-rows.js';
import { itemsEverBelow } from '../store/circles.js';
import { targetOf, type Target } from './targets.js';

interface FillContext {
  readonly plan: IntakePlan;
  readonly place: string;
  readonly targets: ReadonlyMap<string, Target>;
}

interface Gap {
  readonly id: string;
  readonly versionId: string;
  readonly itemId: string;
  readonly locator: string | null;
  readonly number: string;
  readonly storedPlace: string;
}

/**
 * Fills gaps of older links that mean what just came in, by the same certainties that a plan goes by: the path from where the
 * file lay, the same in other capitals, the product's number, and for an absolute path what lies beside. A file that came in
 * again as it is has its own gaps filled as they are resolved now. A gap whose filling would close a circle stays.
 *
 * @returns how many were filled
 */
export async function fillGaps(manager: EntityManager, context: FillContext): Promise<number> {
  const { plan, targets } = context;
  const written = new Set<string>();
  for (const { key, status } of plan.rows)
    if (status.kind === 'new' || status.kind === 'newVersion') written.add(known(targets, key).versionId);
  const resolve = newcomersIn(context);
  const own = ownReferences(context);
  const gaps = await readRows<Gap>(
    manager,
    { id: text, versionId: text, itemId: text, locator: orNull(text), number: text, storedPlace: text },
    `SELECT l.id, l.version_id AS "versionId", v.item_id AS "itemId", l.locator, l.target_id_in_file AS number,
            v.stored_place AS "storedPlace"
     FROM link l JOIN version v ON v.id = l.version_id
     WHERE l.target_item_id IS NULL AND (l.locator IS NOT NULL OR l.relation = 'depicts') ORDER BY l.id`,
  );
  const below = new Map<string, ReadonlySet<string>>();
  let filled = 0;
  for (const gap of gaps) {
    if (written.has(gap.versionId)) continue;
    const target = own.get(`${gap.versionId}\n${gap.locator ?? gap.number}`) ?? resolve(gap);
    if (!target) continue;
    const belowTarget = below.get(target.itemId) ?? (await itemsEverBelow(manager, target.itemId));
    below.set(target.itemId, belowTarget);
    if (belowTarget.has(gap.itemId)) continue;
    await manager.query('UPDATE link SET target_item_id = $2, target_version_id = $3 WHERE id = $1', [
      gap.id,
      target.itemId,
      target.versionId,
    ]);
    filled++;
  }
  return filled;
}

/** What the plan resolved for files that came in unchanged, by version and text. */
function ownReferences({ plan, targets }: FillContext): Map<string, Target> {
  const found = new Map<string, Target>();
  for (const { key, status, links } of plan.rows) {
    const version = targets.get(key)?.versionId;
    if (status.kind !== 'unchanged' || version === undefined) continue;
    for (const { product, target } of links) {
      const meant = targetOf(target, targets);
      if (meant) found.set(`${version}\n${product.locator ?? product.id}`, meant);
    }
  }
  return found;
}

/** Looks among the rows that came in for what a gap means. */
function newcomersIn({ plan, place, targets }: FillContext): (gap: Gap) => Target | undefined {
  const exact = new Map<string, Target>();
  const folded = new Map<string, Target | 'several'>();
  const byNumber = new Map<string, Target>();
  for (const row of plan.rows) {
    const target = targets.get(row.key);
    if (!target || !comesIn(row)) continue;
    if (isModel(row.product.kind)) byNumber.set(numberKey(row.number), target);
    if (row.carrier !== undefined) continue;
    const path = storePathOf(place, row.path);
    exact.set(path, target);
    folded.set(nameFold(path), folded.has(nameFold(path)) ? 'several' : target);
  }
  const at = (path: string): Target | undefined => {
    const found = exact.get(path) ?? folded.get(nameFold(path));
    return found === 'several' ? undefined : found;
  };
  return ({ locator, number, storedPlace }) => {
    const numbered = number === '' ? undefined : byNumber.get(numberKey(number));
    if (locator === null) return numbered;
    for (const path of pathsOf(locator, storedPlace.slice(1)).paths) {
      const found = at(`/${path}`);
      if (found) return found;
    }
    if (numbered) return numbered;
    const written = normaliseLocator(locator);
    const folder = storedPlace === '/' ? '' : storedPlace;
    return written.absolute ? at(`${folder}/${base(written.path)}`) : undefined;
  };
}

/** What files of an intake refer to and is not in the store, as it is now. */
export async function gapsLeft(
  manager: EntityManager,
  plan: IntakePlan,
  targets: ReadonlyMap<string, Target>,
): Promise<{ file: string; locator: string }[]> {
  const pathOf = new Map<string, string>();
  for (const row of plan.rows) {
    const target = targets.get(row.key);
    if (target && comesIn(row) && row.status.kind !== 'refused') pathOf.set(target.versionId, row.path);
  }
  const rows = await readRows(
    manager,
    { version: text, locator: text },
    `SELECT version_id AS version, coalesce(locator, target_id_in_file) AS locator FROM link
     WHERE target_item_id IS NULL AND version_id = ANY($1::bigint[]) ORDER BY version_id, position`,
    [[...pathOf.keys()]],
  );
  return rows.map(({ version, locator }) => ({ file: known(pathOf, version), locator }));
}
