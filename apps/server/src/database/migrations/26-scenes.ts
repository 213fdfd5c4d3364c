import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Looks at items that people keep under a name. */
export class Scenes1764000000026 implements MigrationInterface {
  name = 'Scenes1764000000026';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE scene (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        name text NOT NULL,
        look jsonb NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX scene_item ON scene (item_id, id);
      CREATE INDEX scene_version ON scene (version_id);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE scene;');
  }
}
