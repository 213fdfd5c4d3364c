import { Injectable } from '@nestjs/common';
import type { FindAnswer, FindGroup, FindLens, FoundIn, FoundRow } from '@stem-trace/contract';
import { numberKey } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, number, orNull, readRow, readRows, text, timeText, word } from '../database/read-rows.js';
import { rowFor } from '../store/item-row.js';
import { fit, foundIn, wordsOf } from './fit.js';
import { isReleased, mayBeTold } from '../database/conditions.js';
import { Matching, type Match } from './matching.js';

/** How a column is ordered; wants `item` as `i`. */
const SORT: Readonly<Record<string, string>> = {
  number: 'i.number_key',
  name: 'lower(i.name)',
  kind: 'i.kind',
  state: 'i.state',
  changed: 'i.changed_at',
  class: '(SELECT lower(c.name) FROM class c WHERE c.id = i.class_id)',
  place: '(SELECT sp.path FROM place sp WHERE sp.id = i.place_id)',
  changedBy: '(SELECT sa.name FROM person sa WHERE sa.id = i.author_id)',
};
const PROPERTY = 'property:';
const NEAR = 5;

export interface FindOrder {
  /** A column, `property:NAME`, or `best`: by likeness where that was asked for, else by how well the words fit. */
  readonly sort: string;
  readonly order: 'up' | 'down';
  /** Rows of one group come together; groups in the order of their values. */
  readonly group?: FindGroup;
}

export interface FindRequest extends FindOrder {
  /** In the language of the find box. */
  readonly words: string;
  readonly limit: number;
  readonly offset: number;
  /** Only what lies in this place or below. */
  readonly place?: string;
  readonly lens: FindLens;
  /** Names of properties that rows shall have. */
  readonly columns: readonly string[];
}

/** Items by a search. */
@Injectable()
export class FindService {
  constructor(
    private readonly database: DataSource,
    private readonly matching: Matching,
  ) {}

  /** An exact number comes first. @throws ProblemError QUERY_WRONG */
  async find(request: FindRequest, person: Person): Promise<FindAnswer> {
    const match = await this.matching.of(request.words, person, request.place, request.lens);
    const [counted, ids] = await Promise.all([
      this.count(match),
      this.ids(match, request, request.limit, request.offset),
    ]);
    return {
      ...counted,
      rows: await this.rows(ids, request.columns, match),
      near: counted.total === 0 ? await this.near(match) : [],
    };
  }

  async count({ condition, hiddenPlaces, countsHidden }: Match): Promise<{ total: number; hidden: number }> {
    const hidden = `$${condition.values.length + 1}::bigint[]`;
    return readRow(
      this.database,
      { total: number, hidden: number },
      `SELECT count(*) FILTER (WHERE i.place_id <> ALL(${hidden}))::float8 AS total,
              ${countsHidden ? `count(*) FILTER (WHERE i.place_id = ANY(${hidden}))` : '0'}::float8 AS hidden
       FROM item i WHERE i.newest_version_id IS NOT NULL AND ${condition.sql}`,
      [...condition.values, hiddenPlaces],
    );
  }

  /** Ids of the items found, in order; without the rest of them, so that a far page costs little. */
  async ids(
    { query, condition, hiddenPlaces, alike }: Match,
    { sort, order, group }: FindOrder,
    limit: number,
    offset: number,
  ): Promise<string[]> {
    const values = [...condition.values];
    const put = (value: unknown): string => `$${values.push(value)}`;
    const hidden = put(hiddenPlaces);
    const direction = order === 'down' ? 'DESC' : 'ASC';
    const by: string[] = [];
    if (group !== undefined) by.push(`${SORT[group] ?? 'i.kind'} NULLS LAST`);
    if (sort === 'best' && alike) by.push(`array_position(${put(alike)}::bigint[], i.id)`);
    const words = wordsOf(query);
    if (sort === 'best' && words.length > 0) by.push(fit(words, numberKey(words.join(' ')), put));
    let joined = '';
    if (sort.startsWith(PROPERTY)) {
      joined = `LEFT JOIN item_property sp ON sp.item_id = i.id AND sp.key = ${put(sort.slice(PROPERTY.length).toLowerCase())} AND ${mayBeTold(hidden, 'sp')}`;
      // Numbers by what they are worth, texts by what they say.
      by.push(`sp.number ${direction} NULLS LAST`, `sp.said ${direction} NULLS LAST`);
    } else by.push(`${SORT[sort] ?? 'i.number_key'} ${direction}`);
    if (sort !== 'number' && sort !== 'best') by.push('i.number_key');
    const rows = await readRows(
      this.database,
      { id: text },
      `SELECT i.id FROM item i ${joined}
       WHERE i.newest_version_id IS NOT NULL AND i.place_id <> ALL(${hidden}::bigint[]) AND ${condition.sql}
       ORDER BY ${by.join(', ')} LIMIT ${put(limit)} OFFSET ${put(offset)}`,
      values,
    );
    return rows.map(({ id }) => id);
  }

  /** Rows of items, in the order of their ids. @param match what they were found by, to say where its words stand */
  async rows(
    ids: readonly string[],
    columns: readonly string[],
    { query, hiddenPlaces }: Pick<Match, 'query' | 'hiddenPlaces'>,
  ): Promise<FoundRow[]> {
    const keys = columns.map((name) => name.toLowerCase());
    const values: unknown[] = [ids, keys, hiddenPlaces];
    const where = foundIn(wordsOf(query), (value) => `$${values.push(value)}`);
    return readRows<FoundRow>(
      this.database,
      {
        class: orNull(text),
        properties: json<FoundRow['properties']>(),
        number: text,
        name: text,
        kind: word<FoundRow['kind']>(),
        version: text,
        state: word<FoundRow['state']>(),
        place: text,
        changedAt: timeText,
        changedBy: text,
        heldBy: orNull(json<NonNullable<FoundRow['heldBy']>>()),
        foundIn: orNull(word<FoundIn>()),
        released: orNull(text),
      },
      `SELECT (SELECT c.name FROM class c WHERE c.id = i.class_id) AS class,
         coalesce((SELECT jsonb_object_agg(ip.key, ip.shown) FROM item_property ip
           WHERE ip.item_id = i.id AND ip.key = ANY($2::text[]) AND ${mayBeTold('$3', 'ip')}), '{}') AS properties, ${where} AS "foundIn",
         CASE WHEN NOT (${isReleased('r')}) THEN (SELECT lr.code || '/' || lv.seq FROM version lv JOIN revision lr ON lr.id = lv.revision_id
           WHERE lv.item_id = i.id AND ${isReleased('lr')} ORDER BY lr.position DESC, lv.seq DESC LIMIT 1) END AS released, ${rowFor('$3')}
       JOIN unnest($1::bigint[]) WITH ORDINALITY AS hit(id, at) ON hit.id = i.id ORDER BY hit.at`,
      values,
    );
  }

  /** For one word with a digit in it that found nothing: numbers written like it. */
  private async near({ query, hiddenPlaces }: Match): Promise<FindAnswer['near']> {
    if (query.kind !== 'words' || !/\d/.test(query.text)) return [];
    return readRows(
      this.database,
      { number: text, name: text },
      `SELECT number, name FROM item WHERE number_key % $1 AND place_id <> ALL($2::bigint[]) AND newest_version_id IS NOT NULL
       ORDER BY similarity(number_key, $1) DESC, number_key LIMIT ${NEAR}`,
      [numberKey(query.text), hiddenPlaces],
    );
  }
}
