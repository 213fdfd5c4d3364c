import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Links may belong to some configurations of a product only; without a name they belong to all. */
export class Configurations1764000000014 implements MigrationInterface {
  name = 'Configurations1764000000014';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE link ADD COLUMN configurations text[] NOT NULL DEFAULT '{}';
      CREATE INDEX link_configured ON link (version_id) WHERE configurations <> '{}';
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE link DROP COLUMN configurations');
  }
}
