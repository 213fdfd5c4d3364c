import { veiledNumbers, withoutNumbers } from '../trail/mentions.js';
import { Injectable } from '@nestjs/common';
import type { HistoryAnswer, HistoryRequest, HistoryRow } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { isStructure } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { listOf, flag, readRows, text, timeText, word } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';

const PAGE = 200;

interface Event extends HistoryRow {
  /** Numbers that the reader is not told. */
  readonly veiled: readonly string[];
  /** Whether it is about a variant and its origin, one of which the asker does not see. */
  readonly isVeiled: boolean;
}

/** What happened to an item, and to what it is made of, from the trail; as far as the asker may know. */
@Injectable()
export class HistoryService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  async history({ item, below, kind, before }: HistoryRequest, person: Person): Promise<HistoryAnswer> {
    const { itemId } = await this.catalogue.resolve(item, person);
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const events = await readRows<Event>(
      this.database,
      {
        id: text,
        at: timeText,
        person: text,
        kind: word<Event['kind']>(),
        number: text,
        says: text,
        veiled: listOf(text),
        isVeiled: flag,
      },
      `WITH RECURSIVE about(id) AS (
         SELECT $1::bigint
         UNION SELECT l.target_item_id FROM about JOIN item u ON u.id = about.id
           JOIN link l ON l.version_id = u.newest_version_id
         WHERE $2 AND l.target_item_id IS NOT NULL AND ${isStructure()}
       )
       , happened AS (
         SELECT e.at, 'e' || lpad(e.id::text, 19, '0') AS key, e.person_id, e.kind, e.item_id, e.detail->>'says' AS says, e.detail->'mentions' AS mentions,
                e.kind = 'derive' AND EXISTS (
                  SELECT FROM derivation d JOIN version o ON o.id = d.origin_version_id
                  JOIN item r ON r.id = o.item_id OR r.derivation_id = d.id
                  WHERE d.id = (e.detail->>'derivation')::bigint AND r.place_id = ANY($3::bigint[])) AS veiled
         FROM about JOIN event e ON e.item_id = about.id
         UNION ALL
         -- An intake is one event for all that came in; here each of its versions tells of itself.
         SELECT v.created_at, 'v' || lpad(v.id::text, 19, '0'), v.author_id, 'intake', v.item_id,
                a.name || ' brought ' || i.number || ' in as ' || ${LABEL} || CASE WHEN v.comment = '' THEN '' ELSE ': ' || v.comment END, NULL::jsonb, false
         FROM about JOIN version v ON v.item_id = about.id JOIN revision r ON r.id = v.revision_id
         JOIN item i ON i.id = v.item_id JOIN person a ON a.id = v.author_id
         WHERE NOT EXISTS (SELECT FROM event e WHERE e.item_id = v.item_id AND e.at = v.created_at)
       )
       SELECT to_char(h.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') || '~' || h.key AS id, h.at, p.name AS person, h.kind,
              i.number, h.says, ${veiledNumbers('h.mentions', '$3')} AS veiled, h.veiled AS "isVeiled"
       FROM happened h JOIN item i ON i.id = h.item_id JOIN person p ON p.id = h.person_id
       WHERE i.place_id <> ALL($3::bigint[]) AND ($4::text IS NULL OR h.kind = $4)
         AND ($5::timestamptz IS NULL OR (h.at, h.key) < ($5, $6))
       ORDER BY h.at DESC, h.key DESC LIMIT ${PAGE + 1}`,
      [itemId, below, hidden, kind ?? null, ...(before?.split('~') ?? [null, null])],
    );
    const paths = await this.pathsOf(hidden);
    return {
      rows: events.slice(0, PAGE).map(({ isVeiled, veiled, ...row }) => ({
        ...row,
        says: withoutNumbers(sayTo(row, isVeiled, paths), veiled),
      })),
      more: events.length > PAGE,
    };
  }

  private async pathsOf(places: readonly string[]): Promise<readonly string[]> {
    if (places.length === 0) return [];
    const rows = await readRows(
      this.database,
      { path: text },
      'SELECT path FROM place WHERE id = ANY($1::bigint[])',
      [places],
    );
    return rows.map(({ path }) => path);
  }
}

/** What happened, without the names of what the reader does not see. */
function sayTo({ person, number, says }: HistoryRow, isVeiled: boolean, hidden: readonly string[]): string {
  if (isVeiled) return `${person} derived with ${number}`;
  return hidden.some((path) => says.includes(path)) ? `${person} moved ${number}` : says;
}
