import type { PassOnRequest, Substitution } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { countRows, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { record } from '../trail/record.js';
import { askable } from './asked.js';
import { sheetAddress } from './open-sheet.js';
import type { SheetsService } from './sheets.service.js';

/** Passing a check sheet on, and standing in for who is away. */
export class AskedService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly sheets: SheetsService,
  ) {}

  /**
   * By whoever it waits for, or who sent it. Somebody who is asked once more is simply asked.
   *
   * @throws ProblemError NOT_FOUND, STEP_REFUSED where nothing waits or it is not theirs, INPUT_INVALID for who may not decide
   */
  async passOn({ sheet, to, reason }: PassOnRequest, person: Person): Promise<void> {
    const view = await this.sheets.view(sheet, person);
    if (view.undecided === 0)
      throw new ProblemError('STEP_REFUSED', 'All of it is decided. Nothing was changed.');
    await this.database.transaction(async (manager) => {
      const items = await readRows(
        manager,
        { itemId: text, number: text, placeId: text, senderId: text },
        `SELECT i.id AS "itemId", i.number, i.place_id AS "placeId", c.person_id AS "senderId" FROM check_sheet_item s
         JOIN item i ON i.id = s.item_id JOIN check_sheet c ON c.id = s.sheet_id WHERE s.sheet_id = $1 ORDER BY s.position`,
        [sheet],
      );
      const [first] = items;
      if (!first || (!view.isMine && first.senderId !== person.id))
        throw new ProblemError(
          'STEP_REFUSED',
          'It does not wait for you. Ask those who are asked to pass it on. Nothing was changed.',
        );
      const [next] = await askable(manager, this.rights, [to], items);
      if (!next || next.id === person.id)
        throw new ProblemError('INPUT_INVALID', 'Pass it on to somebody else. Nothing was changed.');
      // Who sent it asks another one besides; who was asked hands it over.
      await manager.query(
        `UPDATE check_asked SET passed_on_at = now() WHERE sheet_id = $1 AND passed_on_at IS NULL AND (person_id = $2
           OR EXISTS (SELECT FROM substitute b WHERE b.person_id = check_asked.person_id AND b.substitute_id = $2))`,
        [sheet, person.id],
      );
      await manager.query(
        `INSERT INTO check_asked (sheet_id, person_id, by_id) VALUES ($1, $2, $3)
         ON CONFLICT (sheet_id, person_id) DO UPDATE SET passed_on_at = NULL, by_id = $3, at = now()`,
        [sheet, next.id, person.id],
      );
      const why = reason === '' ? '' : `: ${reason}`;
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'check', itemId: first.itemId, address: sheetAddress(sheet) },
          says: `${person.name} passed ${view.title} on to ${next.name}${why}`,
          ...{ alsoTell: [next.id, first.senderId], tellsOf: 'to check' },
        },
      ]);
      await announce(manager, 'sheets', 'notices');
    });
  }

  /** Days that have passed count for nobody. */
  async substituteOf({ id }: Person): Promise<Substitution> {
    const [row] = await readRows<Substitution>(
      this.database,
      { substitute: text, from: text, to: text },
      `SELECT p.login AS substitute, b.from_day::text AS from, b.to_day::text AS to FROM substitute b
       JOIN person p ON p.id = b.substitute_id WHERE b.person_id = $1`,
      [id],
    );
    return row ?? { substitute: '', from: '', to: '' };
  }

  /** @throws ProblemError INPUT_INVALID for nobody, oneself, or days the wrong way round */
  async setSubstitute({ substitute, from, to }: Substitution, person: Person): Promise<Substitution> {
    if (substitute === '') {
      await this.database.query('DELETE FROM substitute WHERE person_id = $1', [person.id]);
    } else {
      if (from === '' || to === '' || from > to)
        throw new ProblemError('INPUT_INVALID', 'Say from which day to which. Nothing was changed.');
      const made = await countRows(
        this.database,
        `INSERT INTO substitute (person_id, substitute_id, from_day, to_day)
         SELECT $1, id, $3, $4 FROM person WHERE login = $2 AND is_active AND id <> $1
         ON CONFLICT (person_id) DO UPDATE SET substitute_id = excluded.substitute_id, from_day = $3, to_day = $4 RETURNING person_id`,
        [person.id, substitute, from, to],
      );
      if (made === 0)
        throw new ProblemError('INPUT_INVALID', 'Choose somebody else to stand in. Nothing was changed.');
    }
    await announce(this.database.manager, 'sheets');
    return this.substituteOf(person);
  }
}
