import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * What a BOM says of a use besides how often it is there: its find number and its amount; designators stand with the occurrences.
 * What may be used instead; sets of columns; lists from outside that are compared.
 */
export class Bom1764000000021 implements MigrationInterface {
  name = 'Bom1764000000021';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE link ADD COLUMN find text NOT NULL DEFAULT '';
      ALTER TABLE link ADD COLUMN amount jsonb;

      -- Another item that may be used: anywhere, or in one user alone.
      CREATE TABLE alternate (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item ON DELETE CASCADE,
        other_id bigint NOT NULL REFERENCES item ON DELETE CASCADE,
        user_id bigint REFERENCES item ON DELETE CASCADE,
        rank int NOT NULL,
        note text NOT NULL DEFAULT '',
        valid_from date,
        valid_to date,
        approved_by bigint REFERENCES person,
        approved_at timestamptz,
        added_by bigint NOT NULL REFERENCES person,
        added_at timestamptz NOT NULL DEFAULT now(),
        CHECK (item_id <> other_id),
        UNIQUE NULLS NOT DISTINCT (item_id, other_id, user_id)
      );
      CREATE INDEX alternate_other ON alternate (other_id);
      CREATE TRIGGER alternate_tells_store AFTER INSERT OR UPDATE OR DELETE ON alternate
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');

      CREATE TABLE column_set (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person,
        name text NOT NULL,
        columns text[] NOT NULL,
        is_shared boolean NOT NULL DEFAULT false,
        UNIQUE (person_id, name)
      );

      CREATE TABLE bom_file (
        id uuid PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person,
        name text NOT NULL,
        reading jsonb NOT NULL,
        mapping jsonb NOT NULL,
        brought_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX bom_file_brought ON bom_file (brought_at);
      CREATE TABLE bom_mapping (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person,
        name text NOT NULL,
        mapping jsonb NOT NULL,
        UNIQUE (person_id, name)
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE bom_mapping, bom_file, column_set, alternate;
      ALTER TABLE link DROP COLUMN amount, DROP COLUMN find;
    `);
  }
}
