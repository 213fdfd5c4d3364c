import type { MigrationInterface, QueryRunner } from 'typeorm';

const NEVER_CHANGED = ['signature', 'signed_content', 'baseline', 'baseline_item'];

/** What people sign, and the structures that releases freeze. Nothing of it ever changes. */
export class Signatures1764000000028 implements MigrationInterface {
  name = 'Signatures1764000000028';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE signed_content (
        digest text PRIMARY KEY,
        lines text NOT NULL
      );

      CREATE TABLE signature (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        revision_id bigint NOT NULL REFERENCES revision,
        version_id bigint NOT NULL REFERENCES version,
        -- How often the revision had moved: a signature counts for where it stood then.
        moves int NOT NULL,
        step text NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        login text NOT NULL,
        name text NOT NULL,
        at timestamptz NOT NULL,
        zone text NOT NULL,
        content text NOT NULL REFERENCES signed_content,
        -- What was signed, as text, and the server's seal over it; docs/decisions/0049.
        statement text NOT NULL,
        seal text NOT NULL,
        UNIQUE (revision_id, moves, step, person_id)
      );
      CREATE INDEX signature_item ON signature (item_id, id);
      CREATE INDEX signature_version ON signature (version_id);

      CREATE TABLE baseline (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        version_id bigint NOT NULL REFERENCES version,
        digest text NOT NULL,
        at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX baseline_version ON baseline (version_id, id);
      CREATE TABLE baseline_item (
        baseline_id bigint NOT NULL REFERENCES baseline,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        PRIMARY KEY (baseline_id, item_id)
      );
      CREATE INDEX baseline_item_version ON baseline_item (version_id);
    `);
    for (const table of NEVER_CHANGED)
      await runner.query(`
        CREATE TRIGGER ${table}_is_immutable BEFORE UPDATE OR DELETE ON ${table} FOR EACH ROW EXECUTE FUNCTION refuse_change();
        CREATE TRIGGER ${table}_is_never_emptied BEFORE TRUNCATE ON ${table} EXECUTE FUNCTION refuse_change();
      `);
    await runner.query(`
      CREATE TRIGGER signature_tells_store AFTER INSERT ON signature FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');
      CREATE TRIGGER baseline_tells_store AFTER INSERT ON baseline FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE baseline_item, baseline, signature, signed_content;');
  }
}
