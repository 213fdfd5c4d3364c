/** Days at the site; the zone is a setting, and the database knows where days begin in it. */
import type { EntityManager } from 'typeorm';
import { number, readRow, text } from './read-rows.js';

type Asks = Pick<EntityManager, 'query'>;

/** The day that it is at the site at a moment: `2026-03-31`. */
export async function siteDay(database: Asks, at: Date): Promise<string> {
  const { day } = await readRow(database, { day: text }, 'SELECT site_day($1)::text AS day', [at]);
  return day;
}

/** The last millisecond of a day at the site, since 1970. */
export async function endOfSiteDay(database: Asks, day: string): Promise<number> {
  const { end } = await readRow(
    database,
    { end: number },
    'SELECT (extract(epoch FROM site_midnight($1::date + 1)) * 1000)::float8 - 1 AS end',
    [day],
  );
  return end;
}
