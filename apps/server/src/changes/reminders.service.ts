import { DataSource } from 'typeorm';
import { countRows } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { Recurring } from '../queue/recurring.js';
import { siteDay } from '../database/site-day.js';
import { isUnderWay } from '../store/changes.js';

/** Days before the day that was set. */
const SOON_DAYS = 3;
const LOOK_MS = 600_000;

/**
 * Reminds whoever has a change or a task in hand: some days before its day, on it, and once when it has passed. Whichever server is first
 * says it; another day, or another person, is reminded of anew.
 */
export class RemindersService extends Recurring {
  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
  ) {
    super(inBackground, 'reminders', LOOK_MS);
  }

  protected work(): Promise<unknown> {
    return this.remind(new Date());
  }

  /** @returns how many notices were written */
  async remind(now: Date): Promise<number> {
    return this.database.transaction(async (manager) => {
      const told = await countRows(manager, REMIND, [await siteDay(manager, now), SOON_DAYS]);
      if (told > 0) await announce(manager, 'notices');
      return told;
    });
  }
}

const REMIND = `
  WITH given AS (
    SELECT c.item_id AS change_id, '' AS key, c.owner_id AS person_id, c.until AS day, i.number || ' ' || i.name AS what
      FROM change c JOIN item i ON i.id = c.item_id WHERE c.until IS NOT NULL AND c.owner_id IS NOT NULL AND ${isUnderWay('i')}
    UNION ALL SELECT t.change_id, t.key, t.person_id, t.until, t.what || ' (' || i.number || ')'
      FROM change_task t JOIN item i ON i.id = t.change_id WHERE t.until IS NOT NULL AND t.person_id IS NOT NULL AND ${isUnderWay('i')}
        AND NOT EXISTS (SELECT FROM change_task_done d WHERE d.change_id = t.change_id AND d.key = t.key)),
  wanted AS (
    SELECT given.*, i.number, CASE WHEN $1::date > day THEN 'late' WHEN $1::date = day THEN 'today' ELSE 'soon' END AS kind
      FROM given JOIN item i ON i.id = given.change_id WHERE day <= $1::date + $2::int),
  fresh AS (
    INSERT INTO change_reminder (change_id, key, day, person_id, kind) SELECT change_id, key, day, person_id, kind FROM wanted
    ON CONFLICT DO NOTHING RETURNING change_id, key, day, person_id, kind)
  INSERT INTO notice (person_id, item_id, says, address, kind)
  SELECT w.person_id, w.change_id, w.what || CASE w.kind WHEN 'late' THEN ' was to be done by ' || w.day WHEN 'today' THEN ' is to be done today'
      ELSE ' is to be done by ' || w.day END, '/change?change=' || w.number, 'given'
  FROM fresh f JOIN wanted w USING (change_id, key, day, person_id, kind) RETURNING id`;
