import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Items are looked up by their file names wherever they lie, with and without the ending. */
export class Lookups1764000000007 implements MigrationInterface {
  name = 'Lookups1764000000007';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE INDEX item_file_name ON item (lower(file_name)) WHERE file_name <> '';
      DROP INDEX item_base_name;
      CREATE INDEX item_base_name ON item (lower(regexp_replace(file_name, '\\.[^.]*$', '')))
        WHERE kind IN ('part', 'assembly');
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX item_file_name');
  }
}
