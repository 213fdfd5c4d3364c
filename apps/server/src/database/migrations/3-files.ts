import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Files of every kind: text of documents to be found by, models looked up by the names of their files, settings. */
export class Files1764000000003 implements MigrationInterface {
  name = 'Files1764000000003';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      -- Running text of the newest version's file.
      ALTER TABLE item ADD COLUMN body_text text NOT NULL DEFAULT '';
      CREATE INDEX item_body ON item USING gin (to_tsvector('simple', body_text));
      CREATE INDEX item_base_name ON item (place_id, lower(regexp_replace(file_name, '\\.[^.]*$', '')))
        WHERE kind IN ('part', 'assembly');
      CREATE INDEX link_beside ON link (target_item_id) WHERE relation <> 'component';

      CREATE TABLE setting (
        name text PRIMARY KEY,
        value jsonb NOT NULL
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE setting;
      DROP INDEX link_beside, item_base_name, item_body;
      ALTER TABLE item DROP COLUMN body_text;
    `);
  }
}
