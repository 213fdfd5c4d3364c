import { heldBy } from './holds.js';

/** `B/3`; wants `revision` as `r` and `version` as `v`. */
export const LABEL = `r.code || '/' || v.seq`;

/** Columns and tables of an `ItemRow`: items with their newest versions. @param hidden as `heldBy` */
export const rowFor = (hidden: string): string => `
  i.number, i.name, i.kind, ${LABEL} AS version, r.state, p.path AS place, v.created_at AS "changedAt", a.name AS "changedBy", ${heldBy(hidden)}
  FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
  JOIN place p ON p.id = i.place_id JOIN person a ON a.id = v.author_id`;
