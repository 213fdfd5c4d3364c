import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The property that makes an item a template: people begin others with it. */
export class Templates1764000000024 implements MigrationInterface {
  name = 'Templates1764000000024';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `INSERT INTO property_definition (name, kind) VALUES ('Template', 'yes/no') ON CONFLICT DO NOTHING`,
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DELETE FROM property_definition WHERE name = 'Template'`);
  }
}
