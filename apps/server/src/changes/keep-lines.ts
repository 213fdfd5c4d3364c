import { effectivityOf, type ChangeContents, type ChangeKind } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';

export interface StoredChange {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ChangeKind;
}

/** What the newest version of a change says, in rows that can be asked: the file of the version is what counts. */
export async function keepLines(
  manager: EntityManager,
  changeId: string,
  { lines, tasks, owner, until, urgency, takesEffect }: ChangeContents,
): Promise<void> {
  await manager.query(
    `UPDATE change SET owner_id = (SELECT id FROM person WHERE login = $2), until = nullif($3, '')::date, urgency = $4,
       spans = $5 WHERE item_id = $1`,
    [changeId, owner, until, urgency, effectivityOf(takesEffect) ?? {}],
  );
  await manager.query('DELETE FROM change_line WHERE change_id = $1', [changeId]);
  await manager.query(
    `INSERT INTO change_line (change_id, relation, item_id)
     SELECT $1, relation, item FROM unnest($2::text[], $3::bigint[]) AS t(relation, item)`,
    [changeId, lines.map(({ relation }) => relation), lines.map(({ itemId }) => itemId)],
  );
  await manager.query('DELETE FROM change_task WHERE change_id = $1', [changeId]);
  await manager.query(
    `INSERT INTO change_task (change_id, key, what, person_id, until)
     SELECT $1, key, what, (SELECT id FROM person WHERE login = who), nullif(until, '')::date
     FROM unnest($2::text[], $3::text[], $4::text[], $5::text[]) AS t(key, what, who, until)`,
    [
      changeId,
      tasks.map(({ key }) => key),
      tasks.map(({ what }) => what),
      tasks.map(({ who }) => who),
      tasks.map(({ until: day }) => day),
    ],
  );
  await manager.query(
    'DELETE FROM change_task_done d WHERE d.change_id = $1 AND NOT EXISTS (SELECT FROM change_task t WHERE t.change_id = $1 AND t.key = d.key)',
    [changeId],
  );
}
