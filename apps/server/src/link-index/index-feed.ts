/** Fills the link index from the database, and brings it up to a position of the feed. Runs in the index's worker. */
import { addTo, ItemOrder, LinkIndex, NONE, NOT_RELEASED, type Effectivity } from '@stem-trace/core';
import { Client } from 'pg';
import { to as copyTo } from 'pg-copy-streams';
import { COUNTS_FROM, isStructure, RELEASED_AT, timeOf } from '../database/conditions.js';

const VERSIONS = `SELECT v.id, v.item_id, ${timeOf('v.created_at')}, ${RELEASED_AT}
  FROM version v JOIN revision r ON r.id = v.revision_id`;
const LINKS = `SELECT l.id, l.version_id, coalesce(l.target_item_id, -1), coalesce(l.target_version_id, -1), l.quantity::float8, l.carried::int
  FROM link l`;

const ITEMS_AT_A_TIME = 10_000;

export class IndexFeed {
  private index = new LinkIndex({ items: 0, versions: 0, links: 0 });
  private readonly items = new ItemOrder();
  private at = 0;
  private lastVersion = 0;

  private constructor(private readonly client: Client) {}

  /** Loads everything that is there, by streaming. */
  static async open(databaseUrl: string): Promise<IndexFeed> {
    const client = new Client({ connectionString: databaseUrl, application_name: 'stem-trace structure' });
    await client.connect();
    const feed = new IndexFeed(client);
    await feed.load();
    return feed;
  }

  get position(): number {
    return this.at;
  }

  get links(): LinkIndex {
    return this.index;
  }

  get order(): ItemOrder {
    return this.items;
  }

  async close(): Promise<void> {
    await this.client.end();
  }

  /** Calls whenever somebody has written, from whichever server. */
  async listen(call: () => void): Promise<void> {
    this.client.on('notification', call);
    await this.client.query('LISTEN stem_structure');
  }

  private async load(): Promise<void> {
    // One view of the database for all of it, so that nothing is missing and nothing is told twice.
    await this.client.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
    const [counts] = await this.rows<{ items: number; versions: number; links: number; position: number }>(
      `SELECT (SELECT count(*)::int FROM item) AS items, (SELECT count(*)::int FROM version) AS versions,
              (SELECT count(*)::int FROM link) AS links, (SELECT coalesce(max(position), 0)::float8 FROM structure_feed) AS position`,
    );
    this.index = new LinkIndex(counts ?? { items: 0, versions: 0, links: 0 });
    await this.addVersions('');
    await this.addLinks('');
    await this.placeItems('SELECT id FROM item');
    await this.client.query('COMMIT');
    this.index.merge();
    this.at = counts?.position ?? 0;
  }

  /** Takes in what was told up to a position, and whatever came after it meanwhile. */
  async reach(position: number): Promise<void> {
    if (this.at >= position) return;
    await this.client.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
    const told = await this.rows<{ position: number; kind: string; id: string | null }>(
      `SELECT position::float8, kind, id FROM structure_feed WHERE position > ${this.at} ORDER BY position`,
    );
    if (told.some(({ kind }) => kind === 'versions')) {
      const after = this.lastVersion;
      await this.addVersions(`WHERE v.id > ${after}`);
      await this.addLinks(`AND l.version_id > ${after}`);
      await this.placeItems(`SELECT item_id FROM version WHERE id > ${after}`);
    }
    const moved = told.flatMap(({ kind, id }) => (kind === 'item' && id !== null ? [Number(id)] : []));
    if (moved.length > 0) await this.placeItems(moved.join(','));
    await this.setStates(told.flatMap(({ kind, id }) => (kind === 'state' && id !== null ? [id] : [])));
    await this.setEffectivities(
      told.flatMap(({ kind, id }) => (kind === 'effectivity' && id !== null ? [id] : [])),
    );
    await this.fillGaps(told.flatMap(({ kind, id }) => (kind === 'gap' && id !== null ? [id] : [])));
    await this.client.query('COMMIT');
    this.at = told.at(-1)?.position ?? this.at;
  }

  /** Ids grow in the order of check-ins, so that an item's versions come oldest first. */
  private async addVersions(where: string): Promise<void> {
    const limited = await this.rows<{ id: number; effectivity: Effectivity }>(
      `SELECT v.id::float8, ${COUNTS_FROM} AS effectivity FROM version v JOIN revision r ON r.id = v.revision_id
       ${where === '' ? 'WHERE' : `${where} AND`} r.id IN (SELECT revision_id FROM change_makes) AND ${COUNTS_FROM} IS NOT NULL`,
    );
    const effectivities = new Map(limited.map(({ id, effectivity }) => [id, effectivity]));
    await this.stream(
      `${VERSIONS} ${where} ORDER BY v.id`,
      ([id = 0, item = 0, createdAtMs = 0, releasedAtMs = NOT_RELEASED]) => {
        const effectivity = effectivities.get(id);
        this.index.addVersion({
          ...{ id, item, createdAtMs, releasedAtMs },
          ...(effectivity ? { effectivity } : {}),
        });
        this.lastVersion = id;
      },
    );
  }

  /** @param which ids of the items, as SQL */
  private async placeItems(which: string): Promise<void> {
    // Some at a time, so that not all of them are ever in memory as rows.
    for (let after = 0, isMore = true; isMore;) {
      const rows = await this.rows<{ id: number; key: string; place: number }>(
        `SELECT id::float8, number_key AS key, place_id::float8 AS place FROM item
         WHERE id IN (${which}) AND id > ${after} ORDER BY item.id LIMIT ${ITEMS_AT_A_TIME}`,
      );
      for (const { id, key, place } of rows) {
        const item = this.index.item(id);
        if (item !== NONE) this.items.set(item, key, place);
        after = id;
      }
      isMore = rows.length === ITEMS_AT_A_TIME;
    }
  }

  private async addLinks(and: string): Promise<void> {
    const limited = await this.rows<{
      id: number;
      configurations: string[];
      effectivity: Effectivity | null;
    }>(
      `SELECT l.id::float8, l.configurations, e.spans AS effectivity FROM link l LEFT JOIN effectivity e ON e.link_id = l.id
       WHERE (l.configurations <> '{}' OR e.link_id IS NOT NULL) AND ${isStructure()} ${and}`,
    );
    const limits = new Map(
      limited.map(({ id, configurations, effectivity }) => [
        id,
        { configurations, ...(effectivity ? { effectivity } : {}) },
      ]),
    );
    await this.stream(
      `${LINKS} WHERE ${isStructure()} ${and} ORDER BY l.version_id, l.position`,
      ([id = 0, parent = 0, targetItem = -1, targetVersion = -1, quantity = 0, carried = 0]) =>
        this.index.addLink({
          id,
          parent,
          targetItem,
          targetVersion,
          quantity,
          carried: carried === 1,
          ...limits.get(id),
        }),
    );
  }

  private async setStates(revisions: readonly string[]): Promise<void> {
    if (revisions.length === 0) return;
    const versions = await this.rows<{ id: number; releasedAtMs: number; effectivity: Effectivity | null }>(
      `SELECT v.id::float8, ${RELEASED_AT} AS "releasedAtMs", ${COUNTS_FROM} AS effectivity FROM version v JOIN revision r ON r.id = v.revision_id
       WHERE r.id = ANY($1::bigint[])`,
      [revisions],
    );
    for (const { id, releasedAtMs, effectivity } of versions)
      this.index.setReleased(id, { releasedAtMs, ...(effectivity ? { effectivity } : {}) });
  }

  private async setEffectivities(versions: readonly string[]): Promise<void> {
    if (versions.length === 0) return;
    const links = await this.rows<{ version: number; effectivity: Effectivity | null }>(
      `SELECT l.version_id::float8 AS version, e.spans AS effectivity FROM link l LEFT JOIN effectivity e ON e.link_id = l.id
       WHERE l.version_id = ANY($1::bigint[]) AND ${isStructure()} ORDER BY l.version_id, l.position`,
      [versions],
    );
    const byVersion = new Map<number, (Effectivity | undefined)[]>();
    for (const { version, effectivity } of links) addTo(byVersion, version, effectivity ?? undefined);
    for (const [version, own] of byVersion) this.index.setEffectivities(version, own);
  }

  private async fillGaps(links: readonly string[]): Promise<void> {
    if (links.length === 0) return;
    const filled = await this.rows<{ id: number; item: number; version: number }>(
      `SELECT id::float8, target_item_id::float8 AS item, target_version_id::float8 AS version FROM link
       WHERE id = ANY($1::bigint[]) AND target_item_id IS NOT NULL AND ${isStructure('link')}`,
      [links],
    );
    for (const { id, item, version } of filled) this.index.fillGap(id, item, version);
  }

  private async rows<R extends object>(sql: string, values: unknown[] = []): Promise<R[]> {
    return (await this.client.query<R>(sql, values)).rows;
  }

  /** Rows of numbers as they come, without ever being all in memory. */
  private async stream(sql: string, take: (row: readonly number[]) => void): Promise<void> {
    let rest = '';
    for await (const chunk of this.client.query(copyTo(`COPY (${sql}) TO STDOUT`)) as AsyncIterable<Buffer>) {
      const lines = (rest + chunk.toString('latin1')).split('\n');
      rest = lines.pop() ?? '';
      for (const line of lines) take(line.split('\t').map(Number));
    }
  }
}
