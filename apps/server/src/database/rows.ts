import type { EntityManager } from 'typeorm';
import { readRows, text } from './read-rows.js';

/**
 * Inserts many rows in one statement: the rows travel as one JSON parameter and are unfolded by the database, so
 * that ten thousand rows cost about as much as ten.
 *
 * @param columns column name to PostgreSQL type; the rows' members have the columns' names. With a column `id` the rows
 *   bring ids that were reserved.
 * @returns the new ids, in the order of the rows
 */
export async function insertRows(
  manager: EntityManager,
  table: string,
  columns: Readonly<Record<string, string>>,
  rows: readonly Readonly<Record<string, unknown>>[],
): Promise<string[]> {
  if (rows.length === 0) return [];
  const names = Object.keys(columns);
  const shape = names.map((name) => `${name} ${columns[name]}`).join(', ');
  const inserted = await readRows(
    manager,
    { id: text },
    `INSERT INTO ${table} (${names.join(', ')}) ${names.includes('id') ? 'OVERRIDING SYSTEM VALUE' : ''}
     SELECT ${names.map((name) => `r.${name}`).join(', ')}
     FROM ROWS FROM (jsonb_to_recordset($1::jsonb) AS (${shape})) WITH ORDINALITY AS r(${names.join(', ')}, at)
     ORDER BY r.at
     RETURNING id`,
    [JSON.stringify(rows)],
  );
  return inserted.map((row) => row.id);
}

/** Ids for rows that will be inserted later in this transaction, ascending, for what must name them before. */
export async function reserveIds(manager: EntityManager, table: string, count: number): Promise<string[]> {
  const rows = await readRows(
    manager,
    { id: text },
    `WITH ids AS MATERIALIZED (SELECT pg_get_serial_sequence($1, 'id')::regclass AS counter)
     SELECT nextval(counter) AS id FROM ids, generate_series(1, $2)`,
    [table, count],
  );
  return rows.map(({ id }) => id);
}
