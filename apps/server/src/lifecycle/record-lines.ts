/** All that was made, said and decided about items, in the order in which it happened. */
import type { EntityManager } from 'typeorm';
import { orNull, readRows, text, time } from '../database/read-rows.js';
import { LABEL } from '../store/item-row.js';

export interface RecordLine {
  readonly itemId: string;
  readonly at: Date;
  /** `version`, `step`, `signature`, `opened`, `point`, `answer`, `point closed`, `mark-up`, `remark`. */
  readonly what: string;
  /** `B/3`; empty where it is about none. */
  readonly version: string;
  readonly by: string;
  readonly words: string;
  /** Of a signer, as `Europe/Oslo`. */
  readonly zone: string | null;
}

const VERSION_OF = (id: string): string =>
  `(SELECT ${LABEL} FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = ${id})`;

/** `O(rows)` */
export async function recordLines(manager: EntityManager, itemIds: readonly string[]): Promise<RecordLine[]> {
  return readRows<RecordLine>(
    manager,
    { itemId: text, at: time, what: text, version: text, by: text, words: text, zone: orNull(text) },
    `SELECT item::text AS "itemId", at, what, coalesce(version, '') AS version, by, coalesce(words, '') AS words, zone FROM (
       SELECT v.item_id AS item, v.created_at AS at, 1 AS rank, 'version' AS what, ${LABEL} AS version, p.name AS by, v.comment AS words, NULL AS zone
         FROM version v JOIN revision r ON r.id = v.revision_id JOIN person p ON p.id = v.author_id WHERE v.item_id = ANY($1::bigint[])
       UNION ALL SELECT e.item_id, e.at, 3, 'step', e.detail->>'version', p.name, e.detail->>'says', NULL
         FROM event e JOIN person p ON p.id = e.person_id WHERE e.kind = 'step' AND e.item_id = ANY($1::bigint[])
       UNION ALL SELECT s.item_id, s.at, 2, 'signature', ${VERSION_OF('s.version_id')}, s.name, s.step, s.zone
         FROM signature s WHERE s.item_id = ANY($1::bigint[])
       UNION ALL SELECT c.item_id, c.at, 4, 'opened', '', p.name, '', NULL
         FROM check_seen c JOIN person p ON p.id = c.person_id WHERE c.item_id = ANY($1::bigint[])
       UNION ALL SELECT k.item_id, k.at, 5, 'point', ${VERSION_OF('k.version_id')}, p.name, k.words, NULL
         FROM check_point k JOIN person p ON p.id = k.person_id WHERE k.item_id = ANY($1::bigint[])
       UNION ALL SELECT k.item_id, k.answered_at, 6, 'answer', ${VERSION_OF('k.version_id')}, p.name, k.answer, NULL
         FROM check_point k JOIN person p ON p.id = k.answered_by WHERE k.item_id = ANY($1::bigint[])
       UNION ALL SELECT k.item_id, k.closed_at, 7, 'point closed', ${VERSION_OF('k.version_id')}, p.name, k.words, NULL
         FROM check_point k JOIN person p ON p.id = k.closed_by WHERE k.item_id = ANY($1::bigint[])
       UNION ALL SELECT m.item_id, m.at, 8, 'mark-up', ${VERSION_OF('m.version_id')}, p.name, m.words, NULL
         FROM mark_up m JOIN person p ON p.id = m.person_id WHERE m.item_id = ANY($1::bigint[])
       UNION ALL SELECT m.item_id, a.at, 9, 'remark', ${VERSION_OF('m.version_id')}, p.name, a.words, NULL
         FROM mark_up_remark a JOIN mark_up m ON m.id = a.mark_up_id JOIN person p ON p.id = a.person_id WHERE m.item_id = ANY($1::bigint[])
     ) said ORDER BY item, at, rank`,
    [itemIds],
  );
}
