import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What people draw and write on versions, and what they answer each other. */
export class MarkUp1764000000025 implements MigrationInterface {
  name = 'MarkUp1764000000025';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE mark_up (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        sheet text NOT NULL,
        kind text NOT NULL,
        tone text NOT NULL,
        spots jsonb NOT NULL,
        words text NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        settled_by bigint REFERENCES person,
        settled_at timestamptz,
        CHECK ((settled_by IS NULL) = (settled_at IS NULL))
      );
      CREATE INDEX mark_up_item ON mark_up (item_id, id);
      CREATE INDEX mark_up_open ON mark_up (item_id) WHERE settled_at IS NULL;
      CREATE INDEX mark_up_version ON mark_up (version_id);

      CREATE TABLE mark_up_remark (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        mark_up_id bigint NOT NULL REFERENCES mark_up ON DELETE CASCADE,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        words text NOT NULL
      );
      CREATE INDEX mark_up_remark_mark ON mark_up_remark (mark_up_id, id);

      -- Items are found by their mark-up.
      CREATE TRIGGER mark_up_tells_store AFTER INSERT OR UPDATE OR DELETE ON mark_up
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');
      CREATE TRIGGER mark_up_remark_tells_store AFTER INSERT OR UPDATE OR DELETE ON mark_up_remark
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE mark_up_remark; DROP TABLE mark_up;');
  }
}
