import { Injectable } from '@nestjs/common';
import {
  follow,
  pickVersion,
  StructureGraph,
  type Lens,
  type LinkEdge,
  type Relation,
  type VersionNode,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';

const LINK = `
  SELECT l.id, l.version_id AS "parentVersion", l.target_item_id AS "targetItem", l.target_version_id AS "targetVersion",
         l.quantity::float8 AS quantity, l.carried, coalesce(nullif(l.target_id_in_file, ''), l.target_name_in_file) AS "targetText",
         l.locator, l.occurrences
  FROM link l`;

type LinkRow = { [K in keyof LinkEdge]: LinkEdge[K] | null };

/** Fetches the part of the link graph that a question needs, level by level, one query a level. */
@Injectable()
export class StructureLoader {
  constructor(private readonly database: DataSource) {}

  /** What a version is made of under a lens, so many levels deep and the links of the level below. */
  async below(
    root: string,
    lens: Lens,
    levels = Infinity,
    manager: EntityManager = this.database.manager,
  ): Promise<StructureGraph> {
    const versions: VersionNode[] = await loadVersions(manager, 'v.id = ANY($1::bigint[])', [root]);
    const links: LinkEdge[] = [];
    const seen = new Set<string>([root]);
    const knownItems = new Set<string>();
    let frontier = [root];
    for (let level = 0; level <= levels && frontier.length > 0; level++) {
      const found = await loadLinks(manager, 'l.version_id', frontier);
      links.push(...found);
      const items = [...new Set(found.flatMap((link) => link.targetItem ?? []))].filter(
        (item) => !knownItems.has(item),
      );
      items.forEach((item) => knownItems.add(item));
      if (items.length > 0)
        versions.push(...(await loadVersions(manager, 'v.item_id = ANY($1::bigint[])', items)));
      const graph = new StructureGraph(versions, []);
      frontier = [...new Set(found.flatMap((link) => follow(graph, link, lens)?.id ?? []))].filter(
        (id) => !seen.has(id),
      );
      frontier.forEach((id) => seen.add(id));
    }
    return new StructureGraph(versions, links);
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
    const drawings: { id: string }[] = await manager.query(
      `SELECT DISTINCT v.item_id AS id FROM link l JOIN version v ON v.id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND l.relation = 'depicts'`,
      [itemIds],
    );
    const ids = drawings.map(({ id }) => id);
    const graph = new StructureGraph(await loadVersions(manager, 'v.item_id = ANY($1::bigint[])', ids), []);
    const picked = ids.flatMap((id) => pickVersion(graph, id, lens)?.id ?? []);
    const shown: { version: string; items: string[] }[] = await manager.query(
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
    const versions: VersionNode[] = await loadVersions(manager, 'v.item_id = ANY($1::bigint[])', [itemId]);
    const links: LinkEdge[] = [];
    const seen = new Set<string>([itemId]);
    let frontier = [itemId];
    while (frontier.length > 0) {
      const found = await loadLinks(manager, 'l.target_item_id', frontier);
      links.push(...found);
      const rows: { itemId: string }[] = await manager.query(
        'SELECT DISTINCT item_id AS "itemId" FROM version WHERE id = ANY($1::bigint[])',
        [found.map((link) => link.parentVersion)],
      );
      frontier = rows.map((row) => row.itemId).filter((id) => !seen.has(id));
      frontier.forEach((id) => seen.add(id));
      if (frontier.length > 0)
        versions.push(...(await loadVersions(manager, 'v.item_id = ANY($1::bigint[])', frontier)));
    }
    return new StructureGraph(versions, links);
  }
}

async function loadVersions(
  manager: EntityManager,
  where: string,
  ids: readonly string[],
): Promise<VersionNode[]> {
  return manager.query(
    `SELECT v.id, v.item_id AS "itemId", v.ordinal, (extract(epoch FROM v.created_at) * 1000)::float8 AS "createdAtMs",
            r.state IN ('released', 'superseded') AS released
     FROM version v JOIN revision r ON r.id = v.revision_id WHERE ${where}`,
    [ids],
  );
}

export async function loadLinks(
  manager: EntityManager,
  column: 'l.version_id' | 'l.target_item_id',
  ids: readonly string[],
  relations: readonly Relation[] = ['component'],
): Promise<LinkEdge[]> {
  const rows: LinkRow[] = await manager.query(
    `${LINK} WHERE ${column} = ANY($1::bigint[]) AND l.relation = ANY($2::text[]) ORDER BY l.version_id, l.position`,
    [ids, relations],
  );
  return rows.map((row) => withoutNulls(row));
}

/** The database says null where the core leaves a member out. */
function withoutNulls(row: LinkRow): LinkEdge {
  return Object.fromEntries(Object.entries(row).filter(([, value]) => value !== null)) as unknown as LinkEdge;
}
