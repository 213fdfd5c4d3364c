import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The last proof of a derivation, plans that are not carried out yet, and wish sheets with what came of them. */
export class Variants1764000000023 implements MigrationInterface {
  name = 'Variants1764000000023';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE derivation ADD COLUMN proof jsonb;

      CREATE TABLE plan_draft (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL,
        item_id bigint NOT NULL REFERENCES item,
        -- The origin's version when the draft was kept: a later one means that it is behind.
        version_id bigint NOT NULL REFERENCES version,
        person_id bigint NOT NULL REFERENCES person,
        shared boolean NOT NULL DEFAULT false,
        draft jsonb NOT NULL,
        changed_at timestamptz NOT NULL DEFAULT now(),
        UNIQUE (person_id, item_id, name)
      );
      CREATE INDEX plan_draft_item ON plan_draft (item_id);

      CREATE TABLE wish_sheet (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        recipe_item_id bigint NOT NULL REFERENCES item,
        recipe_version_id bigint NOT NULL REFERENCES version,
        wishes jsonb NOT NULL,
        -- Of the recipe's item and the wishes, whatever the version: the same sheet twice makes one variant.
        wish_key text NOT NULL,
        asked_for text NOT NULL,
        batch text NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        asked_at timestamptz NOT NULL DEFAULT now(),
        state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'made', 'known', 'failed')),
        says text NOT NULL DEFAULT '',
        variant_item_id bigint REFERENCES item,
        proof jsonb
      );
      CREATE INDEX wish_sheet_recipe ON wish_sheet (recipe_item_id, id);
      CREATE INDEX wish_sheet_key ON wish_sheet (wish_key) WHERE state = 'made';
      CREATE INDEX wish_sheet_batch ON wish_sheet (batch);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE wish_sheet;
      DROP TABLE plan_draft;
      ALTER TABLE derivation DROP COLUMN proof;
    `);
  }
}
