import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Access by place, the bin, sessions that can be listed and ended, tokens with scope and expiry. */
export class Access1764000000004 implements MigrationInterface {
  name = 'Access1764000000004';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE place
        ADD COLUMN inherits boolean NOT NULL DEFAULT true,
        ADD COLUMN binned_at timestamptz,
        ADD COLUMN binned_by bigint REFERENCES person;
      ALTER TABLE person ADD COLUMN is_active boolean NOT NULL DEFAULT true;

      CREATE TABLE place_grant (
        place_id bigint NOT NULL REFERENCES place ON DELETE CASCADE,
        person_id bigint REFERENCES person ON DELETE CASCADE,
        role text CHECK (role IN ('engineer', 'checker', 'planner', 'viewer')),
        rights text[] NOT NULL CHECK (rights <@ ARRAY['see', 'fetch', 'change', 'release', 'administer']),
        CHECK ((person_id IS NULL) <> (role IS NULL)),
        UNIQUE NULLS NOT DISTINCT (place_id, person_id, role)
      );

      -- What may be kept of access is old as soon as this number has changed. A row, not a sequence: it must become
      -- visible together with the change that it stands for.
      CREATE TABLE access_version (
        is_only boolean PRIMARY KEY DEFAULT true CHECK (is_only),
        version bigint NOT NULL
      );
      INSERT INTO access_version (version) VALUES (1);
      CREATE FUNCTION count_access() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        UPDATE access_version SET version = version + 1;
        RETURN NULL;
      END $$;
      CREATE TRIGGER place_counts_access AFTER INSERT OR UPDATE OR DELETE ON place
        FOR EACH STATEMENT EXECUTE FUNCTION count_access();
      CREATE TRIGGER grant_counts_access AFTER INSERT OR UPDATE OR DELETE ON place_grant
        FOR EACH STATEMENT EXECUTE FUNCTION count_access();

      INSERT INTO place (path) VALUES ('/') ON CONFLICT DO NOTHING;
      INSERT INTO place_grant (place_id, role, rights)
        SELECT id, r.role, r.rights FROM place, (VALUES
          ('engineer', ARRAY['see', 'fetch', 'change']),
          ('checker', ARRAY['see', 'fetch', 'change', 'release']),
          ('planner', ARRAY['see', 'fetch']),
          ('viewer', ARRAY['see', 'fetch'])) AS r(role, rights)
        WHERE path = '/';

      CREATE TABLE place_watch (
        person_id bigint NOT NULL REFERENCES person ON DELETE CASCADE,
        place_id bigint NOT NULL REFERENCES place ON DELETE CASCADE,
        PRIMARY KEY (person_id, place_id)
      );

      ALTER TABLE access_token
        ADD COLUMN id uuid NOT NULL DEFAULT gen_random_uuid() UNIQUE,
        ADD COLUMN scope text NOT NULL DEFAULT 'all' CHECK (scope IN ('read', 'all')),
        ADD COLUMN used_at timestamptz;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE access_token DROP COLUMN id, DROP COLUMN scope, DROP COLUMN used_at;
      DROP TABLE place_watch, place_grant;
      DROP TRIGGER place_counts_access ON place;
      DROP FUNCTION count_access;
      DROP TABLE access_version;
      ALTER TABLE person DROP COLUMN is_active;
      ALTER TABLE place DROP COLUMN inherits, DROP COLUMN binned_at, DROP COLUMN binned_by;
    `);
  }
}
