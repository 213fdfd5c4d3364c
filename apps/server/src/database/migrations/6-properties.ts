import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Property definitions and classes, and serial numbers. */
export class Properties1764000000006 implements MigrationInterface {
  name = 'Properties1764000000006';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE property_definition (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL,
        kind text NOT NULL CHECK (kind IN ('text', 'number', 'choice', 'date', 'yes/no')),
        unit text NOT NULL DEFAULT '',
        choices text[] NOT NULL DEFAULT '{}'
      );
      CREATE UNIQUE INDEX ON property_definition (lower(name));

      CREATE TABLE class (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL
      );
      CREATE UNIQUE INDEX ON class (lower(name));

      CREATE TABLE class_property (
        class_id bigint NOT NULL REFERENCES class ON DELETE CASCADE,
        property_id bigint NOT NULL REFERENCES property_definition ON DELETE CASCADE,
        position int NOT NULL,
        is_required boolean NOT NULL,
        PRIMARY KEY (class_id, property_id)
      );

      ALTER TABLE item ADD COLUMN class_id bigint REFERENCES class ON DELETE SET NULL;

      CREATE TABLE number_scheme (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL,
        prefix text NOT NULL,
        digits int NOT NULL CHECK (digits BETWEEN 1 AND 12),
        suffix text NOT NULL DEFAULT '',
        class_id bigint REFERENCES class ON DELETE SET NULL,
        next bigint NOT NULL DEFAULT 1
      );
      CREATE UNIQUE INDEX ON number_scheme (lower(name));
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE number_scheme;
      ALTER TABLE item DROP COLUMN class_id;
      DROP TABLE class_property, class, property_definition;
    `);
  }
}
