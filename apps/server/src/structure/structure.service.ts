import { holderFor } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import type { LensText, StructureAnswer, StructureRow } from '@stem-trace/contract';
import {
  explode,
  sayEffectivity,
  whereUsed,
  type Lens,
  type LinkEdge,
  type Totals,
  type VersionNode,
} from '@stem-trace/core';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isStructure } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { number, readRow, readRows, text } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { effectivityTeller, type TellEffectivity } from '../store/effectivity.js';
import { DataSource } from 'typeorm';
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
    const root = await this.catalogue.resolveUnder(item, lens, { person });
    const rights = await this.rights.of(person);
    const levels = all ? Infinity : 1;
    // One level needs its own links alone, and of the next only whether there is any.
    const under = await this.catalogue.lens(lens, rights);
    const graph = await this.loader.below(root.id, under, { levels: all ? Infinity : 0 });
    const rows = explode(graph, root.id, { lens: under, levels });
    const reached = [...new Set(rows.flatMap(({ version }) => version?.id ?? []))];
    const [described, opening] = await Promise.all([
      this.catalogue.describe(versionsToDescribe(rows)),
      this.loader.withLinks(reached, under),
    ]);
    const tell = await effectivityTeller(this.database.manager, linksOf(rows), rights);
    const seen = new Sight(rights, described);
    const shown = rows.flatMap((row): StructureRow[] => {
      const isHidden = seen.isHidden(row, row.parentRow);
      if (isHidden === 'behind') return [];
      return [
        {
          ...(isHidden ? HIDDEN : common(row, described, rights)),
          level: row.level,
          quantity: row.quantity,
          total: row.total,
          parent: numberAt(rows[row.parentRow]?.version, described) ?? root.number,
          behind: isHidden ? 0 : row.behind,
          ...limitsOf(row, tell),
          more: !isHidden && row.version !== undefined && opening.has(row.version.id),
        },
      ];
    });
    // How much lies below what may not be seen is not told either.
    return { item: head(root), lens, rows: shown, total: shown.length, hidden: seen.hiddenItems.size };
  }

  async used(request: StructureRequest, person: Person): Promise<StructureAnswer> {
    const { item, lens, all, tops } = request;
    const root = await this.catalogue.resolve(item, person);
    // One level and the products need no tree: the index answers them at once, however widely an item is used.
    if (tops || !all) return this.indexed(root, { lens, tops, page: request }, person);
    const rights = await this.rights.of(person);
    const graph = await this.loader.above(root.itemId);
    const rows = whereUsed(graph, root.itemId, { lens: await this.catalogue.lens(lens, rights) });
    const described = await this.catalogue.describe(versionsToDescribe(rows));
    const tell = await effectivityTeller(this.database.manager, linksOf(rows), rights);
    const seen = new Sight(rights, described);
    const visible = new Set(rows.filter((row) => !seen.isHidden(row, row.childRow)));
    return {
      item: head(root),
      lens,
      rows: rows.flatMap((row): StructureRow[] =>
        visible.has(row)
          ? [
              {
                ...common(row, described, rights),
                level: row.level,
                quantity: row.quantity,
                total: row.total,
                parent: numberAt(rows[row.childRow]?.version, described) ?? root.number,
                behind: row.behind,
                ...limitsOf(row, tell),
                more: !row.top,
              },
            ]
          : [],
      ),
      total: visible.size,
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
    const rights = await this.rights.of(person);
    const hiddenPlaces = rights.placesWithout('see');
    const { limit, offset, filter } = page;
    const ask: UsedAsk = {
      root,
      lens: await this.catalogue.lens(lens, rights),
      tops,
      hiddenPlaces,
      limit,
      offset,
      filter,
    };
    const { shown, seen, hidden } =
      (filter === '' ? await this.pageOfIndex(ask) : undefined) ?? (await this.pageOfDatabase(ask));
    const ids = shown.map(({ id }) => id);
    const [described, behind] = await Promise.all([
      this.catalogue.describe(ids),
      this.behindOf(ids, root.itemId),
    ]);
    return {
      item: head(root),
      lens,
      rows: shown.flatMap(({ id, level, total, isEnd }): StructureRow[] => {
        const version = described.get(id);
        if (!version) return [];
        const { number, name, kind, label, state } = version;
        const heldBy = holderFor(rights, version.heldBy);
        return [
          {
            ...{ number, name, kind, version: label, state, recorded: label, heldBy },
            gap: false,
            hidden: false,
            level,
            quantity: total,
            total,
            parent: root.number,
            behind: behind.get(id) ?? 0,
            more: !isEnd,
          },
        ];
      }),
      total: seen,
      hidden,
    };
  }

  private async pageOfIndex({ root, lens, ...ask }: UsedAsk): Promise<UsedAnswer | undefined> {
    const { tops, limit, offset } = ask;
    const page = { tops, hiddenPlaces: ask.hiddenPlaces.map(Number), limit, offset };
    const answer = await this.index.askPage(root.itemId, lens, page);
    if (!answer) return undefined;
    const [seen = 0, hidden = 0] = answer.counts;
    return { shown: usersOf(answer), seen, hidden };
  }

  /** The same by way of SQL, for looking into names too; slower, the more there is. */
  private async pageOfDatabase({
    root,
    lens,
    tops,
    hiddenPlaces,
    limit,
    offset,
    filter,
  }: UsedAsk): Promise<UsedAnswer> {
    const levels = tops ? Infinity : 1;
    const found = usersOf(
      await this.index.ask({ what: tops ? 'tops' : 'used', of: Number(root.itemId), lens, levels }),
    );
    const byId = new Map(found.map((user) => [user.id, user]));
    const like = `%${filter.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
    const rows = await readRows(
      this.database,
      { id: text },
      `SELECT v.id FROM version v JOIN item i ON i.id = v.item_id
       WHERE v.id = ANY($1::bigint[]) AND i.place_id <> ALL($2::bigint[]) AND (i.number_key LIKE $5 OR lower(i.name) LIKE $5)
       ORDER BY i.number_key, v.ordinal LIMIT $3 OFFSET $4`,
      [[...byId.keys()], hiddenPlaces, limit, offset, like],
    );
    return {
      shown: rows.flatMap(({ id }) => byId.get(id) ?? []),
      ...(await this.countSeen([...byId.keys()], hiddenPlaces, like)),
    };
  }

  /** By version, how far behind the newest its link to an item is. */
  private async behindOf(versions: readonly string[], item: string): Promise<Map<string, number>> {
    const rows = await readRows(
      this.database,
      { id: text, behind: number },
      `SELECT l.version_id AS id, n.ordinal - t.ordinal AS behind
       FROM link l JOIN version t ON t.id = l.target_version_id JOIN item i ON i.id = l.target_item_id
       JOIN version n ON n.id = i.newest_version_id
       WHERE l.version_id = ANY($1::bigint[]) AND l.target_item_id = $2 AND ${isStructure()} AND NOT l.carried`,
      [versions, item],
    );
    return new Map(rows.map(({ id, behind }) => [id, behind]));
  }

  private async countSeen(
    versions: readonly string[],
    hiddenPlaces: readonly string[],
    like: string,
  ): Promise<{ seen: number; hidden: number }> {
    const counted = await readRow(
      this.database,
      { seen: number, hidden: number },
      `SELECT count(*) FILTER (WHERE i.place_id <> ALL($2::bigint[]) AND (i.number_key LIKE $3 OR lower(i.name) LIKE $3))::int AS seen,
              count(DISTINCT i.id) FILTER (WHERE i.place_id = ANY($2::bigint[]))::int AS hidden
       FROM version v JOIN item i ON i.id = v.item_id WHERE v.id = ANY($1::bigint[])`,
      [versions, hiddenPlaces, like],
    );
    return counted ?? { seen: 0, hidden: 0 };
  }
}

interface UsedAsk extends Pick<StructureRequest, 'limit' | 'offset' | 'filter' | 'tops'> {
  readonly root: DescribedVersion;
  readonly lens: Lens;
  readonly hiddenPlaces: readonly string[];
}

/** A version that uses an item. */
interface User {
  readonly id: string;
  readonly level: number;
  readonly total: number;
  readonly isEnd: boolean;
}

interface UsedAnswer {
  readonly shown: readonly User[];
  readonly seen: number;
  readonly hidden: number;
}

function usersOf({ versions, levels, totals, isEnd }: Totals): User[] {
  return [...versions].map((version, slot) => ({
    id: String(version),
    level: levels[slot] ?? 1,
    total: totals[slot] ?? 0,
    isEnd: isEnd[slot] === 1,
  }));
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
  'number' | 'name' | 'kind' | 'version' | 'state' | 'recorded' | 'gap' | 'heldBy' | 'hidden' | 'isInStore'
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

function common(row: Row, described: ReadonlyMap<string, DescribedVersion>, rights: Rights): Described {
  const version = row.version ? described.get(row.version.id) : undefined;
  const recorded = row.link.targetVersion === undefined ? undefined : described.get(row.link.targetVersion);
  const known = knownOf(row, described);
  return {
    number: known?.number ?? row.link.targetText,
    name: known?.name ?? row.link.locator ?? '',
    kind: version?.kind ?? null,
    version: version?.label ?? null,
    state: version?.state ?? null,
    recorded: recorded?.label ?? null,
    gap: version === undefined,
    ...(version === undefined && row.link.targetItem !== undefined ? { isInStore: true } : {}),
    heldBy: holderFor(rights, known?.heldBy ?? null),
    hidden: false,
  };
}

/** In which configurations and from when until when a row counts. */
function limitsOf(
  { link }: Row,
  tell: TellEffectivity,
): Pick<StructureRow, 'configurations' | 'effectivity'> {
  const { configurations = [] } = link;
  const effectivity = sayEffectivity(tell(link.effectivity));
  return {
    ...(configurations.length === 0 ? {} : { configurations }),
    ...(effectivity === '' ? {} : { effectivity }),
  };
}

function linksOf(rows: readonly Row[]): LinkEdge[] {
  return rows.map(({ link }) => link);
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
