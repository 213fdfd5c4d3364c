import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * How far a job is, by whom it is done, and whether somebody asked for its end; beside the queue, which keeps what is to be done.
 * An intake's progress was in its sheet. Shapes that are found tell so, like anything else that answers are made of.
 */
export class Jobs1764000000017 implements MigrationInterface {
  name = 'Jobs1764000000017';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE job_progress (
        kind text NOT NULL,
        id uuid NOT NULL,
        owner int,
        done_count int NOT NULL DEFAULT 0,
        total_count int NOT NULL DEFAULT 0,
        cancel_asked boolean NOT NULL DEFAULT false,
        PRIMARY KEY (kind, id)
      );
      ALTER TABLE intake DROP COLUMN cancel_asked, DROP COLUMN done_count, DROP COLUMN total_count;
      CREATE TRIGGER shape_tells_store AFTER INSERT ON shape FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER shape_tells_store ON shape;
      ALTER TABLE intake ADD COLUMN cancel_asked boolean NOT NULL DEFAULT false,
        ADD COLUMN done_count int NOT NULL DEFAULT 0, ADD COLUMN total_count int NOT NULL DEFAULT 0;
      DROP TABLE job_progress;
    `);
  }
}
