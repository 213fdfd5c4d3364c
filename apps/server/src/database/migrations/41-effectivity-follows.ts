import type { MigrationInterface, QueryRunner } from 'typeorm';
import { FOLLOW_BY_FIND } from './37-effectivity.js';

/**
 * A new version also keeps what was said of uses whose find numbers change while their item is used several times: what has the same find
 * number and configurations stands for one another first, then, of an item of which as many uses are left over as there were, one after
 * another.
 */
const FOLLOW = `CREATE OR REPLACE FUNCTION follow_effectivity() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF NOT EXISTS (SELECT FROM effectivity) THEN RETURN NULL; END IF;
  WITH pair AS (
    SELECT DISTINCT v.id AS is_now, b.id AS was FROM fresh f JOIN version v ON v.id = f.version_id
    JOIN version b ON b.item_id = v.item_id AND b.ordinal = v.ordinal - 1
    WHERE EXISTS (SELECT FROM effectivity e WHERE e.version_id = b.id)
  ), told AS (
    SELECT p.is_now, l.id, l.version_id = p.is_now AS fresh, l.target_item_id AS target, l.find, l.configurations, l.position,
           row_number() OVER (PARTITION BY p.is_now, l.version_id, l.target_item_id, l.find, l.configurations ORDER BY l.position) AS nth
    FROM pair p JOIN link l ON l.version_id IN (p.is_now, p.was)
    WHERE l.target_item_id IS NOT NULL
  ), alike AS (
    SELECT n.id AS new_id, o.id AS old_id, n.is_now FROM told n JOIN told o ON o.is_now = n.is_now AND n.fresh AND NOT o.fresh
      AND o.target = n.target AND o.find = n.find AND o.configurations = n.configurations AND o.nth = n.nth
  ), rest AS (
    SELECT t.is_now, t.id, t.fresh, t.target,
           row_number() OVER (PARTITION BY t.is_now, t.fresh, t.target ORDER BY t.position) AS nth,
           count(*) OVER (PARTITION BY t.is_now, t.fresh, t.target) AS times
    FROM told t WHERE NOT EXISTS (SELECT FROM alike a WHERE a.is_now = t.is_now AND t.id = CASE WHEN t.fresh THEN a.new_id ELSE a.old_id END)
  ), kept AS (
    SELECT new_id, old_id, is_now FROM alike
    UNION ALL
    SELECT n.id, o.id, n.is_now FROM rest n JOIN rest o ON o.is_now = n.is_now AND n.fresh AND NOT o.fresh
      AND o.target = n.target AND o.nth = n.nth AND o.times = n.times
  )
  INSERT INTO effectivity (link_id, version_id, spans, person_id, at)
  SELECT k.new_id, k.is_now, e.spans, e.person_id, e.at FROM kept k JOIN effectivity e ON e.link_id = k.old_id
  ON CONFLICT (link_id) DO NOTHING;
  RETURN NULL;
END $$`;

export class EffectivityFollows1764000000041 implements MigrationInterface {
  name = 'EffectivityFollows1764000000041';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(FOLLOW);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(FOLLOW_BY_FIND);
  }
}
