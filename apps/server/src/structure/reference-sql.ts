/** Where-used as one recursive query: what the index is held against, in tests and in measurements. */
import type { Lens } from '@stem-trace/core';
import { isStructure } from '../database/conditions.js';

const NEWEST = 'SELECT newest_version_id AS id, id AS item_id FROM item WHERE newest_version_id IS NOT NULL';

/** Which version of each item counts as a user. `$2` is the time of the lenses *On date* and *Effective on*, or the id of a baseline. */
const COUNTED: Readonly<Record<Lens['kind'], string>> = {
  recorded: `SELECT live.id, v.item_id FROM live JOIN version v ON v.id = live.id`,
  newest: NEWEST,
  released: `SELECT DISTINCT ON (v.item_id) v.id, v.item_id FROM version v JOIN revision r ON r.id = v.revision_id
    WHERE r.state IN ('released', 'superseded') ORDER BY v.item_id, v.ordinal DESC`,
  date: `SELECT DISTINCT ON (item_id) id, item_id FROM version
    WHERE created_at <= to_timestamp($2::float8 / 1000) ORDER BY item_id, ordinal DESC`,
  effective: `SELECT DISTINCT ON (v.item_id) v.id, v.item_id FROM version v JOIN revision r ON r.id = v.revision_id
    WHERE r.state IN ('released', 'superseded') AND r.released_at <= to_timestamp(least($2::float8, 1e13) / 1000)
      AND NOT EXISTS (SELECT FROM change_makes m JOIN change c ON c.item_id = m.change_id WHERE m.revision_id = r.id AND NOT COUNTS)
    ORDER BY v.item_id, v.ordinal DESC`,
  baseline: `SELECT v.id, v.item_id FROM version v WHERE v.id IN (
    SELECT version_id FROM baseline WHERE id = $2 UNION ALL SELECT version_id FROM baseline_item WHERE baseline_id = $2)`,
};

/** Versions that some newest one still reaches as recorded. */
const live = (isIn: string): string => `
  live AS (
    SELECT newest_version_id AS id FROM item WHERE newest_version_id IS NOT NULL
    UNION SELECT l.target_version_id FROM live JOIN link l ON l.version_id = live.id
      WHERE ${isStructure()} AND l.target_version_id IS NOT NULL ${isIn}),`;

function firstOf(lens: Lens): unknown[] {
  switch (lens.kind) {
    case 'date':
      return [lens.atMs];
    case 'baseline':
      return [lens.id];
    case 'effective':
      return [lens.untilMs];
    default:
      return [];
  }
}

/** Condition on limits, as SQL of where they are. */
function inEffect(lens: Lens, values: unknown[]): (spans: string) => string {
  if (lens.kind !== 'effective') return () => 'true';
  if (lens.at.kind === 'day') {
    const day = values.push(lens.at.day) + 1;
    return (spans) => `in_effect(${spans}, $${day}, NULL, NULL)`;
  }
  const product = values.push(lens.at.product) + 1;
  const serial = values.push(lens.at.serial) + 1;
  return (spans) => `in_effect(${spans}, NULL, $${product}, $${serial})`;
}

/**
 * Every version that uses item `$1`, with the shortest way to it and the quantity over all ways. For structures without
 * carried parts: those follow their carrier under every lens.
 */
export function whereUsedSql(lens: Lens): { readonly sql: string; readonly values: readonly unknown[] } {
  const fixed = lens.kind === 'recorded' ? 'AND l.target_version_id = up.id' : '';
  const values: unknown[] = firstOf(lens);
  const inConfiguration =
    lens.configuration === undefined
      ? ''
      : `AND (l.configurations = '{}' OR $${values.push(lens.configuration) + 1} = ANY(l.configurations))`;
  const counts = inEffect(lens, values);
  const isIn = `${inConfiguration} AND ${counts('(SELECT spans FROM effectivity WHERE link_id = l.id)')}`;
  return {
    sql: `WITH RECURSIVE ${lens.kind === 'recorded' ? live(isIn) : ''}
      counted AS MATERIALIZED (${COUNTED[lens.kind].replace('COUNTS', counts('c.spans'))}),
      up AS (
        SELECT c.id, c.item_id, 1 AS level, l.quantity AS total
        FROM link l JOIN counted c ON c.id = l.version_id
        WHERE l.target_item_id = $1 AND ${isStructure()} ${isIn}
        UNION ALL
        SELECT c.id, c.item_id, up.level + 1, up.total * l.quantity
        FROM up JOIN link l ON l.target_item_id = up.item_id AND ${isStructure()} ${fixed} ${isIn}
        JOIN counted c ON c.id = l.version_id)
      SELECT id::float8 AS version, min(level) AS level, sum(total)::float8 AS total FROM up GROUP BY id`,
    values,
  };
}
