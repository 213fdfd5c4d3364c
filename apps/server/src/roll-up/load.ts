/** What is needed to add up some items: their newest versions, and below these what is known already. */
import { known, ROLLED_UP, type PropertyValue, type RolledSum } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { isStructure } from '../database/conditions.js';
import { flag, json, listOf, number, orNull, readRows, text } from '../database/read-rows.js';

/** Versions whose links are read in one statement. */
const CHUNK = 2000;

export type RolledKey = (typeof ROLLED_UP)[number]['key'];

/** A property that adds up, in the unit that it adds up in; what has another one counts as unknown. */
export interface RolledProperty {
  readonly key: RolledKey;
  readonly unit: string;
}

/** A version with what it says of itself, or, where its item was added up before, with what came out. */
export interface RollUpNode {
  readonly version: string;
  readonly item: string;
  readonly place: string;
  readonly isPaper: boolean;
  readonly isNewest: boolean;
  readonly properties: readonly PropertyValue[];
  readonly known?: Readonly<Record<RolledKey, RolledSum>>;
  /** Places that something below lies in, where it is known. */
  readonly places: readonly string[];
}

export interface RollUpLink {
  readonly parent: string;
  /** Null for a gap. */
  readonly child: string | null;
  readonly quantity: number;
}

export interface LoadedRollUp {
  /** Items whose sums are wanted. */
  readonly wanted: ReadonlySet<string>;
  readonly nodes: ReadonlyMap<string, RollUpNode>;
  readonly links: readonly RollUpLink[];
  readonly properties: readonly RolledProperty[];
}

/** `O(links of the items)`: what lies below and was not touched is read, not gone through. */
export async function loadRollUp(manager: EntityManager, items: readonly string[]): Promise<LoadedRollUp> {
  const wanted = new Set(items);
  const nodes = new Map<string, RollUpNode>();
  const links: RollUpLink[] = [];
  let frontier = await newestOf(manager, items);
  while (frontier.length > 0) {
    const next = new Set<string>();
    for (let at = 0; at < frontier.length; at += CHUNK) {
      const some = frontier.slice(at, at + CHUNK);
      for (const node of await nodesOf(manager, some, wanted)) nodes.set(node.version, node);
      const open = some.filter((version) => !known(nodes, version).known);
      for (const link of await linksOf(manager, open)) {
        links.push(link);
        if (link.child !== null && !nodes.has(link.child)) next.add(link.child);
      }
    }
    frontier = [...next].filter((version) => !nodes.has(version));
  }
  return { wanted, nodes, links, properties: await propertiesOf(manager) };
}

/** Money adds up in the unit that costs are entered in. */
async function propertiesOf(manager: EntityManager): Promise<RolledProperty[]> {
  const rows = await readRows(manager, { unit: text }, `SELECT unit FROM property_known WHERE key = 'cost'`);
  return ROLLED_UP.map(({ key, unit }) => ({ key, unit: key === 'cost' ? (rows[0]?.unit ?? unit) : unit }));
}

async function newestOf(manager: EntityManager, items: readonly string[]): Promise<string[]> {
  const rows = await readRows(
    manager,
    { version: text },
    `SELECT newest_version_id::text AS version FROM item WHERE id = ANY($1::bigint[]) AND newest_version_id IS NOT NULL`,
    [items],
  );
  return rows.map(({ version }) => version);
}

/** Parts that live in a file of their assembly are taken as that file has them, all others as they are newest. */
async function linksOf(manager: EntityManager, versions: readonly string[]): Promise<RollUpLink[]> {
  return readRows<RollUpLink>(
    manager,
    { parent: text, child: orNull(text), quantity: number },
    `SELECT l.version_id::text AS parent, l.quantity::float8 AS quantity,
            CASE WHEN l.carried THEN l.target_version_id ELSE t.newest_version_id END::text AS child
     FROM link l LEFT JOIN item t ON t.id = l.target_item_id
     WHERE l.version_id = ANY($1::bigint[]) AND ${isStructure()}`,
    [versions],
  );
}

interface NodeRow {
  readonly version: string;
  readonly item: string;
  readonly place: string;
  readonly isPaper: boolean;
  readonly isNewest: boolean;
  readonly properties: PropertyValue[];
  readonly sums: (RolledSum & { readonly key: RolledKey })[];
  readonly places: string[] | null;
}

async function nodesOf(
  manager: EntityManager,
  versions: readonly string[],
  wanted: ReadonlySet<string>,
): Promise<RollUpNode[]> {
  const rows = await readRows<NodeRow>(
    manager,
    {
      version: text,
      item: text,
      place: text,
      isPaper: flag,
      isNewest: flag,
      properties: json<PropertyValue[]>(),
      sums: json<NodeRow['sums']>(),
      places: orNull(listOf(text)),
    },
    `SELECT v.id::text AS version, i.id::text AS item, i.place_id::text AS place,
            i.kind IN ('drawing', 'document') AS "isPaper", i.newest_version_id = v.id AS "isNewest",
            coalesce((SELECT jsonb_agg(p) FROM jsonb_array_elements(v.facts->'properties') p
              WHERE lower(p->>'name') = ANY($2::text[])), '[]') AS properties,
            coalesce((SELECT jsonb_agg(jsonb_build_object('key', u.key, 'value', u.value, 'unknown', u.unknown, 'of', u.lines))
              FROM roll_up u WHERE u.item_id = i.id), '[]') AS sums,
            (SELECT u.places::text[] FROM roll_up u WHERE u.item_id = i.id LIMIT 1) AS places
     FROM version v JOIN item i ON i.id = v.item_id WHERE v.id = ANY($1::bigint[])`,
    [versions, ROLLED_UP.map(({ key }) => key)],
  );
  return rows.map(({ sums, places, ...node }) => {
    const isKnown = node.isNewest && !wanted.has(node.item) && sums.length === ROLLED_UP.length;
    return {
      ...node,
      places: isKnown ? (places ?? []) : [],
      ...(isKnown
        ? {
            known: Object.fromEntries(sums.map(({ key, ...sum }) => [key, sum])) as Record<
              RolledKey,
              RolledSum
            >,
          }
        : {}),
    };
  });
}
