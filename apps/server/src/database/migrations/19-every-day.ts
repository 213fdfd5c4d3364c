import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * A holder can be asked to let go; what an item was called finds it; people have preferences; whoever keeps a search is told
 * what came and went.
 */
export class EveryDay1764000000019 implements MigrationInterface {
  name = 'EveryDay1764000000019';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE hold_request (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        asker_id bigint NOT NULL REFERENCES person,
        holder_id bigint NOT NULL REFERENCES person,
        asked_at timestamptz NOT NULL DEFAULT now(),
        answered_at timestamptz
      );
      CREATE UNIQUE INDEX hold_request_open ON hold_request (item_id, asker_id, holder_id) WHERE answered_at IS NULL;
      ALTER TABLE notice ADD COLUMN hold_request_id bigint REFERENCES hold_request;
      ALTER TABLE item ADD COLUMN former text NOT NULL DEFAULT '';
      CREATE INDEX item_former ON item USING gin (former gin_trgm_ops);
      ALTER TABLE person ADD COLUMN preferences jsonb NOT NULL DEFAULT '{}';
      ALTER TABLE saved ADD COLUMN last_found bigint[];
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE saved DROP COLUMN last_found;
      ALTER TABLE person DROP COLUMN preferences;
      ALTER TABLE item DROP COLUMN former;
      ALTER TABLE notice DROP COLUMN hold_request_id;
      DROP TABLE hold_request;
    `);
  }
}
