import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Other items that a notice names, so that it can be read by somebody who may not see them. */
export class Mentions1764000000044 implements MigrationInterface {
  name = 'Mentions1764000000044';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE notice ADD COLUMN mentions jsonb NOT NULL DEFAULT '[]';`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE notice DROP COLUMN mentions;');
  }
}
