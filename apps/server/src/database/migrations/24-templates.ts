import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The property that makes an item a template: people begin others with it. And the ways from an origin to its copies. */
export class Templates1764000000024 implements MigrationInterface {
  name = 'Templates1764000000024';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      INSERT INTO property_definition (name, kind) VALUES ('Template', 'yes/no') ON CONFLICT DO NOTHING;
      CREATE INDEX item_origin ON item (origin_version_id) WHERE origin_version_id IS NOT NULL;
      CREATE INDEX item_derivation ON item (derivation_id) WHERE derivation_id IS NOT NULL;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP INDEX item_derivation;
      DROP INDEX item_origin;
      DELETE FROM property_definition WHERE name = 'Template';
    `);
  }
}
