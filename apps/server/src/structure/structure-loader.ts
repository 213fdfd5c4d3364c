import { Injectable } from '@nestjs/common';
import {
  follow,
  isIn,
  pickVersion,
  STRUCTURE_RELATIONS,
  StructureGraph,
  type Amount,
  type Effectivity,
  type Lens,
  type LinkEdge,
  type Relation,
  type VersionNode,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { COUNTS_FROM, isStructure, RELEASED_AT, timeOf } from '../database/conditions.js';
import { flag, json, listOf, number, orAbsent, readRows, text } from '../database/read-rows.js';

const LINK = `
  SELECT l.id, e.spans AS effectivity, l.version_id AS "parentVersion", l.target_item_id AS "targetItem", l.target_version_id AS "targetVersion",
         l.quantity::float8 AS quantity, l.carried, coalesce(nullif(l.target_id_in_file, ''), l.target_name_in_file) AS "targetText",
         l.locator, l.configurations, l.occurrences, l.find, l.amount, l.position
  FROM link l LEFT JOIN effectivity e ON e.link_id = l.id`;

/** Where a link leads; the database says null where the core leaves a member out. */
export const LINK_ENDS = {
  id: text,
  parentVersion: text,
  targetItem: orAbsent(text),
  targetVersion: orAbsent(text),
  locator: orAbsent(text),
};

export interface BelowOptions {
  readonly levels?: number;
  /**
   * Whether all versions of the items are wanted. Without, only those that links recorded are there: half the cost,
   * but then only the lens `recorded` can be asked, and nothing is seen to be behind.
   */
  readonly history?: boolean;
  readonly manager?: EntityManager;
}

/** Fetches the part of the link graph that a question needs, level by level, one query a level. */
@Injectable()
export class StructureLoader {
  constructor(private readonly database: DataSource) {}

  /** What versions are made of under a lens, so many levels deep and the links of the level below. */
  async below(
    root: string | readonly string[],
    lens: Lens,
    { levels = Infinity, history = true, manager = this.database.manager }: BelowOptions = {},
  ): Promise<StructureGraph> {
    const roots = typeof root === 'string' ? [root] : root;
    const graph = new StructureGraph(await loadVersions(manager, 'v.id', roots), []);
    const seen = new Set<string>(roots);
    const known = new Set<string>();
    let frontier = [...roots];
    for (let level = 0; level <= levels && frontier.length > 0; level++) {
      const links = (await loadLinks(manager, 'l.version_id', frontier)).filter((link) => isIn(link, lens));
      const wanted = new Set<string>();
      for (const { targetItem, targetVersion } of links) {
        const id = history ? targetItem : targetVersion;
        if (id !== undefined && !known.has(id)) wanted.add(id);
      }
      for (const id of wanted) known.add(id);
      graph.add(await loadVersions(manager, history ? 'v.item_id' : 'v.id', [...wanted]), links);
      const next = new Set<string>();
      for (const link of links) {
        const id = follow(graph, link, lens)?.id;
        if (id !== undefined && !seen.has(id)) next.add(id);
      }
      for (const id of next) seen.add(id);
      frontier = [...next];
    }
    return graph;
  }

  /** Those of some versions that are made of something under a lens. */
  async withLinks(
    versionIds: readonly string[],
    lens: Lens,
    manager: EntityManager = this.database.manager,
  ): Promise<ReadonlySet<string>> {
    const rows = await readRows(
      manager,
      { id: text },
      `SELECT v.id FROM unnest($1::bigint[]) AS v(id) WHERE EXISTS (
         SELECT FROM link l LEFT JOIN effectivity e ON e.link_id = l.id WHERE l.version_id = v.id AND ${isStructure()}
           AND ($2::text IS NULL OR l.configurations = '{}' OR $2 = ANY(l.configurations))
           AND (($3::text IS NULL AND $4::text IS NULL) OR in_effect(e.spans, $3, $4, $5::bigint)))`,
      [versionIds, lens.configuration ?? null, ...effectiveParameters(lens)],
    );
    return new Set(rows.map(({ id }) => id));
  }

  /**
   * Drawings of items: for each drawing the version that the lens picks, and the items that it shows.
   *
   * @returns items shown by the drawing's version
   */
  async drawingsOf(
    itemIds: readonly string[],
    lens: Lens,
    manager: EntityManager = this.database.manager,
  ): Promise<Map<string, string[]>> {
    const drawings = await readRows(
      manager,
      { id: text },
      `SELECT DISTINCT v.item_id AS id FROM link l JOIN version v ON v.id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND l.relation = 'depicts'`,
      [itemIds],
    );
    const ids = drawings.map(({ id }) => id);
    const graph = new StructureGraph(await loadVersions(manager, 'v.item_id', ids), []);
    const picked = ids.flatMap((id) => pickVersion(graph, id, lens)?.id ?? []);
    const shown = await readRows(
      manager,
      { version: text, items: listOf(text) },
      `SELECT version_id AS version, array_agg(target_item_id::text) AS items FROM link
       WHERE version_id = ANY($1::bigint[]) AND relation = 'depicts' AND target_item_id = ANY($2::bigint[])
       GROUP BY version_id`,
      [picked, itemIds],
    );
    return new Map(shown.map(({ version, items }) => [version, items]));
  }

  /** All that uses an item, in any version, up to the tops. */
  async above(itemId: string): Promise<StructureGraph> {
    const { manager } = this.database;
    const graph = new StructureGraph(await loadVersions(manager, 'v.item_id', [itemId]), []);
    const seen = new Set<string>([itemId]);
    let frontier = [itemId];
    while (frontier.length > 0) {
      const links = await loadLinks(manager, 'l.target_item_id', frontier);
      const rows = await readRows(
        manager,
        { itemId: text },
        'SELECT DISTINCT item_id AS "itemId" FROM version WHERE id = ANY($1::bigint[])',
        [links.map((link) => link.parentVersion)],
      );
      frontier = rows.map((row) => row.itemId).filter((id) => !seen.has(id));
      frontier.forEach((id) => seen.add(id));
      graph.add(await loadVersions(manager, 'v.item_id', frontier), links);
    }
    return graph;
  }
}

/** Day, product and serial number that a lens looks at, as `in_effect` of the database takes them. */
function effectiveParameters(lens: Lens): [string | null, string | null, number | null] {
  if (lens.kind !== 'effective') return [null, null, null];
  const { at } = lens;
  return at.kind === 'day' ? [at.day, null, null] : [null, at.product, at.serial];
}

async function loadVersions(
  manager: EntityManager,
  column: 'v.id' | 'v.item_id',
  ids: readonly string[],
): Promise<VersionNode[]> {
  if (ids.length === 0) return [];
  return readRows<VersionNode>(
    manager,
    {
      ...{ id: text, itemId: text, ordinal: number, createdAtMs: number, releasedAtMs: number },
      effectivity: orAbsent(json<Effectivity>()),
    },
    `SELECT v.id, v.item_id AS "itemId", v.ordinal, ${timeOf('v.created_at')} AS "createdAtMs",
            ${RELEASED_AT} AS "releasedAtMs", ${COUNTS_FROM} AS effectivity
     FROM version v JOIN revision r ON r.id = v.revision_id WHERE ${column} = ANY($1::bigint[])`,
    [ids],
  );
}

export async function loadLinks(
  manager: EntityManager,
  column: 'l.version_id' | 'l.target_item_id',
  ids: readonly string[],
  relations: readonly Relation[] = STRUCTURE_RELATIONS,
): Promise<LinkEdge[]> {
  return readRows<LinkEdge>(
    manager,
    {
      ...LINK_ENDS,
      quantity: number,
      carried: flag,
      targetText: text,
      configurations: listOf(text),
      effectivity: orAbsent(json<Effectivity>()),
      occurrences: json(),
      find: text,
      amount: orAbsent(json<Amount>()),
      position: number,
    },
    `${LINK} WHERE ${column} = ANY($1::bigint[]) AND l.relation = ANY($2::text[]) ORDER BY l.version_id, l.position`,
    [ids, relations],
  );
}
