import { baselineIn, effectiveIn, lensParts, type LensText } from '@stem-trace/contract';
import { numberKey, type EffectiveAt, type Lens } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { readRows, text as asText } from '../database/read-rows.js';
import { endOfSiteDay } from '../database/site-day.js';
import { ProblemError } from '../problems/problem.js';

/**
 * A lens from its text; a day means its end at the site.
 *
 * @param rights of whoever looks: a product that they may not see is none
 * @throws ProblemError INPUT_INVALID for a baseline that is not there, ITEM_UNKNOWN for a product
 */
export async function lensOf(
  manager: Pick<EntityManager, 'query'>,
  text: LensText,
  rights: Rights,
): Promise<Lens> {
  const { versions, configuration } = lensParts(text);
  const within = configuration === undefined ? {} : { configuration };
  if (versions === 'recorded' || versions === 'newest' || versions === 'released')
    return { kind: versions, ...within };
  const id = baselineIn(text);
  if (id !== undefined)
    return { kind: 'baseline', id, versions: await versionsOfBaseline(manager, id), ...within };
  const at = effectiveIn(text);
  if (at) return { ...(await effective(manager, at, rights)), ...within };
  return { kind: 'date', atMs: await endOfSiteDay(manager, versions), ...within };
}

/** Of a piece of a product, what is released by now; of a day, what was by its end. */
async function effective(
  manager: Pick<EntityManager, 'query'>,
  at: EffectiveAt,
  rights: Rights,
): Promise<Lens> {
  if (at.kind === 'day') return { kind: 'effective', at, untilMs: await endOfSiteDay(manager, at.day) };
  const [found] = await readRows(
    manager,
    { number: asText, placeId: asText },
    'SELECT number, place_id AS "placeId" FROM item WHERE number_key = $1',
    [numberKey(at.product)],
  );
  if (!found || !rights.may('see', found.placeId))
    throw new ProblemError(
      'ITEM_UNKNOWN',
      `There is no item ${at.product} in the store whose serial numbers could be looked at. Check the number, or look at a day.`,
    );
  return { kind: 'effective', at: { ...at, product: found.number }, untilMs: Number.MAX_VALUE };
}

async function versionsOfBaseline(
  manager: Pick<EntityManager, 'query'>,
  id: string,
): Promise<ReadonlySet<string>> {
  const rows = await readRows(
    manager,
    { version: asText },
    `SELECT version_id AS version FROM baseline WHERE id = $1
     UNION ALL SELECT version_id FROM baseline_item WHERE baseline_id = $1`,
    [id],
  );
  if (rows.length === 0)
    throw new ProblemError(
      'INPUT_INVALID',
      `There is no baseline ${id}. Look at those that an item has, or choose another lens.`,
    );
  return new Set(rows.map(({ version }) => version));
}
