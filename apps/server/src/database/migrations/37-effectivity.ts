import type { MigrationInterface, QueryRunner } from 'typeorm';

const KINDS_BEFORE = `('versions', 'state', 'gap', 'item')`;
const KINDS = `('versions', 'state', 'gap', 'item', 'effectivity')`;

/** What a new version keeps, by find number and configurations, or where an item is used once. */
export const FOLLOW_BY_FIND = `CREATE OR REPLACE FUNCTION follow_effectivity() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF NOT EXISTS (SELECT FROM effectivity) THEN RETURN NULL; END IF;
  WITH pair AS (
    SELECT DISTINCT v.id AS is_now, b.id AS was FROM fresh f JOIN version v ON v.id = f.version_id
    JOIN version b ON b.item_id = v.item_id AND b.ordinal = v.ordinal - 1
    WHERE EXISTS (SELECT FROM effectivity e WHERE e.version_id = b.id)
  ), told AS (
    SELECT p.is_now, l.id, l.version_id = p.is_now AS fresh, l.target_item_id AS target, l.find, l.configurations,
           row_number() OVER alike AS nth, count(*) OVER (PARTITION BY p.is_now, l.version_id, l.target_item_id) AS times
    FROM pair p JOIN link l ON l.version_id IN (p.is_now, p.was)
    WHERE l.target_item_id IS NOT NULL
    WINDOW alike AS (PARTITION BY p.is_now, l.version_id, l.target_item_id, l.find, l.configurations ORDER BY l.position)
  )
  INSERT INTO effectivity (link_id, version_id, spans, person_id, at)
  SELECT n.id, n.is_now, e.spans, e.person_id, e.at
  FROM told n JOIN told o ON o.is_now = n.is_now AND n.fresh AND NOT o.fresh AND o.target = n.target
    AND ((o.find = n.find AND o.configurations = n.configurations AND o.nth = n.nth) OR (o.times = 1 AND n.times = 1))
  JOIN effectivity e ON e.link_id = o.id
  ON CONFLICT (link_id) DO NOTHING;
  RETURN NULL;
END $$;`;

/**
 * From when until when uses count, said beside the versions that have them, and since when revisions count as released: what is
 * built on a day can be asked.
 */
export class Effectivity1764000000037 implements MigrationInterface {
  name = 'Effectivity1764000000037';

  async up(runner: QueryRunner): Promise<void> {
    await this.keepReleases(runner);
    await this.keepEffectivity(runner);
    await this.follow(runner);
  }

  /** When a revision was released is known from the trail; where that says nothing, it was when its last version came. */
  private async keepReleases(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE revision ADD COLUMN released_at timestamptz;
      ALTER TABLE revision DISABLE TRIGGER USER;
      UPDATE revision r SET released_at = coalesce(
        (SELECT min(e.at) FROM event e JOIN state s ON s.name = e.detail->>'to' AND s.is_released
         WHERE e.item_id = r.item_id AND e.kind = 'step' AND e.detail->>'version' LIKE r.code || '/%'),
        (SELECT max(v.created_at) FROM version v WHERE v.revision_id = r.id), now())
      WHERE r.state IN (SELECT name FROM state WHERE is_released);
      ALTER TABLE revision ENABLE TRIGGER USER;

      CREATE FUNCTION note_release() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.released_at := CASE WHEN (SELECT is_released FROM state WHERE name = NEW.state)
          THEN coalesce(NEW.released_at, now()) END;
        RETURN NEW;
      END $$;
      -- After the one that gives a revision its first state: triggers go by their names.
      CREATE TRIGGER revision_notes_release BEFORE INSERT OR UPDATE OF state ON revision
        FOR EACH ROW EXECUTE FUNCTION note_release();
    `);
  }

  private async keepEffectivity(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE effectivity (
        link_id bigint PRIMARY KEY REFERENCES link ON DELETE CASCADE,
        version_id bigint NOT NULL REFERENCES version ON DELETE CASCADE,
        -- As the core says it: {planned, actual}, each with days and serials.
        spans jsonb NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX effectivity_version ON effectivity (version_id);
      CREATE TRIGGER effectivity_tells_store AFTER INSERT OR UPDATE OR DELETE ON effectivity
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');

      ALTER TABLE structure_feed DROP CONSTRAINT structure_feed_kind_check,
        ADD CONSTRAINT structure_feed_kind_check CHECK (kind IN ${KINDS});
      CREATE FUNCTION tell_effectivity() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO structure_feed (kind, id) VALUES ('effectivity', coalesce(NEW.version_id, OLD.version_id));
        NOTIFY stem_structure;
        RETURN NULL;
      END $$;
      CREATE TRIGGER effectivity_tells_structure AFTER INSERT OR UPDATE OR DELETE ON effectivity
        FOR EACH ROW EXECUTE FUNCTION tell_effectivity();

      -- Whether a use counts on a day, or in a piece of a product; of each end what became of it, or else what is planned.
      CREATE FUNCTION in_effect(spans jsonb, day text, product text, serial bigint) RETURNS boolean LANGUAGE sql IMMUTABLE AS $$
        SELECT spans IS NULL OR CASE WHEN day IS NOT NULL THEN
          coalesce(spans #>> '{actual,days,from}', spans #>> '{planned,days,from}', day) <= day
          AND coalesce(spans #>> '{actual,days,to}', spans #>> '{planned,days,to}', day) >= day
        ELSE (
          SELECT coalesce((max(s->>'from') FILTER (WHERE known))::bigint, (max(s->>'from') FILTER (WHERE NOT known))::bigint, serial) <= serial
            AND coalesce((max(s->>'to') FILTER (WHERE known))::bigint, (max(s->>'to') FILTER (WHERE NOT known))::bigint, serial) >= serial
          FROM (SELECT true AS known, s FROM jsonb_array_elements(spans #> '{actual,serials}') s
                UNION ALL SELECT false, s FROM jsonb_array_elements(spans #> '{planned,serials}') s) said
          WHERE lower(s->>'product') = lower(product)
        ) END
      $$;
    `);
  }

  /**
   * A new version keeps what was said of the uses that it has as well: of the same item under the same find number in the same
   * configurations, one after another, and of an item that is used once before and after, whatever else changed.
   */
  private async follow(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ${FOLLOW_BY_FIND}
      CREATE TRIGGER link_follows_effectivity AFTER INSERT ON link REFERENCING NEW TABLE AS fresh
        FOR EACH STATEMENT EXECUTE FUNCTION follow_effectivity();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER link_follows_effectivity ON link;
      DROP FUNCTION follow_effectivity;
      DROP TABLE effectivity;
      DROP FUNCTION tell_effectivity, in_effect;
      DELETE FROM structure_feed WHERE kind = 'effectivity';
      ALTER TABLE structure_feed DROP CONSTRAINT structure_feed_kind_check,
        ADD CONSTRAINT structure_feed_kind_check CHECK (kind IN ${KINDS_BEFORE});
      DROP TRIGGER revision_notes_release ON revision;
      DROP FUNCTION note_release;
      ALTER TABLE revision DROP COLUMN released_at;
    `);
  }
}
