import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Words are looked for in names of files, too. */
export class Words1764000000018 implements MigrationInterface {
  name = 'Words1764000000018';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE INDEX item_file_words ON item USING gin (lower(file_name) gin_trgm_ops)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX item_file_words');
  }
}
