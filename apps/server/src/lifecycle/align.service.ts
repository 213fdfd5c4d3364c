import { Injectable } from '@nestjs/common';
import type { AlignAnswer, AlignRequest } from '@stem-trace/contract';
import { addTo, alignRevisions, revisionCode, revisionPosition, type RevisionRow } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { number, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { revisionScheme } from '../settings/settings.service.js';
import { lockItems, StoreTurn } from '../store/turn.js';

/** Brings many items' revision codes into line with the scheme at once. */
@Injectable()
export class AlignService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
  ) {}

  /** What would change; nothing is written. */
  async preview(request: AlignRequest, person: Person): Promise<AlignAnswer> {
    return this.work(this.database.manager, request, person);
  }

  /** All of the items, or none. Every old code stays in the trail. */
  async carryOut(request: AlignRequest, person: Person): Promise<AlignAnswer> {
    return this.turn.take(async (manager) => {
      const answer = await this.work(manager, request, person);
      await lockItems(manager, [...new Set(answer.rows.map(({ itemId }) => itemId))]);
      // First out of the way, since two codes of an item may have to change places.
      for (const suffix of ['~', ''])
        await manager.query(
          `UPDATE revision SET code = r.code || $2 FROM jsonb_to_recordset($1::jsonb) AS r(id bigint, code text)
           WHERE revision.id = r.id`,
          [JSON.stringify(answer.rows.map(({ id, to }) => ({ id, code: to }))), suffix],
        );
      await record(
        manager,
        answer.rows.map(({ itemId, number, from, to }) => ({
          personId: person.id,
          kind: 'align',
          itemId,
          says: `${person.name} aligned revision ${from} of ${number} as ${to}`,
          detail: { from, to },
        })),
      );
      await announce(manager, 'items', 'notices');
      return answer;
    });
  }

  private async work(
    manager: EntityManager,
    { items, start }: AlignRequest,
    person: Person,
  ): Promise<AlignAnswer> {
    const scheme = await revisionScheme(manager);
    const position = revisionPosition(start || revisionCode(1, scheme), scheme);
    if (position === undefined)
      throw new ProblemError(
        'INPUT_INVALID',
        `'${start}' is no revision of the scheme, which begins with ${revisionCode(1, scheme)}, ${revisionCode(2, scheme)}.`,
      );
    const named = await this.catalogue.resolveAll(items, person, 'release', manager);
    const numbers = new Map(named.map(({ itemId, number }) => [itemId, number]));
    const stored = await readRows<RevisionRow & { itemId: string }>(
      manager,
      { id: text, code: text, position: number, itemId: text },
      'SELECT id, item_id AS "itemId", code, position FROM revision WHERE item_id = ANY($1::bigint[]) ORDER BY position',
      [[...numbers.keys()]],
    );
    const byItem = groupByItem(stored);
    return {
      rows: [...numbers].flatMap(([itemId, number]) =>
        alignRevisions(byItem.get(itemId) ?? [], position, scheme).map((change) => ({
          itemId,
          number,
          ...change,
        })),
      ),
      unchanged: [...numbers].flatMap(([itemId, number]) =>
        alignRevisions(byItem.get(itemId) ?? [], position, scheme).length === 0 ? [number] : [],
      ),
    };
  }
}

function groupByItem(rows: readonly (RevisionRow & { itemId: string })[]): Map<string, RevisionRow[]> {
  const byItem = new Map<string, RevisionRow[]>();
  for (const row of rows) addTo<string, RevisionRow>(byItem, row.itemId, row);
  return byItem;
}
