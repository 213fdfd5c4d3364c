import { ROLLED_UP, type RolledSum } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { propertyRows, type PropertyRow } from '../database/property-index.js';
import { number, readRows } from '../database/read-rows.js';
import type { RolledProperty } from './load.js';
import type { ItemSums } from './sum-up.js';

/** Items written in one statement. */
const CHUNK = 2000;

/**
 * Keeps sums beside their items, and among the properties that are looked up: there a sum stands in the place of what an
 * assembly's file says of itself. What it says counts again once it is made of nothing.
 *
 * @returns how many sums are others than before
 */
export async function keepSums(
  manager: EntityManager,
  sums: readonly ItemSums[],
  properties: readonly RolledProperty[],
): Promise<number> {
  let changed = 0;
  for (let at = 0; at < sums.length; at += CHUNK) {
    const some = sums.slice(at, at + CHUNK);
    changed += await keepRolled(manager, some);
    await keepProperties(manager, some, properties);
  }
  return changed;
}

async function keepRolled(manager: EntityManager, sums: readonly ItemSums[]): Promise<number> {
  const rows = sums.flatMap(({ item, rolled, places }) =>
    rolled ? ROLLED_UP.map(({ key }) => ({ item_id: item, key, ...rolled[key], places })) : [],
  );
  const [{ count } = { count: 0 }] = await readRows(
    manager,
    { count: number },
    `WITH gone AS (
       DELETE FROM roll_up WHERE item_id = ANY($1::bigint[]) RETURNING 1
     ), kept AS (
       INSERT INTO roll_up (item_id, key, value, unknown, lines, places)
       SELECT item_id, key, value, unknown, lines, places
       FROM jsonb_to_recordset($2::jsonb) AS r(item_id bigint, key text, value float8, unknown float8, lines float8, places bigint[])
       ON CONFLICT (item_id, key) DO UPDATE SET value = EXCLUDED.value, unknown = EXCLUDED.unknown, lines = EXCLUDED.lines,
         places = EXCLUDED.places
         WHERE (roll_up.value, roll_up.unknown, roll_up.lines) IS DISTINCT FROM (EXCLUDED.value, EXCLUDED.unknown, EXCLUDED.lines)
           OR roll_up.places <> EXCLUDED.places RETURNING 1)
     SELECT ((SELECT count(*) FROM gone) + (SELECT count(*) FROM kept))::int AS count`,
    [
      sums.flatMap(({ item, rolled }) => (rolled ? [] : [item])),
      JSON.stringify(rows.map(({ of, ...row }) => ({ ...row, lines: of }))),
    ],
  );
  return count;
}

interface KeptProperty extends Pick<PropertyRow, 'key' | 'number' | 'unit' | 'said' | 'shown'> {
  readonly item_id: string;
  readonly rolled: boolean;
}

async function keepProperties(
  manager: EntityManager,
  sums: readonly ItemSums[],
  rolledUp: readonly RolledProperty[],
): Promise<void> {
  const rows = sums.flatMap(({ item, rolled, properties }): KeptProperty[] =>
    rolled
      ? rolledUp.flatMap(({ key, unit }) => {
          const sum = rolled[key];
          if (sum.unknown >= sum.of) return [];
          const shown = saySum(sum, unit);
          const [number, said] = [sum.value, shown.toLowerCase()];
          return [{ item_id: item, key, number, unit, said, shown, rolled: true }];
        })
      : propertyRows(properties).map((row) => ({ item_id: item, ...row, rolled: false })),
  );
  await manager.query(
    `DELETE FROM item_property WHERE item_id = ANY($1::bigint[]) AND key = ANY($2::text[])`,
    [sums.map(({ item }) => item), ROLLED_UP.map(({ key }) => key)],
  );
  if (rows.length === 0) return;
  // Whoever brings in a newer version meanwhile has left a note, so that what they wrote is worked out once more. All write in
  // one order: nobody waits for somebody who waits for them.
  await manager.query(
    `INSERT INTO item_property (item_id, key, number, unit, said, shown, rolled)
     SELECT item_id, key, number, unit, said, shown, rolled FROM jsonb_to_recordset($1::jsonb)
       AS r(item_id bigint, key text, number float8, unit text, said text, shown text, rolled boolean)
     ORDER BY item_id, key
     ON CONFLICT (item_id, key) DO UPDATE SET number = EXCLUDED.number, unit = EXCLUDED.unit, said = EXCLUDED.said,
       shown = EXCLUDED.shown, rolled = EXCLUDED.rolled`,
    [JSON.stringify(rows)],
  );
}

/** Digits that a sum is shown with; what is added up is less sure than what was entered. */
const DIGITS = 6;

/** A sum with what it lacks: `≥ 12.5 kg, 3 of 40 unknown`. */
export function saySum({ value, unknown, of }: RolledSum, unit: string): string {
  const said = `${Number(value.toPrecision(DIGITS))} ${unit}`.trim();
  return unknown === 0 ? said : `≥ ${said}, ${unknown} of ${of} unknown`;
}
