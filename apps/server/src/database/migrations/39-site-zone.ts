import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * The zone of the site decides when a day begins and ends: of what is due, of what is in effect, of mails that come once a day. Moments
 * are kept as they are, in UTC.
 */
export class SiteZone1764000000039 implements MigrationInterface {
  name = 'SiteZone1764000000039';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE FUNCTION site_zone() RETURNS text LANGUAGE sql STABLE AS $$
        SELECT coalesce((SELECT value #>> '{}' FROM setting WHERE name = 'site zone'), 'UTC')
      $$;
      -- The day that it is at the site at a moment.
      CREATE FUNCTION site_day(at timestamptz) RETURNS date LANGUAGE sql STABLE AS $$
        SELECT (at AT TIME ZONE site_zone())::date
      $$;
      -- The moment at which a day begins at the site: the first of two where clocks are put back across midnight.
      CREATE FUNCTION site_midnight(day date) RETURNS timestamptz LANGUAGE sql STABLE AS $$
        SELECT min(at) FROM (
          SELECT (day::timestamp AT TIME ZONE site_zone()) - back * interval '15 minutes' AS at FROM generate_series(0, 8) back) t
        WHERE site_day(at) >= day
      $$;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP FUNCTION site_midnight(date), site_day(timestamptz), site_zone()');
  }
}
