import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Custody: holds, the audit trail, what people watch and are told, and check-ins as intake sheets with a manifest. */
export class Custody1764000000002 implements MigrationInterface {
  name = 'Custody1764000000002';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      -- One row an item: that there is one holder is the primary key's doing, whoever asks at the same moment.
      CREATE TABLE hold (
        item_id bigint PRIMARY KEY REFERENCES item,
        person_id bigint NOT NULL REFERENCES person,
        since timestamptz NOT NULL DEFAULT now(),
        reason text NOT NULL
      );
      CREATE INDEX ON hold (person_id);

      CREATE TABLE event (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        at timestamptz NOT NULL DEFAULT now(),
        person_id bigint NOT NULL REFERENCES person,
        kind text NOT NULL,
        item_id bigint REFERENCES item,
        detail jsonb NOT NULL
      );
      CREATE INDEX ON event (item_id, id);
      CREATE TRIGGER event_is_append_only BEFORE UPDATE OR DELETE ON event
        FOR EACH ROW EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER event_is_never_emptied BEFORE TRUNCATE ON event EXECUTE FUNCTION refuse_change();

      CREATE TABLE watch (
        person_id bigint NOT NULL REFERENCES person,
        item_id bigint NOT NULL REFERENCES item,
        PRIMARY KEY (person_id, item_id)
      );
      CREATE INDEX ON watch (item_id);

      CREATE TABLE notice (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        item_id bigint REFERENCES item,
        says text NOT NULL,
        read_at timestamptz
      );
      CREATE INDEX ON notice (person_id, id);

      ALTER TABLE intake ADD COLUMN manifest jsonb;
      ALTER TABLE intake ADD COLUMN overwrite jsonb NOT NULL DEFAULT '[]';
      ALTER TABLE intake ADD COLUMN let_go boolean NOT NULL DEFAULT true;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE intake DROP COLUMN manifest, DROP COLUMN overwrite, DROP COLUMN let_go;
      DROP TABLE notice, watch, event, hold;
    `);
  }
}
