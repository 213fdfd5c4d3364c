import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Shapes of parts by the mesh that they were worked out from, and what lies near in them. */
export class Likeness1764000000010 implements MigrationInterface {
  name = 'Likeness1764000000010';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE EXTENSION IF NOT EXISTS cube;
      CREATE TABLE shape (
        sha256 text NOT NULL,
        -- Of a part that lives in the file of another; 0 for all of the file.
        product_ref bigint NOT NULL,
        -- Null where the file has no geometry.
        descriptor jsonb,
        point cube,
        PRIMARY KEY (sha256, product_ref)
      );
      CREATE INDEX shape_near ON shape USING gist (point) WHERE point IS NOT NULL;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE shape; DROP EXTENSION cube');
  }
}
