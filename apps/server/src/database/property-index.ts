import { sayValue, toSi, type PropertyValue } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { json, orNull, readRows, text } from './read-rows.js';

export interface PropertyRow {
  readonly key: string;
  readonly name: string;
  readonly kind: PropertyValue['kind'];
  readonly number: number | null;
  /** Of the number, in SI base units. */
  readonly unit: string | null;
  readonly said: string;
  readonly shown: string;
}

/** A property as it is looked up; the last of several with one name counts. */
export function propertyRows(properties: readonly PropertyValue[]): PropertyRow[] {
  const rows = new Map<string, PropertyRow>();
  for (const property of properties) {
    const shown = sayValue(property);
    const si = property.kind === 'number' ? toSi(property.value, property.unit) : undefined;
    const key = property.name.toLowerCase();
    if (shown === '') continue;
    const isNumber = property.kind === 'number' && Number.isFinite(si?.value ?? property.value);
    rows.set(key, {
      key,
      name: property.name,
      kind: property.kind,
      number: isNumber ? (si?.value ?? property.value) : null,
      unit: isNumber ? (si?.unit ?? property.unit) : null,
      said: shown.toLowerCase(),
      shown,
    });
  }
  return [...rows.values()];
}

/** Writes the properties of versions, and what steps set of their revisions, as those of their items, where they are the newest. */
export async function indexProperties(manager: EntityManager, versionIds: readonly string[]): Promise<void> {
  const versions = await readRows(
    manager,
    { itemId: text, properties: orNull(json<PropertyValue[]>()) },
    `SELECT v.item_id AS "itemId", coalesce(v.facts->'properties', '[]') || r.set_values AS properties
     FROM version v JOIN item i ON i.newest_version_id = v.id JOIN revision r ON r.id = v.revision_id WHERE v.id = ANY($1::bigint[])`,
    [versionIds],
  );
  const rows = versions.flatMap(({ itemId, properties }) =>
    propertyRows(properties ?? []).map((row) => ({ item_id: itemId, ...row })),
  );
  // What an assembly adds up to stays until it is added up anew; what its file says does not count beside it.
  await manager.query('DELETE FROM item_property WHERE item_id = ANY($1::bigint[]) AND NOT rolled', [
    versions.map(({ itemId }) => itemId),
  ]);
  if (rows.length === 0) return;
  const shape =
    'item_id bigint, key text, name text, kind text, number float8, unit text, said text, shown text';
  await manager.query(
    `INSERT INTO item_property (item_id, key, number, unit, said, shown)
     SELECT item_id, key, number, unit, said, shown FROM jsonb_to_recordset($1::jsonb) AS r(${shape})
     ORDER BY item_id, key ON CONFLICT DO NOTHING`,
    [JSON.stringify(rows)],
  );
  // The unit that a property is first entered in is the one that a bare number means.
  const known = new Map(
    versions.flatMap(({ properties }) =>
      (properties ?? []).map((property) => [
        property.name.toLowerCase(),
        {
          key: property.name.toLowerCase(),
          name: property.name,
          kind: property.kind,
          unit: property.kind === 'number' ? property.unit : '',
        },
      ]),
    ),
  );
  await manager.query(
    `INSERT INTO property_known SELECT * FROM jsonb_to_recordset($1::jsonb) AS r(key text, name text, kind text, unit text)
     ON CONFLICT DO NOTHING`,
    [JSON.stringify([...known.values()])],
  );
}

/** Gives new items the looked-up properties of what their newest versions are copies of. */
export async function copyProperties(
  manager: EntityManager,
  copies: readonly { readonly origin: string; readonly made: string }[],
): Promise<void> {
  // What was copied from an older version has that version's properties, which only its facts say.
  const older = await readRows(
    manager,
    { made: text },
    `WITH copy AS MATERIALIZED (
       SELECT n.id AS item, c.made, o.id AS origin, coalesce(o.newest_version_id = c.origin, false) AS is_newest
       FROM jsonb_to_recordset($1::jsonb) AS c(origin bigint, made bigint)
       JOIN item n ON n.newest_version_id = c.made JOIN version v ON v.id = c.origin JOIN item o ON o.id = v.item_id
     ), copied AS (
       INSERT INTO item_property (item_id, key, number, unit, said, shown, rolled)
       SELECT c.item, p.key, p.number, p.unit, p.said, p.shown, p.rolled FROM copy c JOIN item_property p ON p.item_id = c.origin
       WHERE c.is_newest
     )
     SELECT made FROM copy WHERE NOT is_newest`,
    [JSON.stringify(copies)],
  );
  if (older.length > 0)
    await indexProperties(
      manager,
      older.map(({ made }) => made),
    );
}
