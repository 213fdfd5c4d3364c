import { Injectable } from '@nestjs/common';
import type { CustodyAnswer, HoldAnswerRequest, HoldAskRequest } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { id, readRow, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { holdsOf } from '../store/holds.js';
import { lockItems } from '../store/turn.js';
import { record, recordQuietly } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

/** What people say to each other about holds: why one holds, and whether one would let go. */
@Injectable()
export class HoldRequestsService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
  ) {}

  /** Says anew why one holds items. */
  async setReason(items: readonly string[], reason: string, person: Person): Promise<CustodyAnswer> {
    const named = await this.catalogue.resolveAll(items, person);
    return this.database.transaction(async (manager) => {
      const changed = await readRows(
        manager,
        { id },
        `WITH changed AS (UPDATE hold SET reason = $3 WHERE item_id = ANY($1::bigint[]) AND person_id = $2 RETURNING item_id AS id)
         SELECT id FROM changed`,
        [named.map(({ itemId }) => itemId), person.id, reason],
      );
      const mine = new Set(changed.map((row) => row.id));
      await record(
        manager,
        named
          .filter(({ itemId }) => mine.has(itemId))
          .map(({ itemId, number }) => ({
            personId: person.id,
            kind: 'hold reason',
            itemId,
            says: `${person.name} holds ${number} for: ${reason === '' ? 'no reason given' : reason}`,
            detail: { reason },
          })),
      );
      await announce(manager, 'holds', 'notices');
      return {
        done: named.flatMap(({ itemId, number, label }) =>
          mine.has(itemId) ? [{ number, version: label }] : [],
        ),
        refused: named.flatMap(({ itemId, number }) =>
          mine.has(itemId) ? [] : [{ number, reason: 'you do not hold it' }],
        ),
      };
    });
  }

  /**
   * Asks whoever holds an item to let it go; they find it in their notices, and can answer there.
   *
   * @throws ProblemError NOT_HELD where nobody holds it, or the asker does
   */
  async ask({ item, reason }: HoldAskRequest, person: Person): Promise<void> {
    const target = await this.catalogue.resolve(item, person);
    await this.database.transaction(async (manager) => {
      const holder = (await holdsOf(manager, [target.itemId])).get(target.itemId);
      if (!holder) throw new ProblemError('NOT_HELD', `Nobody holds ${target.number}. Check it out.`);
      if (holder.personId === person.id)
        throw new ProblemError(
          'NOT_HELD',
          `You hold ${target.number} yourself. Let it go where you are done.`,
        );
      const [asked] = await readRows(
        manager,
        { id },
        `INSERT INTO hold_request (item_id, asker_id, holder_id) VALUES ($1, $2, $3)
         ON CONFLICT (item_id, asker_id, holder_id) WHERE answered_at IS NULL DO NOTHING RETURNING id`,
        [target.itemId, person.id, holder.personId],
      );
      if (!asked)
        throw new ProblemError(
          'NOT_HELD',
          `You asked ${holder.name} for ${target.number} before; they have not answered yet.`,
        );
      const says = `${person.name} asks you to let ${target.number} go${reason === '' ? '' : `: ${reason}`}`;
      await recordQuietly(manager, [
        {
          personId: person.id,
          kind: 'hold asked',
          itemId: target.itemId,
          says: `${person.name} asked ${holder.name} to let ${target.number} go${reason === '' ? '' : `: ${reason}`}`,
        },
      ]);
      await manager.query(
        `INSERT INTO notice (person_id, item_id, says, hold_request_id, kind) VALUES ($1, $2, $3, $4, 'asked')`,
        [holder.personId, target.itemId, says, asked.id],
      );
      await announce(manager, 'notices');
    });
  }

  /**
   * Answers who asked: lets the item go, or says why not.
   *
   * @throws ProblemError ENTRY_UNKNOWN where nobody asked this person so, or it was answered
   */
  async answer({ id: requestId, letGo, says }: HoldAnswerRequest, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      const [request] = await readRows(
        manager,
        { itemId: id, askerId: id },
        `WITH answered AS (
           UPDATE hold_request SET answered_at = now() WHERE id = $1 AND holder_id = $2 AND answered_at IS NULL
           RETURNING item_id AS "itemId", asker_id AS "askerId")
         SELECT * FROM answered`,
        [requestId, person.id],
      );
      if (!request)
        throw new ProblemError(
          'ENTRY_UNKNOWN',
          'Nobody waits for this answer any more. Nothing was changed.',
        );
      await lockItems(manager, [request.itemId]);
      const { number } = await readRow(manager, { number: text }, 'SELECT number FROM item WHERE id = $1', [
        request.itemId,
      ]);
      const isLetGo = letGo && (await this.letGo(manager, request.itemId, person));
      const answer = says === '' ? '' : `: ${says}`;
      await record(manager, [
        {
          personId: person.id,
          kind: isLetGo ? 'let go' : 'hold asked',
          itemId: request.itemId,
          says: isLetGo
            ? `${person.name} let ${number} go, as asked${answer}`
            : `${person.name} keeps ${number} for now${answer}`,
          alsoTell: [request.askerId],
        },
      ]);
      await announce(manager, 'holds', 'notices');
    });
  }

  /** @returns whether it was still held */
  private async letGo(manager: EntityManager, itemId: string, person: Person): Promise<boolean> {
    const gone = await readRows(
      manager,
      { id },
      'DELETE FROM hold WHERE item_id = $1 AND person_id = $2 RETURNING item_id AS id',
      [itemId, person.id],
    );
    return gone.length > 0;
  }
}
