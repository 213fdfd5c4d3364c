import { Injectable } from '@nestjs/common';
import type { MoveOnAnswer, MoveOnRequest } from '@stem-trace/contract';
import { stateNamed, type Diagram } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, listOf, number, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { StoreTurn } from '../store/turn.js';
import { record } from '../trail/record.js';

interface Newest {
  readonly id: string;
  readonly diagram: Diagram;
}

/**
 * Lets revisions that go by older versions of a lifecycle go by its newest. They stay in their states, but for those that are there
 * no more, of which it is said where they go; what is locked stays locked.
 */
@Injectable()
export class MoveOnService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
  ) {}

  async preview(
    request: MoveOnRequest,
    manager: EntityManager = this.database.manager,
  ): Promise<MoveOnAnswer> {
    const newest = await newestOf(request.id, manager);
    const found = await readRows(
      manager,
      { from: text, count: number, such: listOf(text) },
      `SELECT r.state AS from, count(*)::int AS count, (array_agg(i.number || ' ' || r.code ORDER BY i.number_key, r.position))[1:5] AS such
       FROM revision r JOIN item i ON i.id = r.item_id JOIN lifecycle_version w ON w.id = r.lifecycle_version_id
       WHERE w.lifecycle_id = $1 AND w.id <> $2 GROUP BY r.state ORDER BY r.state`,
      [request.id, newest.id],
    );
    const to = new Map(request.moves.map((move) => [move.from, move.to]));
    const rows = found.map(({ from, count, such }) => ({ from, to: to.get(from) ?? from, count, such }));
    return { rows, wrong: await this.wrong(rows, newest, manager) };
  }

  /** @throws ProblemError INPUT_INVALID with all that is wrong; nothing was moved then */
  async carryOut(request: MoveOnRequest, person: Person): Promise<MoveOnAnswer> {
    return this.turn.takeForStep(async (manager) => {
      const newest = await newestOf(request.id, manager);
      const answer = await this.preview(request, manager);
      if (answer.wrong.length > 0)
        throw new ProblemError('INPUT_INVALID', `${answer.wrong.join(' ')} Nothing was moved.`, answer.wrong);
      for (const { from, to } of answer.rows)
        // Where it stood has ended, and with it what was signed for its next step.
        await manager.query(
          `UPDATE revision r SET lifecycle_version_id = $2, state = $4, moves = r.moves + 1 FROM lifecycle_version w
           WHERE w.id = r.lifecycle_version_id AND w.lifecycle_id = $1 AND w.id <> $2 AND r.state = $3`,
          [request.id, newest.id, from, to],
        );
      const count = answer.rows.reduce((sum, row) => sum + row.count, 0);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'lifecycle', itemId: null },
          says: `${person.name} let ${count} revisions go by the newest ${newest.diagram.name}`,
          detail: { rows: answer.rows },
        },
      ]);
      await announce(manager, 'lifecycles', 'items');
      return answer;
    });
  }

  private async wrong(
    rows: MoveOnAnswer['rows'],
    { diagram }: Newest,
    manager: EntityManager,
  ): Promise<string[]> {
    const known = await readRows(
      manager,
      { name: text, lane: text, released: text },
      'SELECT name, lane, is_released::text AS released FROM state',
    );
    const meaning = new Map(known.map(({ name, lane, released }) => [name, `${lane} ${released}`]));
    return rows.flatMap(({ from, to, count }) => {
      const such = count === 1 ? 'One revision is' : `${count} revisions are`;
      if (!stateNamed(diagram, to))
        return from === to
          ? [`${such} ${from}, which is there no more. Say where they go.`]
          : [`${such} ${from} and would go to ${to}, which is not there.`];
      // Nothing is released, or made open again, by this.
      return meaning.get(from) === meaning.get(to) || isFreeToMove(meaning.get(from), meaning.get(to))
        ? []
        : [
            `${such} ${from} and would go to ${to}, where something else is locked. Choose a state that is like it.`,
          ];
    });
  }
}

/** Between being open and under check nothing is lost or released. */
function isFreeToMove(from = '', to = ''): boolean {
  const isUnfinished = (meaning: string): boolean => /^(open|under check) /.test(meaning);
  return isUnfinished(from) && isUnfinished(to);
}

async function newestOf(id: string, manager: EntityManager): Promise<Newest> {
  const [row] = await readRows<Newest>(
    manager,
    { id: text, diagram: json<Diagram>() },
    'SELECT id, diagram FROM lifecycle_version WHERE lifecycle_id = $1 ORDER BY seq DESC LIMIT 1',
    [id],
  );
  if (!row) throw new ProblemError('NOT_FOUND', 'There is no such lifecycle.');
  return row;
}
