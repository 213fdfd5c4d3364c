import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What was sent for checking together, who has opened what of it, and points that were raised. */
export class CheckSheets1764000000029 implements MigrationInterface {
  name = 'CheckSheets1764000000029';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE check_sheet (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person,
        reason text NOT NULL,
        at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX check_sheet_person ON check_sheet (person_id, id);
      CREATE TABLE check_sheet_item (
        sheet_id bigint NOT NULL REFERENCES check_sheet,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        position int NOT NULL,
        PRIMARY KEY (sheet_id, item_id)
      );
      CREATE INDEX check_sheet_item_item ON check_sheet_item (item_id, sheet_id);
      CREATE TABLE check_seen (
        sheet_id bigint NOT NULL REFERENCES check_sheet,
        item_id bigint NOT NULL REFERENCES item,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        PRIMARY KEY (sheet_id, item_id, person_id)
      );
      CREATE TABLE check_point (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        sheet_id bigint NOT NULL REFERENCES check_sheet,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        words text NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        answer text,
        answered_by bigint REFERENCES person,
        answered_at timestamptz,
        closed_by bigint REFERENCES person,
        closed_at timestamptz,
        CHECK ((answer IS NULL) = (answered_at IS NULL)),
        CHECK ((closed_by IS NULL) = (closed_at IS NULL))
      );
      CREATE INDEX check_point_item ON check_point (item_id, id);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE check_point, check_seen, check_sheet_item, check_sheet;');
  }
}
