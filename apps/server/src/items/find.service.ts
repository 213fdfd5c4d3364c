import { Injectable } from '@nestjs/common';
import type { FindAnswer, ItemRow } from '@stem-trace/contract';
import { numberKey } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { ROW } from './item-row.js';

const SORT: Readonly<Record<string, string>> = {
  number: 'i.number_key',
  name: 'lower(i.name)',
  kind: 'i.kind',
  state: 'r.state',
  changed: 'v.created_at',
};

export interface FindRequest {
  readonly words: string;
  readonly limit: number;
  readonly offset: number;
  readonly sort: string;
  readonly order: 'up' | 'down';
  /** Only what lies in this place or below. */
  readonly place?: string;
}

/** Items by words. */
@Injectable()
export class FindService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
  ) {}

  /** Every word must occur in number, name, properties or the text of the file; an exact number comes first. */
  async find(
    { words, limit, offset, sort, order, place = '/' }: FindRequest,
    person: Person,
  ): Promise<FindAnswer> {
    const { where, values } = conditions(words, place);
    const hiddenPlaces = (await this.rights.of(person)).placesWithout('see');
    const hidden = `$${values.push(hiddenPlaces)}::bigint[]`;
    const next = values.length + 1;
    const direction = order === 'down' ? 'DESC' : 'ASC';
    const [counted]: { total: string; hidden: string }[] = await this.database.query(
      `SELECT count(*) FILTER (WHERE i.place_id <> ALL(${hidden})) AS total,
              count(*) FILTER (WHERE i.place_id = ANY(${hidden})) AS hidden
       FROM item i WHERE ${where}`,
      values,
    );
    const rows: ItemRow[] = await this.database.query(
      `SELECT ${ROW} WHERE ${where} AND i.place_id <> ALL(${hidden})
       ORDER BY (i.number_key = $${next}) DESC, ${SORT[sort] ?? SORT.number} ${direction}, i.number_key
       LIMIT $${next + 1} OFFSET $${next + 2}`,
      [...values, numberKey(words.trim()), limit, offset],
    );
    return { total: Number(counted?.total ?? 0), hidden: Number(counted?.hidden ?? 0), rows };
  }
}

/** What rows of a search must meet, with `$1` and on for the values. */
function conditions(words: string, place: string): { where: string; values: unknown[] } {
  const values: unknown[] = [];
  const put = (value: unknown): string => `$${values.push(value)}`;
  const parts = words
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .map(
      (word) =>
        `(i.search_text LIKE ${put(likePattern(word))}
          OR to_tsvector('simple', i.body_text) @@ to_tsquery('simple', ${put(beginningOf(word))}))`,
    );
  if (place !== '/') {
    const path = put(place);
    parts.push(
      `i.place_id IN (SELECT id FROM place WHERE path = ${path} OR starts_with(path, ${path} || '/'))`,
    );
  }
  return { where: parts.join(' AND ') || 'true', values };
}

/** A full-text query for words that begin so. */
function beginningOf(word: string): string {
  return `'${word.replace(/[\\']/g, '$&$&')}':*`;
}

function likePattern(word: string): string {
  return `%${word.replace(/[\\%_]/g, '\\$&')}%`;
}
