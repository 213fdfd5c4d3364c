import { Injectable } from '@nestjs/common';
import type { AlignAnswer, AlignRequest } from '@stem-trace/contract';
import {
  addTo,
  alignRevisions,
  revisionCode,
  revisionPosition,
  type RevisionRow,
  type RevisionScheme,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { number, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { revisionSchemes } from '../store/revision-schemes.js';
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
    const named = await this.catalogue.resolveAll(items, person, 'release', manager);
    const numbers = new Map(named.map(({ itemId, number }) => [itemId, number]));
    const schemeOf = await revisionSchemes(manager, [...numbers.keys()]);
    const beginOf = (itemId: string): number => beginning(start, schemeOf(itemId));
    const stored = await readRows<RevisionRow & { itemId: string }>(
      manager,
      { id: text, code: text, position: number, itemId: text },
      'SELECT id, item_id AS "itemId", code, position FROM revision WHERE item_id = ANY($1::bigint[]) ORDER BY position',
      [[...numbers.keys()]],
    );
    const byItem = groupByItem(stored);
    const aligned = [...numbers].map(([itemId, number]) => ({
      ...{ itemId, number },
      changes: alignRevisions(byItem.get(itemId) ?? [], beginOf(itemId), schemeOf(itemId)),
    }));
    return {
      rows: aligned.flatMap(({ itemId, number, changes }) =>
        changes.map((change) => ({ itemId, number, ...change })),
      ),
      unchanged: aligned.flatMap(({ number, changes }) => (changes.length === 0 ? number : [])),
    };
  }
}

/** @throws ProblemError INPUT_INVALID for what is no code of the scheme */
function beginning(start: string, scheme: RevisionScheme): number {
  const position = revisionPosition(start || revisionCode(1, scheme), scheme);
  if (position === undefined)
    throw new ProblemError(
      'INPUT_INVALID',
      `'${start}' is no revision of the scheme, which begins with ${revisionCode(1, scheme)}, ${revisionCode(2, scheme)}.`,
    );
  return position;
}

function groupByItem(rows: readonly (RevisionRow & { itemId: string })[]): Map<string, RevisionRow[]> {
  const byItem = new Map<string, RevisionRow[]>();
  for (const row of rows) addTo<string, RevisionRow>(byItem, row.itemId, row);
  return byItem;
}
