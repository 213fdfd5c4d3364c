import type { INestApplication } from '@nestjs/common';
import { NO_CHANGE } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { ChangesService } from '../changes/changes.service.js';
import type { Person } from '../database/entities/person.js';
import { readRow, readRows, text } from '../database/read-rows.js';
import { recordQuietly } from '../trail/record.js';
import type { DemoChange, DemoMove } from './demo-people.js';

const PLACE = '/Fenmark/Changes';

/** A change as it was in the demo's history: raised, what is made under it, what of its tasks was done, and the steps it took. */
export async function change(
  app: INestApplication,
  step: DemoChange,
  person: Person,
  people: ReadonlyMap<string, Person>,
): Promise<void> {
  const { change: kind, number, name, why, urgency, owner, until, costs, lines, tasks, moves } = step;
  await app.get(ChangesService).create(
    {
      ...{ kind, number, name, place: PLACE },
      contents: {
        ...{ ...NO_CHANGE, why, urgency, owner, until, costs, currency: costs.length > 0 ? 'EUR' : '' },
        lines: lines.map(({ note = '', ...line }) => ({ ...line, note, inStock: '', inWork: '' })),
        tasks: tasks.map(({ doneAt: _, ...task }) => task),
      },
    },
    person,
    new Date(step.at),
  );
  await app.get(DataSource).transaction(async (manager) => {
    const { id } = await readRow(manager, { id: text }, 'SELECT id FROM item WHERE number = $1', [number]);
    await make(manager, id, step);
    for (const { key, who, doneAt } of tasks)
      if (doneAt !== undefined)
        await manager.query(
          'INSERT INTO change_task_done (change_id, key, person_id, at) VALUES ($1, $2, $3, $4)',
          [id, key, people.get(who)?.id, doneAt],
        );
    for (const move of moves) await goOn(manager, [number], move, people);
    const last = moves.at(-1);
    const answered = lines.flatMap(({ relation, item }) => (relation === 'answers' ? item : []));
    // What an order answers is settled along with it.
    if (last?.to === 'carried out')
      await goOn(
        manager,
        answered,
        { ...last, step: 'settle', done: 'settled …', from: 'taken on', to: 'settled' },
        people,
      );
  });
}

/** The newest revision of each, with its versions. */
async function make(manager: EntityManager, changeId: string, { makes, at }: DemoChange): Promise<void> {
  await manager.query(
    `INSERT INTO change_makes (change_id, revision_id, since_version_id, at)
     SELECT $1, v.revision_id, (SELECT w.id FROM version w WHERE w.item_id = i.id AND w.revision_id <> v.revision_id
       ORDER BY w.ordinal DESC LIMIT 1), $3
     FROM item i JOIN version v ON v.id = i.newest_version_id WHERE i.number = ANY($2::text[])`,
    [changeId, makes, at],
  );
  await manager.query(
    `INSERT INTO change_version (version_id, change_id) SELECT v.id, m.change_id FROM change_makes m
     JOIN version v ON v.revision_id = m.revision_id WHERE m.change_id = $1`,
    [changeId],
  );
}

async function goOn(
  manager: EntityManager,
  numbers: readonly string[],
  { at, by, step, done, from, to, reason }: DemoMove,
  people: ReadonlyMap<string, Person>,
): Promise<void> {
  const person = people.get(by);
  if (!person) throw new Error(`the demo's history names ${by}, who is none of its people`);
  const moved = await readRows(
    manager,
    { id: text, number: text, version: text },
    `SELECT i.id, i.number, r.code || '/' || v.seq AS version FROM item i JOIN version v ON v.id = i.newest_version_id
     JOIN revision r ON r.id = v.revision_id WHERE i.number = ANY($1::text[])`,
    [numbers],
  );
  await manager.query(
    `UPDATE revision SET state = $2 FROM version v JOIN item i ON i.newest_version_id = v.id
     WHERE revision.id = v.revision_id AND i.number = ANY($1::text[])`,
    [numbers, to],
  );
  const why = reason === '' ? '' : `: ${reason}`;
  await recordQuietly(
    manager,
    moved.map(({ id, number, version }) => ({
      ...({ personId: person.id, kind: 'step', itemId: id, at: new Date(at) } as const),
      says: `${person.name} ${done.replace('…', `${number} ${version}`)}${why}`,
      detail: { step, from, to, version, reason },
    })),
  );
}
