import type { MyTaskRow, TickTaskRequest } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { isUnderWay } from '../store/changes.js';
import { lockItems } from '../store/turn.js';
import { record } from '../trail/record.js';
import { changeAddress } from './change-address.js';

/** Tasks of change orders: whose they are, and whether they are done. */
export class TasksService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** Tasks that wait for somebody, those that are due first. */
  async of(person: Person): Promise<MyTaskRow[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    return readRows<MyTaskRow>(
      this.database,
      { change: text, name: text, task: text, what: text, until: text },
      `SELECT i.number AS change, i.name, t.key AS task, t.what, coalesce(t.until::text, '') AS until
       FROM change_task t JOIN item i ON i.id = t.change_id
       WHERE t.person_id = $1 AND i.place_id <> ALL($2::bigint[]) AND ${isUnderWay('i')}
         AND NOT EXISTS (SELECT FROM change_task_done d WHERE d.change_id = t.change_id AND d.key = t.key)
       ORDER BY t.until NULLS LAST, i.number_key LIMIT 500`,
      [person.id, hidden],
    );
  }

  /** By whoever it is given to, or may change the order. @throws ProblemError NOT_FOUND, NOT_ALLOWED, STEP_REFUSED */
  async tick({ change, task: key, done }: TickTaskRequest, person: Person): Promise<void> {
    const order = await this.catalogue.resolve(change, person);
    const rights = await this.rights.of(person);
    await this.database.transaction(async (manager) => {
      await lockItems(manager, [order.itemId]);
      const [task] = await readRows(
        manager,
        { what: text, who: text },
        `SELECT what, coalesce(person_id::text, '') AS who FROM change_task WHERE change_id = $1 AND key = $2`,
        [order.itemId, key],
      );
      if (!task) throw new ProblemError('NOT_FOUND', `${order.number} has no such task.`);
      if (task.who !== person.id && !rights.may('change', order.placeId))
        throw new ProblemError(
          'NOT_ALLOWED',
          'Only who it is given to, or whoever may change the order, ticks it off.',
        );
      const { lane } =
        (await stateBook(manager)).get((await this.catalogue.newest(order.itemId, manager)).state) ?? {};
      if (lane !== 'open' && lane !== 'under check')
        throw new ProblemError(
          'STEP_REFUSED',
          `Nothing is open in ${order.number} any more. Nothing was changed.`,
        );
      await manager.query(
        done
          ? 'INSERT INTO change_task_done (change_id, key, person_id) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING'
          : 'DELETE FROM change_task_done WHERE change_id = $1 AND key = $2 AND $3::bigint IS NOT NULL',
        [order.itemId, key, person.id],
      );
      await record(manager, [
        {
          ...{
            personId: person.id,
            kind: 'change' as const,
            itemId: order.itemId,
            address: changeAddress(order.number),
          },
          says: `${person.name} ${done ? 'ticked off' : 'opened again'} in ${order.number}: ${task.what}`,
        },
      ]);
      await announce(manager, 'notices', 'changes');
    });
  }
}
