import { addTo } from '@stem-trace/core';
import type { DataSource } from 'typeorm';
import { readRows, text } from '../database/read-rows.js';

/** What a drawing calls an item that its own one is made of, and what the store calls it. */
export interface Mention {
  readonly was: string;
  readonly number: string;
  readonly placeId: string;
}

/**
 * By drawing: names that its lettering may use for what lies below the item that it depicts, as in a list of parts. These are what the
 * files below call it, and, as long as the drawing still is the file that was copied, what the origins of what was copied with it are
 * called, though it may have been omitted since. A name that stands for two items is not among them: nobody could tell which is
 * meant. `O(links below)`
 *
 * @param drawings ids of versions
 */
export async function mentionsIn(
  database: DataSource,
  drawings: readonly string[],
): Promise<Map<string, Mention[]>> {
  if (drawings.length === 0) return new Map();
  const rows = await readRows<Mention & { readonly drawing: string }>(
    database,
    { drawing: text, was: text, number: text, placeId: text },
    `WITH RECURSIVE below(drawing, item) AS (
       SELECT version_id, target_item_id FROM link
       WHERE version_id = ANY($1::bigint[]) AND relation = 'depicts' AND target_item_id IS NOT NULL
       UNION
       SELECT b.drawing, c.target_item_id FROM below b JOIN item i ON i.id = b.item JOIN link c ON c.version_id = i.newest_version_id
       WHERE c.relation = 'component' AND c.target_item_id IS NOT NULL
     ), copied(drawing, derivation, version) AS (
       -- What lay below it in the origin, as that was recorded, while the drawing still is the file that was copied.
       SELECT d.id, di.derivation_id, l.target_version_id
       FROM version d JOIN item di ON di.id = d.item_id
       JOIN version f ON f.item_id = d.item_id AND f.sha256 = d.sha256 AND f.origin_version_id IS NOT NULL
       JOIN link l ON l.version_id = f.origin_version_id AND l.relation = 'depicts'
       WHERE d.id = ANY($1::bigint[]) AND l.target_version_id IS NOT NULL
       UNION
       SELECT w.drawing, w.derivation, c.target_version_id FROM copied w JOIN link c ON c.version_id = w.version
       WHERE c.relation = 'component' AND c.target_version_id IS NOT NULL
     ), kin(drawing, item) AS (
       SELECT DISTINCT w.drawing, t.id FROM copied w JOIN version o ON o.id = w.version
       JOIN item t ON t.derivation_id = w.derivation JOIN version tv ON tv.id = t.origin_version_id AND tv.item_id = o.item_id
     ), back(item, origin) AS (
       SELECT i.id, v.item_id FROM item i JOIN version v ON v.id = i.origin_version_id WHERE i.id IN (SELECT item FROM kin)
       UNION
       SELECT k.item, v.item_id FROM back k JOIN item i ON i.id = k.origin JOIN version v ON v.id = i.origin_version_id
     ), called(drawing, was, item) AS (
       SELECT b.drawing, c.target_id_in_file, c.target_item_id
       FROM below b JOIN item i ON i.id = b.item JOIN link c ON c.version_id = i.newest_version_id
       WHERE c.relation = 'component' AND c.target_item_id IS NOT NULL AND c.target_id_in_file <> ''
       UNION
       SELECT k.drawing, o.number, k.item FROM kin k JOIN back b ON b.item = k.item JOIN item o ON o.id = b.origin
     )
     SELECT c.drawing::text AS drawing, c.was, t.number, t.place_id::text AS "placeId"
     FROM called c JOIN item t ON t.id = c.item ORDER BY c.drawing, c.was`,
    [[...new Set(drawings)]],
  );
  const meant = new Map<string, Map<string, Mention[]>>();
  for (const { drawing, ...mention } of rows) {
    const known = meant.get(drawing) ?? new Map<string, Mention[]>();
    meant.set(drawing, known);
    addTo(known, mention.was, mention);
  }
  return new Map(
    [...meant].map(([drawing, known]) => [
      drawing,
      [...known.values()].flatMap(([mention, another]) => (mention && !another ? [mention] : [])),
    ]),
  );
}
