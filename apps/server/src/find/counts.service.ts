import { Injectable } from '@nestjs/common';
import type { CountRow, FindCounts, FindLens, FindRanges } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { mayBeTold } from '../database/conditions.js';
import { listOf, number, orNull, readRows, text } from '../database/read-rows.js';
import { Matching } from './matching.js';

/** Most values of one list; the rest are few each. */
const MOST = 40;
const RANGES = 6;

export interface RangesRequest {
  readonly words: string;
  readonly property: string;
  readonly place?: string;
  readonly lens: FindLens;
}

interface Grouped {
  readonly kind: string;
  readonly state: string;
  readonly class: string | null;
  readonly place: string;
  readonly author: string;
  readonly count: number;
}

/** What the items found are, counted. */
@Injectable()
export class FindCountsService {
  constructor(
    private readonly database: DataSource,
    private readonly matching: Matching,
  ) {}

  /** @throws ProblemError QUERY_WRONG */
  async counts(words: string, person: Person, place?: string, lens?: FindLens): Promise<FindCounts> {
    const { condition, hiddenPlaces } = await this.matching.of(words, person, place, lens);
    // Grouped once by everything and summed up here: the database can share that work among its processes.
    const rows = await readRows<Grouped>(
      this.database,
      { kind: text, state: text, class: orNull(text), place: text, author: text, count: number },
      `SELECT g.kind, g.state, c.name AS class, p.path AS place, a.name AS author, g.count FROM (
         SELECT i.kind, i.state, i.class_id, i.place_id, i.author_id, count(*)::int AS count FROM item i
         WHERE i.newest_version_id IS NOT NULL AND i.place_id <> ALL($${condition.values.length + 1}::bigint[]) AND ${condition.sql}
         GROUP BY i.place_id, i.author_id, i.kind, i.state, i.class_id) g
       JOIN place p ON p.id = g.place_id JOIN person a ON a.id = g.author_id LEFT JOIN class c ON c.id = g.class_id`,
      [...condition.values, hiddenPlaces],
    );
    return {
      total: rows.reduce((sum, { count }) => sum + count, 0),
      kind: summed(rows, (row) => row.kind),
      state: summed(rows, (row) => row.state),
      class: summed(rows, (row) => row.class ?? ''),
      place: summed(rows, (row) => row.place),
      changedBy: summed(rows, (row) => row.author),
    };
  }

  /** A property over the items found: ranges of about as many items each where it is a number, else its values. */
  async ranges({ words, property, place, lens }: RangesRequest, person: Person): Promise<FindRanges> {
    const { condition, hiddenPlaces } = await this.matching.of(words, person, place, lens);
    const values = [...condition.values, hiddenPlaces, property.toLowerCase()];
    const found = `FROM item_property p JOIN item i ON i.id = p.item_id
       WHERE p.key = $${values.length} AND i.newest_version_id IS NOT NULL
         AND i.place_id <> ALL($${values.length - 1}::bigint[]) AND ${mayBeTold(`$${values.length - 1}`)} AND ${condition.sql}`;
    const [measured] = await readRows(
      this.database,
      { unit: text, bounds: orNull(listOf(number)) },
      `SELECT p.unit, percentile_disc(ARRAY[${cuts().join(', ')}]) WITHIN GROUP (ORDER BY p.number) AS bounds
       ${found} AND p.number IS NOT NULL GROUP BY p.unit ORDER BY count(*) DESC LIMIT 1`,
      values,
    );
    if (!measured?.bounds) {
      const said = await readRows<CountRow>(
        this.database,
        { value: text, count: number },
        `SELECT min(p.shown) AS value, count(*)::int AS count ${found} GROUP BY p.said ORDER BY 2 DESC, 1 LIMIT ${MOST}`,
        values,
      );
      return { name: property, unit: '', ranges: [], values: said };
    }
    const bounds = [...new Set(measured.bounds)];
    // The last range has its end in it, the others have not.
    const counted = await readRows(
      this.database,
      { bucket: number, count: number },
      `SELECT width_bucket(p.number, $${values.length + 1}::float8[]) AS bucket, count(*)::int AS count
       ${found} AND p.unit = $${values.length + 2} GROUP BY 1`,
      [...values, bounds.length > 1 ? bounds.slice(0, -1) : bounds, measured.unit],
    );
    const counts = new Map(counted.map(({ bucket, count }) => [bucket, count]));
    const starts = bounds.length > 1 ? bounds.slice(0, -1) : bounds;
    return {
      name: property,
      unit: measured.unit,
      ranges: starts.map((from, at) => ({
        from,
        to: bounds[at + 1] ?? from,
        count: counts.get(at + 1) ?? 0,
      })),
      values: [],
    };
  }
}

function summed(rows: readonly Grouped[], valueOf: (row: Grouped) => string): CountRow[] {
  const counts = new Map<string, number>();
  for (const row of rows) counts.set(valueOf(row), (counts.get(valueOf(row)) ?? 0) + row.count);
  return [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1))
    .slice(0, MOST);
}

function cuts(): number[] {
  return Array.from({ length: RANGES + 1 }, (_, at) => at / RANGES);
}
