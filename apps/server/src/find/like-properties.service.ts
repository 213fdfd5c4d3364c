import { Injectable } from '@nestjs/common';
import type { LikePropertiesAnswer, LikePropertiesRow } from '@stem-trace/contract';
import { likenessByProperties, type LookedUpProperty } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { mayBeTold } from '../database/conditions.js';
import { number, orNull, readRows, text, word } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { ProblemError } from '../problems/problem.js';

/** Looked at more closely, of those that have most in common. */
const MOST = 100;
/** A number further off than this has little in common. */
const FACTOR = 1.3;
/** Below this, items have little in common. */
const LEAST_SCORE = 0.4;

/** Items of the same kind by how many properties are about the same; both halves read an index. */
const CANDIDATES = `
  WITH mine AS MATERIALIZED (SELECT key, number, unit, said FROM item_property p WHERE item_id = $1 AND ${mayBeTold('$3')}),
  same AS (
    SELECT p.item_id, least(abs(p.number), abs(m.number)) / greatest(abs(p.number), abs(m.number), 1e-300) AS closeness
    FROM mine m JOIN item_property p ON p.key = m.key AND p.unit = m.unit
      AND p.number BETWEEN least(m.number / ${FACTOR}, m.number * ${FACTOR}) AND greatest(m.number / ${FACTOR}, m.number * ${FACTOR})
    WHERE m.number IS NOT NULL
    UNION ALL
    SELECT p.item_id, 1 FROM mine m JOIN item_property p ON p.key = m.key AND left(p.said, 200) = left(m.said, 200)
    WHERE m.number IS NULL)
  SELECT i.id, i.number, i.name, i.state
  FROM (SELECT item_id, sum(closeness) AS closeness FROM same GROUP BY item_id) s JOIN item i ON i.id = s.item_id
  WHERE i.kind = $2 AND i.id <> $1 AND i.newest_version_id IS NOT NULL AND i.place_id <> ALL($3::bigint[])
  ORDER BY s.closeness DESC, i.number_key LIMIT ${MOST}`;

interface Known extends LookedUpProperty {
  readonly itemId: string;
  readonly name: string;
  readonly shown: string;
}

/** Items that are alike by what is said of them. */
@Injectable()
export class LikePropertiesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** @throws ProblemError INPUT_INVALID where nothing is said of the item */
  async like(reference: string, person: Person): Promise<LikePropertiesAnswer> {
    const { itemId, number, kind } = await this.catalogue.resolve(reference, person);
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const mine = await this.propertiesOf([itemId], hidden);
    if (mine.length === 0)
      throw new ProblemError(
        'INPUT_INVALID',
        `${number} has no properties by which others could be like it. Enter some, or look for the same shape.`,
      );
    const items = await readRows<Pick<LikePropertiesRow, 'number' | 'name' | 'state'> & { id: string }>(
      this.database,
      {
        number: text,
        name: text,
        state: word<(Pick<LikePropertiesRow, 'number' | 'name' | 'state'> & { id: string })['state']>(),
        id: text,
      },
      CANDIDATES,
      [itemId, kind, hidden],
    );
    const theirs = new Map<string, Known[]>(items.map(({ id }) => [id, []]));
    for (const property of await this.propertiesOf([...theirs.keys()], hidden))
      theirs.get(property.itemId)?.push(property);
    const rows = items.map(({ id, ...item }): LikePropertiesRow => {
      const known = theirs.get(id) ?? [];
      const { score, properties } = likenessByProperties(mine, known);
      const shown = new Map(known.map((property) => [property.key, property.shown]));
      return {
        ...item,
        score,
        properties: properties.map(({ key, closeness }) => ({ closeness, shown: shown.get(key) ?? '' })),
      };
    });
    return {
      of: mine.map(({ name, shown }) => ({ name, shown })),
      rows: rows
        .filter(({ score }) => score >= LEAST_SCORE)
        .sort((a, b) => b.score - a.score || (a.number < b.number ? -1 : 1)),
    };
  }

  private async propertiesOf(items: readonly string[], hidden: readonly string[]): Promise<Known[]> {
    return readRows<Known>(
      this.database,
      {
        itemId: text,
        name: text,
        shown: text,
        key: text,
        number: orNull(number),
        unit: orNull(text),
        said: text,
      },
      `SELECT p.item_id AS "itemId", p.key, coalesce(k.name, p.key) AS name, p.number, p.unit, p.said, p.shown
       FROM item_property p LEFT JOIN property_known k ON k.key = p.key WHERE p.item_id = ANY($1::bigint[]) AND ${mayBeTold('$2')} ORDER BY p.key`,
      [items, hidden],
    );
  }
}
