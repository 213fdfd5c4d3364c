import type { Mention } from '../trail/mentions.js';
import { Injectable } from '@nestjs/common';
import type { AlternateRequest, AlternateRow } from '@stem-trace/contract';
import { addTo } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';

interface NamedItem {
  readonly itemId: string;
  readonly number: string;
}

interface Named {
  readonly item: NamedItem;
  readonly other: NamedItem;
  readonly user?: NamedItem;
}

/** Items that may be used instead of others: anywhere, or in one user alone. They never add to totals. */
@Injectable()
export class AlternatesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
  ) {}

  /** By item, the first choice first; what the asker may not see is left out. */
  async ofRows(itemIds: readonly string[], rights: Rights): Promise<Map<string, AlternateRow[]>> {
    const rows = await readRows<AlternateRow & { readonly item: string }>(
      this.database,
      {
        item: text,
        number: text,
        name: text,
        rank: number,
        onlyIn: orNull(text),
        note: text,
        from: orNull(text),
        to: orNull(text),
        approvedBy: orNull(text),
      },
      `SELECT a.item_id::text AS item, o.number, o.name, a.rank, u.number AS "onlyIn", a.note, a.valid_from::text AS "from",
              a.valid_to::text AS "to", p.name AS "approvedBy"
       FROM alternate a JOIN item o ON o.id = a.other_id LEFT JOIN item u ON u.id = a.user_id LEFT JOIN person p ON p.id = a.approved_by
       WHERE a.item_id = ANY($1::bigint[]) AND o.place_id <> ALL($2::bigint[]) AND (u.id IS NULL OR u.place_id <> ALL($2::bigint[]))
       ORDER BY a.item_id, a.rank, o.number_key`,
      [[...new Set(itemIds.filter((id) => id !== ''))], rights.placesWithout('see')],
    );
    const found = new Map<string, AlternateRow[]>();
    for (const { item, ...row } of rows) addTo(found, item, row);
    return found;
  }

  /** Says that an item may be used instead of another, or says it anew. @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED, INPUT_INVALID */
  async put(request: AlternateRequest, person: Person): Promise<void> {
    const { item, other, user } = await this.named(request, person);
    if (item.itemId === other.itemId)
      throw new ProblemError(
        'INPUT_INVALID',
        `${item.number} is no alternate of itself. Choose another item.`,
      );
    if (request.from !== null && request.to !== null && request.from > request.to)
      throw new ProblemError('INPUT_INVALID', 'The first day comes after the last. Change one of them.');
    await this.database.transaction(async (manager) => {
      await manager.query(
        `INSERT INTO alternate (item_id, other_id, user_id, rank, note, valid_from, valid_to, added_by)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
         ON CONFLICT (item_id, other_id, user_id) DO UPDATE SET rank = EXCLUDED.rank, note = EXCLUDED.note,
           valid_from = EXCLUDED.valid_from, valid_to = EXCLUDED.valid_to, approved_by = NULL, approved_at = NULL`,
        [
          item.itemId,
          other.itemId,
          user?.itemId ?? null,
          request.rank,
          request.note,
          request.from,
          request.to,
          person.id,
        ],
      );
      const where = user ? ` in ${user.number}` : '';
      await record(manager, [
        {
          personId: person.id,
          kind: 'properties',
          itemId: item.itemId,
          says: `${person.name} said that ${other.number} may be used instead of ${item.number}${where}`,
          mentions: mentionsOf(other, user),
          tells: tellOf(person, item),
        },
      ]);
      await announce(manager, 'items');
    });
  }

  /** @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED */
  async approve(request: AlternateRequest, person: Person): Promise<void> {
    await this.change(await this.named(request, person, 'release'), person, {
      sql: 'UPDATE alternate SET approved_by = $4, approved_at = now()',
      values: [person.id],
      says: 'approved',
    });
  }

  async remove(request: AlternateRequest, person: Person): Promise<void> {
    await this.change(await this.named(request, person), person, {
      sql: 'DELETE FROM alternate',
      values: [],
      says: 'took back',
    });
  }

  /** Changes the one that is named, and writes the trail. @throws ProblemError NOT_FOUND */
  private async change(
    { item, other, user }: Named,
    person: Person,
    {
      sql,
      values,
      says,
    }: { readonly sql: string; readonly values: readonly string[]; readonly says: string },
  ): Promise<void> {
    await this.database.transaction(async (manager) => {
      const changed = await readRows(
        manager,
        { one: number },
        `WITH changed AS (
           ${sql} WHERE item_id = $1 AND other_id = $2 AND user_id IS NOT DISTINCT FROM $3 RETURNING 1 AS one)
         SELECT one FROM changed`,
        [item.itemId, other.itemId, user?.itemId ?? null, ...values],
      );
      if (changed.length === 0)
        throw new ProblemError(
          'NOT_FOUND',
          `Nobody says (any more) that ${other.number} may be used instead of ${item.number}. Look at the row again.`,
        );
      const where = user ? ` in ${user.number}` : '';
      await record(manager, [
        {
          personId: person.id,
          kind: 'properties',
          itemId: item.itemId,
          says: `${person.name} ${says} ${other.number} as an alternate of ${item.number}${where}`,
          tells: tellOf(person, item),
          mentions: mentionsOf(other, user),
        },
      ]);
      await announce(manager, 'items');
    });
  }

  private async named(
    { item, other, onlyIn }: AlternateRequest,
    person: Person,
    right: 'change' | 'release' = 'change',
  ): Promise<Named> {
    return {
      item: await this.catalogue.resolve(item, person, right),
      other: await this.catalogue.resolve(other, person),
      ...(onlyIn === '' ? {} : { user: await this.catalogue.resolve(onlyIn, person) }),
    };
  }
}

/** Whoever watches the item need not be able to see the other one, nor the user. */
function tellOf({ name }: Person, { number: of }: NamedItem): string {
  return `${name} changed what may be used instead of ${of}`;
}

/** Items that a sentence about an alternate names beside the one that it is about. */
function mentionsOf(...items: readonly (NamedItem | undefined)[]): Mention[] {
  return items.flatMap((item) => (item ? [{ item: item.itemId, number: item.number }] : []));
}
