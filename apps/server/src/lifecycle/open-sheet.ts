import { shiftDay, type StateBook } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { readRow, text } from '../database/read-rows.js';
import type { Going } from './step-ground.js';
import { siteDay } from '../database/site-day.js';

/** Where a check sheet is looked at. */
export function sheetAddress(id: string): string {
  return `/check/${id}`;
}

export interface Opening {
  readonly person: Person;
  readonly reason: string;
  readonly book: StateBook;
  readonly at: Date;
  /** By name; nobody where whoever may decide is asked. */
  readonly asked: readonly Person[];
  /** Day; what the steps say where absent. */
  readonly until: string | undefined;
}

/**
 * The check sheet of what is sent on together from being open to being checked. What a check hands on to another check stays on its
 * sheet.
 *
 * @returns its id; null where nothing is sent on
 */
export async function openSheet(
  manager: EntityManager,
  taken: readonly Going[],
  { person, reason, book, at, asked, until }: Opening,
): Promise<string | null> {
  const sent = taken.filter(
    ({ target, step }) =>
      book.get(target.item.state)?.lane === 'open' && book.get(step.to)?.lane === 'under check',
  );
  // A change order stands first: it says why the others are there.
  sent.sort((a, b) => Number(b.target.item.kind === 'order') - Number(a.target.item.kind === 'order'));
  if (sent.length === 0) return null;
  const due = sent.flatMap(({ step }) => step.due ?? []);
  const { id } = await readRow(
    manager,
    { id: text },
    `WITH made AS (INSERT INTO check_sheet (person_id, reason, until, lead) VALUES ($1, $2, $5, $6) RETURNING id),
       asked AS (INSERT INTO check_asked (sheet_id, person_id, by_id) SELECT made.id, a.id, $1 FROM made, unnest($7::bigint[]) AS a(id)),
       filled AS (INSERT INTO check_sheet_item (sheet_id, item_id, version_id, position)
         SELECT made.id, i.item, i.version, i.at FROM made,
           unnest($3::bigint[], $4::bigint[]) WITH ORDINALITY AS i(item, version, at))
     SELECT id FROM made`,
    [
      person.id,
      reason,
      sent.map(({ target }) => target.item.itemId),
      sent.map(({ target }) => target.item.id),
      until ?? (await dueDay(manager, at, Math.min(...due.map(({ days }) => days)))),
      JSON.stringify(due.flatMap(({ lead }) => lead)),
      asked.map((each) => each.id),
    ],
  );
  return id;
}

/** The day so many days later at the site; null where no step says how many. */
async function dueDay(manager: EntityManager, at: Date, days: number): Promise<string | null> {
  return Number.isFinite(days) ? shiftDay(await siteDay(manager, at), days) : null;
}
