import { Injectable } from '@nestjs/common';
import type { LensText, StructureAnswer, StructureRow } from '@stem-trace/contract';
import { explode, whereUsed, type LinkEdge, type VersionNode } from '@stem-trace/core';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { DataSource } from 'typeorm';
import { parseLens } from './lens-text.js';
import { StructureIndex } from './structure-index.js';
import { StructureLoader } from './structure-loader.js';

export interface StructureRequest {
  readonly item: string;
  readonly lens: LensText;
  readonly all: boolean;
  readonly tops: boolean;
  /** Most rows of one answer, and how many to pass over; for one level and for products. */
  readonly limit: number;
  readonly offset: number;
  /** Part of the number or name, for one level and for products; empty for all. */
  readonly filter: string;
}

/** What an item is made of, and what uses it. */
@Injectable()
export class StructureService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
    private readonly index: StructureIndex,
    private readonly database: DataSource,
  ) {}

  async made({ item, lens, all }: StructureRequest, person: Person): Promise<StructureAnswer> {
    const root = await this.catalogue.resolve(item, person);
    const levels = all ? Infinity : 1;
    const graph = await this.loader.below(root.id, parseLens(lens), { levels });
    const rows = explode(graph, root.id, { lens: parseLens(lens), levels });
    const described = await this.catalogue.describe(versionsToDescribe(rows));
    const seen = new Sight(await this.rights.of(person), described);
    return {
      item: head(root),
      lens,
      rows: rows.flatMap((row): StructureRow[] => {
        const isHidden = seen.isHidden(row, row.parentRow);
        if (isHidden === 'behind') return [];
        return [
          {
            ...(isHidden ? HIDDEN : common(row, described)),
            level: row.level,
            quantity: row.quantity,
            total: row.total,
            parent: numberAt(rows[row.parentRow]?.version, described) ?? root.number,
            behind: isHidden ? 0 : row.behind,
            more: !isHidden && row.version !== undefined && graph.linksOf(row.version.id).length > 0,
          },
        ];
      }),
      total: rows.length,
      hidden: seen.hiddenItems.size,
    };
  }

  async used(request: StructureRequest, person: Person): Promise<StructureAnswer> {
    const { item, lens, all, tops } = request;
    const root = await this.catalogue.resolve(item, person);
    // One level and the products need no tree: the index answers them at once, however widely an item is used.
    if (tops || !all) return this.indexed(root, { lens, tops, page: request }, person);
    const graph = await this.loader.above(root.itemId);
    const rows = whereUsed(graph, root.itemId, { lens: parseLens(lens) });
    const described = await this.catalogue.describe(versionsToDescribe(rows));
    const seen = new Sight(await this.rights.of(person), described);
    const visible = new Set(rows.filter((row) => !seen.isHidden(row, row.childRow)));
    return {
      item: head(root),
      lens,
      rows: rows.flatMap((row): StructureRow[] =>
        visible.has(row)
          ? [
              {
                ...common(row, described),
                level: row.level,
                quantity: row.quantity,
                total: row.total,
                parent: numberAt(rows[row.childRow]?.version, described) ?? root.number,
                behind: row.behind,
                more: !row.top,
              },
            ]
          : [],
      ),
      total: rows.length,
      hidden: seen.hiddenItems.size,
    };
  }

  /** Where-used as a set, however widely an item is used: one level, or the products. */
  private async indexed(
    root: DescribedVersion,
    {
      lens,
      tops,
      page,
    }: { lens: LensText; tops: boolean; page: Pick<StructureRequest, 'limit' | 'offset' | 'filter'> },
    person: Person,
  ): Promise<StructureAnswer> {
    const answer = await this.index.ask({
      what: tops ? 'tops' : 'used',
      of: Number(root.itemId),
      lens: parseLens(lens),
      levels: tops ? Infinity : 1,
    });
    const { versions, levels, totals, isEnd } = answer;
    const slots = new Map([...versions].map((version, slot) => [String(version), slot]));
    const hiddenPlaces = (await this.rights.of(person)).placesWithout('see');
    const like = `%${page.filter.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
    const counted =
      hiddenPlaces.length === 0 && page.filter === ''
        ? { seen: slots.size, hidden: 0 }
        : await this.countSeen([...slots.keys()], hiddenPlaces, like);
    const shown: { id: string; behind: number }[] = await this.database.query(
      `WITH found AS MATERIALIZED (
         SELECT v.id, i.number_key, v.ordinal FROM version v JOIN item i ON i.id = v.item_id
         WHERE v.id = ANY($1::bigint[]) AND i.place_id <> ALL($2::bigint[]) AND ($6 = '%%' OR i.number_key LIKE $6 OR lower(i.name) LIKE $6)),
       page AS (SELECT * FROM found ORDER BY number_key, ordinal LIMIT $4 OFFSET $5)
       SELECT page.id, coalesce(n.ordinal - t.ordinal, 0) AS behind
       FROM page LEFT JOIN link l ON l.version_id = page.id AND l.target_item_id = $3 AND l.relation = 'component'
       LEFT JOIN version t ON t.id = l.target_version_id AND NOT l.carried
       LEFT JOIN item ti ON ti.id = l.target_item_id LEFT JOIN version n ON n.id = ti.newest_version_id
       ORDER BY page.number_key, page.ordinal`,
      [[...slots.keys()], hiddenPlaces, root.itemId, page.limit, page.offset, like],
    );
    const described = await this.catalogue.describe(shown.map(({ id }) => id));
    return {
      item: head(root),
      lens,
      rows: shown.flatMap(({ id, behind }): StructureRow[] => {
        const version = described.get(id);
        const slot = slots.get(id);
        if (!version || slot === undefined) return [];
        return [
          {
            number: version.number,
            name: version.name,
            kind: version.kind,
            version: version.label,
            state: version.state,
            recorded: version.label,
            gap: false,
            heldBy: version.heldBy,
            hidden: false,
            level: levels[slot] ?? 1,
            quantity: totals[slot] ?? 0,
            total: totals[slot] ?? 0,
            parent: root.number,
            behind,
            more: isEnd[slot] !== 1,
          },
        ];
      }),
      total: counted.seen,
      hidden: counted.hidden,
    };
  }

  private async countSeen(
    versions: readonly string[],
    hiddenPlaces: readonly string[],
    like: string,
  ): Promise<{ seen: number; hidden: number }> {
    const [counted]: { seen: number; hidden: number }[] = await this.database.query(
      `SELECT count(*) FILTER (WHERE i.place_id <> ALL($2::bigint[]) AND (i.number_key LIKE $3 OR lower(i.name) LIKE $3))::int AS seen,
              count(DISTINCT i.id) FILTER (WHERE i.place_id = ANY($2::bigint[]))::int AS hidden
       FROM version v JOIN item i ON i.id = v.item_id WHERE v.id = ANY($1::bigint[])`,
      [versions, hiddenPlaces, like],
    );
    return counted ?? { seen: 0, hidden: 0 };
  }
}

/** What of a tree may be seen: where a row may not, neither may what lies beyond it. Rows come in order, inner ones first. */
class Sight {
  readonly hiddenItems = new Set<string>();
  private readonly states: ('seen' | 'hidden' | 'behind')[] = [];

  constructor(
    private readonly rights: Rights,
    private readonly described: ReadonlyMap<string, DescribedVersion>,
  ) {}

  /** Whether the next row may not be seen itself, or lies behind one that may not. */
  isHidden(row: Row, inner: number): false | 'hidden' | 'behind' {
    const before = this.states[inner] ?? 'seen';
    const known = knownOf(row, this.described);
    const state =
      before !== 'seen' ? 'behind' : known && !this.rights.may('see', known.placeId) ? 'hidden' : 'seen';
    this.states.push(state);
    if (state === 'hidden' && known) this.hiddenItems.add(known.itemId);
    return state === 'seen' ? false : state;
  }
}

interface Row {
  readonly link: LinkEdge;
  readonly version?: VersionNode;
}

type Described = Pick<
  StructureRow,
  'number' | 'name' | 'kind' | 'version' | 'state' | 'recorded' | 'gap' | 'heldBy' | 'hidden'
>;

const HIDDEN: Described = {
  number: '',
  name: 'not visible to you',
  kind: null,
  version: null,
  state: null,
  recorded: null,
  gap: false,
  heldBy: null,
  hidden: true,
};

/** The version that a row leads to; that which was recorded where the lens finds none. */
function knownOf(
  { link, version }: Row,
  described: ReadonlyMap<string, DescribedVersion>,
): DescribedVersion | undefined {
  return described.get(version?.id ?? link.targetVersion ?? '');
}

function common(row: Row, described: ReadonlyMap<string, DescribedVersion>): Described {
  const version = row.version ? described.get(row.version.id) : undefined;
  const recorded = row.link.targetVersion === undefined ? undefined : described.get(row.link.targetVersion);
  const known = knownOf(row, described);
  return {
    number: known?.number ?? row.link.targetText,
    name: known?.name ?? row.link.locator ?? '',
    kind: known?.kind ?? null,
    version: version?.label ?? null,
    state: version?.state ?? null,
    recorded: recorded?.label ?? null,
    gap: version === undefined,
    heldBy: known?.heldBy ?? null,
    hidden: false,
  };
}

function numberAt(
  version: VersionNode | undefined,
  described: ReadonlyMap<string, DescribedVersion>,
): string | undefined {
  return version ? described.get(version.id)?.number : undefined;
}

function versionsToDescribe(rows: readonly { link: LinkEdge; version?: VersionNode }[]): string[] {
  const ids = new Set<string>();
  for (const { link, version } of rows) {
    if (version) ids.add(version.id);
    if (link.targetVersion !== undefined) ids.add(link.targetVersion);
  }
  return [...ids];
}

function head({ number, name, label, kind, state }: DescribedVersion): StructureAnswer['item'] {
  return { number, name, version: label, kind, state };
}
