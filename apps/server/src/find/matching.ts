import { Injectable } from '@nestjs/common';
import type { FindLens } from '@stem-trace/contract';
import { parseQuery, type IndexAnswers, type ItemRelation, type Lens, type Query } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { flag, number, readRows, text } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { ShapesService } from '../meshes/shapes.service.js';
import { ProblemError } from '../problems/problem.js';
import { StructureIndex } from '../structure/structure-index.js';
import { itemsOfChange } from '../store/changes.js';
import { compileQuery, type Condition } from './query-compiler.js';
import { FindWordsService } from './words.service.js';

const NEWEST: Lens = { kind: 'newest' };

export interface Match {
  readonly query: Query;
  readonly condition: Condition;
  /** Places whose items the asker may not see. */
  readonly hiddenPlaces: readonly string[];
  /**
   * Whether it may be told how many of those found are hidden: only where nothing but places was asked for. Else one could
   * find out by asking what hidden items are like.
   */
  readonly countsHidden: boolean;
  /** Where likeness was asked for: items by how alike they are. */
  readonly alike?: readonly string[];
}

/** What a search means, for one who asks. */
@Injectable()
export class Matching {
  constructor(
    private readonly words: FindWordsService,
    private readonly rights: RightsService,
    private readonly catalogue: CatalogueService,
    private readonly index: StructureIndex,
    private readonly shapes: ShapesService,
    private readonly database: DataSource,
  ) {}

  /**
   * @param place only what lies there or below
   * @throws ProblemError QUERY_WRONG with where in the text
   */
  async of(text: string, person: Person, place = '/', lens: FindLens = 'recorded'): Promise<Match> {
    const parsed = parseQuery(text, await this.words.of(person));
    if (parsed.kind === 'problem') throw wrong(parsed.problem.says, parsed.problem);
    const query: Query =
      place === '/' ? parsed.query : { kind: 'and', parts: [parsed.query, { kind: 'in', place }] };
    const rights = await this.rights.of(person);
    const hiddenPlaces = rights.placesWithout('see');
    const apart = { hidden: hiddenPlaces, unread: rights.placesWithout('fetch') };
    const sets = new Map<Query, readonly string[]>();
    for (const part of partsOf(query)) {
      if (part.kind === 'behind') sets.set(part, await this.behind());
      if (part.kind === 'relation') sets.set(part, await this.related(part, person, hiddenPlaces));
    }
    const alike = [...sets].find(([part]) => part.kind === 'relation' && part.relation === 'like')?.[1];
    return {
      query: parsed.query,
      condition: compileQuery(query, sets, lens, apart),
      hiddenPlaces,
      countsHidden: asksForPlaces(query),
      ...(alike ? { alike } : {}),
    };
  }

  private async behind(): Promise<string[]> {
    const { items } = await this.index.ask({ what: 'behind', of: 0, lens: NEWEST, levels: 1 });
    return Array.from(items, String);
  }

  private async related(
    { relation, item, at }: Extract<Query, { kind: 'relation' }>,
    person: Person,
    hiddenPlaces: readonly string[],
  ): Promise<string[]> {
    const start = await this.catalogue.resolve(item, person).catch((error: unknown) => {
      throw error instanceof ProblemError ? wrong(error.message, at) : error;
    });
    switch (relation) {
      case 'derived from':
        return this.variantsOf(start.stemId, start.itemId);
      case 'used in':
      case 'made of': {
        // Nothing may be in the way that is not seen: then it is a set, and how one gets there does not matter.
        if (relation === 'made of' && hiddenPlaces.length === 0) return this.usersOf(start.itemId);
        const what = relation === 'used in' ? 'below' : 'above';
        const dag = await this.index.ask({ what, of: Number(start.id), lens: NEWEST, levels: Infinity });
        return this.itemsOf(dag, relation, hiddenPlaces);
      }
      case 'in change':
      case 'affected by':
        return itemsOfChange(this.database, start, relation).catch((error: unknown) => {
          throw error instanceof ProblemError ? wrong(error.message, at) : error;
        });
      case 'like': {
        const { rows } = await this.shapes.like(item, person);
        const found = await readRows(
          this.database,
          { id: text, number: text },
          'SELECT id, number FROM item WHERE number = ANY($1::text[])',
          [rows.map(({ number }) => number)],
        );
        const byNumber = new Map(found.map(({ id, number }) => [number, id]));
        return rows.flatMap(({ number }) => byNumber.get(number) ?? []);
      }
    }
  }

  private async usersOf(item: string): Promise<string[]> {
    const { versions } = await this.index.ask({
      what: 'users',
      of: Number(item),
      lens: NEWEST,
      levels: Infinity,
    });
    const rows = await readRows(
      this.database,
      { id: text },
      'SELECT DISTINCT item_id AS id FROM version WHERE id = ANY($1::bigint[])',
      [Array.from(versions, String)],
    );
    return rows.map(({ id }) => id);
  }

  /** Items reached without passing through one that may not be seen. */
  private async itemsOf(
    dag: IndexAnswers['below'],
    relation: ItemRelation,
    hiddenPlaces: readonly string[],
  ): Promise<string[]> {
    const rows = await readRows(
      this.database,
      { at: number, id: text, hidden: flag },
      `SELECT a.at::int - 1 AS at, v.item_id AS id, i.place_id = ANY($2::bigint[]) AS hidden
       FROM unnest($1::bigint[]) WITH ORDINALITY AS a(version, at)
       JOIN version v ON v.id = a.version JOIN item i ON i.id = v.item_id ORDER BY a.at`,
      [Array.from(dag.versions, String), hiddenPlaces],
    );
    const reached = new Uint8Array(dag.versions.length);
    reached[0] = 1;
    if (hiddenPlaces.length === 0) reached.fill(1);
    else spread(dag, relation, rows, reached);
    return [...new Set(rows.flatMap(({ at, id }) => (at > 0 && reached[at] === 1 ? [id] : [])))];
  }

  private async variantsOf(stemId: string, itemId: string): Promise<string[]> {
    const rows = await readRows(
      this.database,
      { id: text },
      `WITH RECURSIVE variant AS (
         SELECT i.id FROM item i JOIN version v ON v.id = i.origin_version_id WHERE v.item_id = $2 AND i.stem_id = $1
         UNION SELECT i.id FROM variant JOIN version v ON v.item_id = variant.id JOIN item i ON i.origin_version_id = v.id)
       SELECT id FROM variant`,
      [stemId, itemId],
    );
    return rows.map(({ id }) => id);
  }
}

/** Goes on from what was reached until nothing more is, not beyond hidden ones. */
function spread(
  { from, to }: IndexAnswers['below'],
  relation: ItemRelation,
  rows: readonly { readonly at: number; readonly hidden: boolean }[],
  reached: Uint8Array,
): void {
  const hidden = new Set(rows.flatMap(({ at, hidden: isHidden }) => (isHidden ? [at] : [])));
  const next = new Map<number, number[]>();
  for (const [link, user] of from.entries()) {
    const used = to[link] ?? -1;
    if (used < 0) continue;
    const [here, there] = relation === 'used in' ? [user, used] : [used, user];
    const list = next.get(here);
    if (list) list.push(there);
    else next.set(here, [there]);
  }
  const stack = [0];
  for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
    for (const there of next.get(at) ?? []) {
      if (reached[there] === 1) continue;
      reached[there] = 1;
      if (!hidden.has(there)) stack.push(there);
    }
  }
}

function asksForPlaces(query: Query): boolean {
  if (query.kind === 'and') return query.parts.every(asksForPlaces);
  return query.kind === 'all' || query.kind === 'in';
}

function partsOf(query: Query): Query[] {
  if (query.kind === 'and' || query.kind === 'or') return [query, ...query.parts.flatMap(partsOf)];
  return query.kind === 'not' ? [query, ...partsOf(query.part)] : [query];
}

function wrong(says: string, { from, to }: { from: number; to: number }): ProblemError {
  return new ProblemError('QUERY_WRONG', says, undefined, { from, to });
}
