import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Bills: items whose versions are what Build wrote; their releases, with the files that are made and what planning was sent. */
export class Build1764000000022 implements MigrationInterface {
  name = 'Build1764000000022';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE item DROP CONSTRAINT item_kind_check;
      ALTER TABLE item ADD CONSTRAINT item_kind_check CHECK (kind IN ('assembly', 'part', 'drawing', 'document', 'bill'));

      CREATE TABLE bill (
        item_id bigint PRIMARY KEY REFERENCES item ON DELETE CASCADE,
        for_item_id bigint NOT NULL REFERENCES item
      );
      CREATE INDEX bill_for ON bill (for_item_id);
      CREATE TRIGGER bill_tells_store AFTER INSERT OR UPDATE OR DELETE ON bill
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');

      CREATE TABLE bill_release (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL UNIQUE REFERENCES version,
        person_id bigint NOT NULL REFERENCES person,
        notes text NOT NULL,
        released_at timestamptz NOT NULL DEFAULT now(),
        -- Names, sizes and hashes; null until they are made.
        files jsonb,
        files_problem text,
        planning_tries int NOT NULL DEFAULT 0,
        planning_next timestamptz NOT NULL DEFAULT now(),
        planning_sent_at timestamptz,
        planning_problem text
      );
      CREATE INDEX bill_release_item ON bill_release (item_id, id);
      CREATE INDEX bill_release_open ON bill_release (id) WHERE files IS NULL OR planning_sent_at IS NULL;

      -- By content: versions with the same rows share them, and versions that are copied have them already.
      CREATE TABLE bill_use (
        sha256 text NOT NULL REFERENCES blob ON DELETE CASCADE,
        item_id bigint NOT NULL,
        rows int NOT NULL,
        -- As they are said; none where the item is only pointed at.
        amounts text[] NOT NULL,
        PRIMARY KEY (item_id, sha256)
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE bill_use, bill_release, bill;
      ALTER TABLE item DROP CONSTRAINT item_kind_check;
      ALTER TABLE item ADD CONSTRAINT item_kind_check CHECK (kind IN ('assembly', 'part', 'drawing', 'document'));
    `);
  }
}
