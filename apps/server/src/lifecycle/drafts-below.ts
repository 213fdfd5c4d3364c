import type { State, StepPreview } from '@stem-trace/contract';
import type { EntityManager } from 'typeorm';
import { isReleased, isStructure } from '../database/conditions.js';
import { readRows, text, word } from '../database/read-rows.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';

/** More are counted no further: the point has been made. */
const MOST_DRAFTS = 500;

/** What the versions record, at any level, that does not count as released. */
export async function draftsBelow(
  manager: EntityManager,
  targets: readonly DescribedVersion[],
  hidden: readonly string[],
): Promise<(StepPreview['drafts'][number] & { readonly id: string })[]> {
  return readRows(
    manager,
    { id: text, number: text, name: text, version: text, state: word<State>() },
    `WITH RECURSIVE below(id) AS (
       SELECT unnest($1::bigint[])
       UNION SELECT l.target_version_id FROM below JOIN link l ON l.version_id = below.id
       WHERE l.target_version_id IS NOT NULL AND ${isStructure()}
     )
     SELECT i.id, i.number, i.name, ${LABEL} AS version, r.state FROM below JOIN version v ON v.id = below.id
     JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id
     WHERE v.id <> ALL($1::bigint[]) AND NOT (${isReleased('r')}) AND i.place_id <> ALL($2::bigint[]) ORDER BY i.number_key LIMIT ${MOST_DRAFTS}`,
    [targets.map(({ id }) => id), hidden],
  );
}
