import { baselineIn, lensParts, type LensText } from '@stem-trace/contract';
import type { Lens } from '@stem-trace/core';
import { readRows, text as asText } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { EntityManager } from 'typeorm';

/**
 * A lens from its text; a day means its end, UTC.
 *
 * @throws ProblemError INPUT_INVALID for a baseline that is not there
 */
export async function lensOf(manager: Pick<EntityManager, 'query'>, text: LensText): Promise<Lens> {
  const { versions, configuration } = lensParts(text);
  const within = configuration === undefined ? {} : { configuration };
  if (versions === 'recorded' || versions === 'newest' || versions === 'released')
    return { kind: versions, ...within };
  const id = baselineIn(text);
  if (id !== undefined)
    return { kind: 'baseline', id, versions: await versionsOfBaseline(manager, id), ...within };
  return { kind: 'date', atMs: Date.parse(`${versions}T23:59:59.999Z`), ...within };
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
