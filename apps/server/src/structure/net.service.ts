import { holderFor } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import type { LensText, NetAnswer, NetNodeRow, PaperRow } from '@stem-trace/contract';
import { ownValue, ROLLED_UP, type LinkDag } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isStructure } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text, word } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { ProblemError } from '../problems/problem.js';
import { StructureIndex } from './structure-index.js';

/** Most nodes of one answer; more could not be drawn, and an outline of them would not be read. */
const MOST_NODES = 50_000;

export interface NetRequest {
  readonly item: string;
  readonly lens: LensText;
  readonly side: 'made' | 'used';
  /** Most levels from the one asked about; all where 0. */
  readonly levels: number;
  /** Whether drawings and documents come along. */
  readonly papers: boolean;
}

/** What an item is made of, or what uses it, as a net. */
@Injectable()
export class NetService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly index: StructureIndex,
    private readonly rights: RightsService,
    private readonly database: DataSource,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN, STRUCTURE_TOO_LARGE */
  async net({ item, lens, side, levels, papers }: NetRequest, person: Person): Promise<NetAnswer> {
    const root =
      side === 'made'
        ? await this.catalogue.resolveUnder(item, lens, { person })
        : await this.catalogue.resolve(item, person);
    const dag = await this.index.ask({
      what: side === 'made' ? 'below' : 'above',
      of: Number(root.id),
      lens: await this.catalogue.lens(lens, await this.rights.of(person)),
      levels: Infinity,
    });
    const within = levels === 0 ? Infinity : levels;
    const inReach = dag.levels.reduce((count, level) => count + (level <= within ? 1 : 0), 0);
    if (inReach > MOST_NODES)
      throw new ProblemError(
        'STRUCTURE_TOO_LARGE',
        `${inReach.toLocaleString('en-GB')} items hang together with ${root.number}; at most ${MOST_NODES.toLocaleString('en-GB')} can be shown at once. Ask for fewer levels.`,
      );
    const ids = Array.from(dag.versions, (id, slot) => ((dag.levels[slot] ?? 0) <= within ? String(id) : ''));
    const described = await this.catalogue.describe(ids.filter((id) => id !== ''));
    const missing = await this.missing(dag, ids);
    const { itemIds, ...net } = new NetBuilder(await this.rights.of(person), described, missing).build(
      dag,
      ids,
      side,
    );
    return {
      lens,
      ...net,
      papers: papers ? await this.papersOf(itemIds, person) : [],
    };
  }

  /** What is known of references that lead nowhere under the lens: items without such a version, and texts of gaps. */
  private async missing(dag: LinkDag, ids: readonly string[]): Promise<Missing> {
    const [items, gaps] = [new Set<string>(), new Set<string>()];
    for (const [at, to] of dag.to.entries()) {
      if (to >= 0) continue;
      const item = dag.items[at] ?? -1;
      if (item >= 0) items.add(String(item));
      else gaps.add(ids[dag.from[at] ?? 0] ?? '');
    }
    const named: { id: string; number: string; name: string; placeId: string }[] =
      items.size === 0
        ? []
        : await this.database.query(
            'SELECT id, number, name, place_id AS "placeId" FROM item WHERE id = ANY($1::bigint[])',
            [[...items]],
          );
    const texts: { version: string; texts: string[] }[] =
      gaps.size === 0
        ? []
        : await this.database.query(
            `SELECT version_id AS version, array_agg(coalesce(nullif(target_id_in_file, ''), target_name_in_file) ORDER BY position) AS texts
             FROM link WHERE version_id = ANY($1::bigint[]) AND target_item_id IS NULL AND ${isStructure('link')} GROUP BY 1`,
            [[...gaps].filter((id) => id !== '')],
          );
    return {
      items: new Map(named.map((row) => [row.id, row])),
      texts: new Map(texts.map(({ version, texts: list }) => [version, [...list]])),
    };
  }

  /** Drawings and documents whose newest versions are about the given items, as far as one may see them. */
  private async papersOf(itemIds: readonly (string | null)[], person: Person): Promise<PaperRow[]> {
    const hiddenPlaces = (await this.rights.of(person)).placesWithout('see');
    const places = new Map(itemIds.flatMap((id, at) => (id === null ? [] : [[id, at] as const])));
    const rows = await readRows<Omit<PaperRow, 'of'> & { target: string }>(
      this.database,
      {
        number: text,
        relation: word<(Omit<PaperRow, 'of'> & { target: string })['relation']>(),
        name: text,
        kind: word<(Omit<PaperRow, 'of'> & { target: string })['kind']>(),
        state: word<(Omit<PaperRow, 'of'> & { target: string })['state']>(),
        target: text,
      },
      `SELECT DISTINCT i.number, i.name, i.kind, i.state, l.relation, l.target_item_id AS target
       FROM link l JOIN item i ON i.newest_version_id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND l.relation IN ('depicts', 'describes') AND i.place_id <> ALL($2::bigint[])
       ORDER BY i.number`,
      [[...places.keys()], hiddenPlaces],
    );
    return rows.flatMap(({ target, ...row }) => {
      const of = places.get(target);
      return of === undefined ? [] : [{ ...row, of }];
    });
  }
}

interface Missing {
  readonly items: ReadonlyMap<
    string,
    { readonly number: string; readonly name: string; readonly placeId: string }
  >;
  /** What files call what is not there, by the version that refers to it. */
  readonly texts: ReadonlyMap<string, string[]>;
}

interface Built extends Pick<NetAnswer, 'nodes' | 'links' | 'configurations' | 'hidden'> {
  /** By node; null for gaps and what may not be seen. */
  readonly itemIds: readonly (string | null)[];
}

/** Turns what the index says into what one may see, walking from the one asked about. */
class NetBuilder {
  private readonly nodes: NetNodeRow[] = [];
  private readonly itemIds: (string | null)[] = [];
  private readonly places = new Map<string, number>();
  private readonly hiddenItems = new Set<string>();

  constructor(
    private readonly rights: Rights,
    private readonly described: ReadonlyMap<string, DescribedVersion>,
    private readonly missing: Missing,
  ) {}

  build(dag: LinkDag, ids: readonly string[], side: NetRequest['side']): Built {
    const next = neighbours(dag, side);
    const links: NetAnswer['links'][number][] = [];
    const configurations: NetAnswer['configurations'][number][] = [];
    const reached: number[] = [];
    this.see(dag, ids, 0, reached);
    for (let at = 0; at < reached.length; at++) {
      const slot = reached[at] ?? 0;
      const here = this.places.get(ids[slot] ?? '');
      if (here === undefined) continue;
      for (const link of next.get(slot) ?? []) {
        const there =
          side === 'made' && (dag.to[link] ?? -1) < 0
            ? this.gap(dag, ids, link)
            : this.see(dag, ids, (side === 'made' ? dag.to[link] : dag.from[link]) ?? -1, reached);
        if (there === undefined) continue;
        const [from, to] = side === 'made' ? [here, there] : [there, here];
        const names = dag.configurations.get(link);
        // What a user that may not be seen says of its links is its own.
        if (names && !this.nodes[from]?.isHidden) configurations.push([links.length, names]);
        links.push([from, to, dag.quantities[link] ?? 1, dag.behind[link] ?? 0]);
      }
    }
    return { nodes: this.nodes, links, configurations, itemIds: this.itemIds, hidden: this.hiddenItems.size };
  }

  /** The node of a version; undefined where it is out of reach, or hidden among what uses. Adds it to what was reached. */
  private see(dag: LinkDag, ids: readonly string[], slot: number, reached: number[]): number | undefined {
    const id = ids[slot] ?? '';
    const known = this.places.get(id);
    if (known !== undefined) return known;
    const version = this.described.get(id);
    if (!version) return undefined;
    const isHidden = !this.rights.may('see', version.placeId);
    const place =
      this.nodes.push(isHidden ? HIDDEN_NODE : nodeOf(version, dag.levels[slot] ?? 0, this.rights)) - 1;
    this.itemIds.push(isHidden ? null : version.itemId);
    this.places.set(id, place);
    if (isHidden) this.hiddenItems.add(version.itemId);
    else reached.push(slot);
    return place;
  }

  private gap(dag: LinkDag, ids: readonly string[], link: number): number {
    const user = dag.from[link] ?? 0;
    const item = this.missing.items.get(String(dag.items[link] ?? -1));
    const isHidden = item !== undefined && !this.rights.may('see', item.placeId);
    const number =
      item?.number ?? this.missing.texts.get(ids[user] ?? '')?.shift() ?? 'not named by the file';
    // The same item that is missing in two places is one node.
    const key = item ? `item ${number}` : `gap ${link}`;
    const known = this.places.get(key);
    if (known !== undefined) return known;
    const place =
      this.nodes.push(
        isHidden
          ? HIDDEN_NODE
          : {
              ...HIDDEN_NODE,
              number,
              name: item?.name ?? 'not in the store',
              isGap: true,
              ...(item ? { isInStore: true } : {}),
              isHidden: false,
              depth: (dag.levels[user] ?? 0) + 1,
            },
      ) - 1;
    this.itemIds.push(null);
    this.places.set(key, place);
    return place;
  }
}

/** Links by the slot that they lead away from, seen from the one asked about. */
function neighbours({ from, to }: LinkDag, side: NetRequest['side']): Map<number, number[]> {
  const next = new Map<number, number[]>();
  for (const [link, user] of from.entries()) {
    const start = side === 'made' ? user : (to[link] ?? -1);
    const list = next.get(start);
    if (list) list.push(link);
    else next.set(start, [link]);
  }
  return next;
}

const HIDDEN_NODE: NetNodeRow = {
  number: '',
  name: 'not visible to you',
  kind: null,
  state: null,
  version: null,
  heldBy: null,
  isGap: false,
  isHidden: true,
  depth: 0,
};

function nodeOf(version: DescribedVersion, depth: number, rights: Rights): NetNodeRow {
  const [mass, cost] = ROLLED_UP.map((property) => ownValue(version.facts.properties, property));
  return {
    number: version.number,
    name: version.name,
    kind: version.kind,
    state: version.state,
    version: version.label,
    heldBy: holderFor(rights, version.heldBy),
    isGap: false,
    isHidden: false,
    depth,
    ...(mass === undefined ? {} : { massKg: mass }),
    ...(cost === undefined ? {} : { cost }),
  };
}
