import { Injectable } from '@nestjs/common';
import {
  MARK_SPOTS,
  type ChangeMarkRequest,
  type MarkKind,
  type MarkMade,
  type MarkSpot,
  type MarkTone,
  type MarkUpAnswer,
  type MarkUpRow,
  type NewMarkRequest,
  type RemarkRequest,
  type RemarkRow,
  type SettleMarkRequest,
} from '@stem-trace/contract';
import { isUnfinished, type StateBook } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import {
  flag,
  json,
  number,
  orNull,
  readRow,
  readRows,
  text,
  timeText,
  word,
} from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { stateBook } from '../database/state-book.js';
import { record } from '../trail/record.js';

/** More on one item than anybody could read; a script that runs wild ends here. */
const MOST_ON_ITEM = 5000;

/** One mark, with what decides who may do what with it. */
interface Found {
  readonly id: string;
  readonly item: string;
  readonly personId: string;
  readonly kind: MarkKind;
  readonly sheet: string;
  readonly words: string;
  readonly isSettled: boolean;
  readonly isAnswered: boolean;
}

/** What people draw and write on a version. It never touches the version: what a file says stays what it says. */
@Injectable()
export class MarkUpService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
  ) {}

  /**
   * What was made on a version, and what is open still of those before it.
   *
   * @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, NOT_ALLOWED to whoever may not see its files
   */
  async list(item: string, person: Person): Promise<MarkUpAnswer> {
    const shown = await this.catalogue.resolve(item, person, 'fetch');
    const rows = await readRows<MarkUpRow>(
      this.database,
      {
        ...{ id: text, kind: word<MarkKind>(), tone: word<MarkTone>(), sheet: text, words: text },
        ...{ spots: json<readonly MarkSpot[]>(), by: text, initials: text, isMine: flag, at: timeText },
        ...{ version: text, settledBy: orNull(text), settledAt: orNull(timeText) },
        remarks: json<readonly RemarkRow[]>(),
      },
      `SELECT m.id, m.kind, m.tone, m.sheet, m.words, m.spots, p.name AS "by", p.initials, p.id = $3 AS "isMine", m.at,
              r.code || '/' || v.seq AS version, s.name AS "settledBy", m.settled_at AS "settledAt",
              coalesce((SELECT jsonb_agg(jsonb_build_object('by', q.name, 'initials', q.initials, 'words', a.words,
                  'at', to_char(a.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')) ORDER BY a.id)
                FROM mark_up_remark a JOIN person q ON q.id = a.person_id WHERE a.mark_up_id = m.id), '[]') AS remarks
       FROM mark_up m JOIN person p ON p.id = m.person_id LEFT JOIN person s ON s.id = m.settled_by
       JOIN version v ON v.id = m.version_id JOIN revision r ON r.id = v.revision_id
       WHERE m.item_id = $1 AND (m.version_id = $2 OR (m.settled_at IS NULL
         AND v.ordinal < (SELECT ordinal FROM version WHERE id = $2)))
       ORDER BY m.id`,
      [shown.itemId, shown.id, person.id],
    );
    const closed = closedTo(person) || closedOf(shown, await stateBook(this.database));
    return { item: shown.number, version: shown.label, rows, closed };
  }

  /** @throws ProblemError STEP_REFUSED on a version that was released */
  async add(
    { item, sheet, kind, tone, spots, words }: NewMarkRequest,
    person: Person,
    at = new Date(),
  ): Promise<MarkMade> {
    const shown = await this.catalogue.resolve(item, person, 'fetch');
    refuseClosed(shown, await stateBook(this.database));
    return this.database.transaction(async (manager) => {
      const { count } = await readRow(
        manager,
        { count: number },
        'SELECT count(*)::int AS count FROM mark_up WHERE item_id = $1',
        [shown.itemId],
      );
      if (count >= MOST_ON_ITEM)
        throw new ProblemError(
          'TOO_COSTLY',
          `There are ${MOST_ON_ITEM} marks on ${shown.number} already. Settle and take away what is done with first.`,
        );
      const made = await readRow(
        manager,
        { id: text },
        `INSERT INTO mark_up (item_id, version_id, sheet, kind, tone, spots, words, person_id, at)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id`,
        [shown.itemId, shown.id, sheet, kind, tone, JSON.stringify(spots), words, person.id, at],
      );
      await this.tell(manager, shown, person, {
        says: `${person.name} drew on ${shown.number} ${shown.label}${words === '' ? '' : `: ${shortened(words)}`}`,
        ...{ markId: made.id, at },
      });
      return made;
    });
  }

  /** @throws ProblemError ENTRY_UNKNOWN; STEP_REFUSED for another's mark, and on a version that was released */
  async change({ id, tone, spots, words }: ChangeMarkRequest, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      const { mark } = await this.own(manager, id, person);
      const [least, most] = MARK_SPOTS[mark.kind];
      const across = mark.sheet === 'model' ? 3 : 2;
      if (
        spots &&
        (spots.length < least || spots.length > most || spots.some((spot) => spot.length !== across))
      )
        throw new ProblemError(
          'INPUT_INVALID',
          `These are not the spots of a ${mark.kind}. Nothing was changed.`,
        );
      if (mark.kind === 'text' && words === '')
        throw new ProblemError(
          'INPUT_INVALID',
          'A text says something. Take it away where it is not wanted.',
        );
      await manager.query(
        `UPDATE mark_up SET tone = coalesce($2, tone), spots = coalesce($3, spots), words = coalesce($4, words) WHERE id = $1`,
        [id, tone ?? null, spots ? JSON.stringify(spots) : null, words ?? null],
      );
      await announce(manager, 'marks');
    });
  }

  /** @throws ProblemError ENTRY_UNKNOWN; STEP_REFUSED where somebody answered, or nothing may be changed any more */
  async remove(id: string, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      const { mark } = await this.own(manager, id, person);
      if (mark.isAnswered)
        throw new ProblemError(
          'STEP_REFUSED',
          'Somebody answered it, so it stays to be read. Settle it instead.',
        );
      await manager.query('DELETE FROM mark_up WHERE id = $1', [id]);
      await announce(manager, 'marks');
    });
  }

  /** @throws ProblemError ENTRY_UNKNOWN; STEP_REFUSED once the newest version is released */
  async remark({ id, words }: RemarkRequest, person: Person, at = new Date()): Promise<void> {
    await this.database.transaction(async (manager) => {
      const { newest, mark } = await this.open(manager, id, person);
      await manager.query(
        'INSERT INTO mark_up_remark (mark_up_id, person_id, words, at) VALUES ($1, $2, $3, $4)',
        [id, person.id, words, at],
      );
      await this.tell(manager, newest, person, {
        says: `${person.name} answered on ${newest.number}: ${shortened(words)}`,
        ...{ markId: mark.id, at },
      });
    });
  }

  /** By anybody who may see it. @throws ProblemError as `remark` */
  async settle({ id, isSettled }: SettleMarkRequest, person: Person, at = new Date()): Promise<void> {
    await this.database.transaction(async (manager) => {
      const { newest, mark } = await this.open(manager, id, person);
      if (mark.isSettled === isSettled) return;
      await manager.query(
        `UPDATE mark_up SET settled_by = CASE WHEN $2 THEN $3::bigint END, settled_at = CASE WHEN $2 THEN $4::timestamptz END WHERE id = $1`,
        [id, isSettled, person.id, at],
      );
      const about = mark.words === '' ? `a ${mark.kind}` : `“${shortened(mark.words)}”`;
      await this.tell(manager, newest, person, {
        says: `${person.name} ${isSettled ? 'settled' : 'opened again'} ${about} on ${newest.number}`,
        ...{ markId: mark.id, at },
      });
    });
  }

  /** A mark of the asker's own, on a version that is not closed. */
  private async own(manager: EntityManager, id: string, person: Person): Promise<{ readonly mark: Found }> {
    const { mark, version } = await this.find(manager, id, person);
    if (mark.personId !== person.id)
      throw new ProblemError(
        'STEP_REFUSED',
        'Somebody else drew this. Answer it or settle it; only who drew a mark changes it.',
      );
    refuseClosed(version, await stateBook(manager));
    return { mark };
  }

  /** A mark that may be answered: the item's newest version is not released. */
  private async open(
    manager: EntityManager,
    id: string,
    person: Person,
  ): Promise<{ readonly mark: Found; readonly newest: DescribedVersion }> {
    const { mark } = await this.find(manager, id, person);
    const newest = await this.catalogue.resolve(mark.item, person, 'fetch', manager);
    refuseClosed(newest, await stateBook(manager));
    return { mark, newest };
  }

  private async find(
    manager: EntityManager,
    id: string,
    person: Person,
  ): Promise<{ readonly mark: Found; readonly version: DescribedVersion }> {
    const [found] = await readRows<Found & { readonly version: string }>(
      manager,
      {
        ...{ id: text, item: text, version: text, personId: text, kind: word<MarkKind>(), sheet: text },
        ...{ words: text, isSettled: flag, isAnswered: flag },
      },
      `SELECT m.id, i.number AS item, r.code || '/' || v.seq AS version, m.person_id AS "personId", m.kind, m.sheet,
              m.words, m.settled_at IS NOT NULL AS "isSettled",
              EXISTS (SELECT FROM mark_up_remark a WHERE a.mark_up_id = m.id AND a.person_id <> m.person_id) AS "isAnswered"
       FROM mark_up m JOIN item i ON i.id = m.item_id JOIN version v ON v.id = m.version_id
       JOIN revision r ON r.id = v.revision_id WHERE m.id = $1 FOR UPDATE OF m`,
      [id],
    );
    if (!found) throw unknownMark();
    const version = await this.catalogue
      .resolve(`${found.item}@${found.version}`, person, 'fetch', manager)
      .catch((error: unknown) => {
        // Whoever may not see the item is not told that there is a mark.
        throw error instanceof ProblemError ? unknownMark() : error;
      });
    return { mark: found, version };
  }

  /** Who made the version, who made the mark, who answered it, and who watches the item. */
  private async tell(
    manager: EntityManager,
    version: DescribedVersion,
    person: Person,
    { says, markId, at }: { readonly says: string; readonly markId: string; readonly at: Date },
  ): Promise<void> {
    const rows = await readRows(
      manager,
      { id: text },
      `SELECT author_id AS id FROM version WHERE id = $1 UNION SELECT person_id FROM mark_up WHERE id = $2
       UNION SELECT person_id FROM mark_up_remark WHERE mark_up_id = $2`,
      [version.id, markId],
    );
    const alsoTell = rows.map(({ id }) => id);
    await record(manager, [
      { personId: person.id, kind: 'mark-up', itemId: version.itemId, says, alsoTell, at },
    ]);
    await announce(manager, 'marks', 'notices');
  }
}

/** Who only looks does not draw either; the guard of the routes sees to it. */
function closedTo({ role, name }: Person): string {
  return role === 'viewer' ? `${name} may look, not draw. Ask an administrator for another role.` : '';
}

function closedOf({ number: item, label, state }: DescribedVersion, book: StateBook): string {
  return !isUnfinished(book, state)
    ? `${item} ${label} is ${state}; what is drawn on it can be read, not changed.`
    : '';
}

function refuseClosed(version: DescribedVersion, book: StateBook): void {
  const closed = closedOf(version, book);
  if (closed !== '')
    throw new ProblemError('STEP_REFUSED', `${closed} Draw on a version that is being worked on.`);
}

function shortened(words: string): string {
  return words.length > 120 ? `${words.slice(0, 119)}…` : words;
}

function unknownMark(): ProblemError {
  return new ProblemError('ENTRY_UNKNOWN', 'There is no such mark any more. Look at the item anew.');
}
