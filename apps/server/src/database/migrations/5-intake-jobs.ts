import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Intake sheets as jobs: archives that are unpacked, progress that every process sees, cancelling, going on after a restart. */
export class IntakeJobs1764000000005 implements MigrationInterface {
  name = 'IntakeJobs1764000000005';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE intake DROP CONSTRAINT intake_state_check;
      ALTER TABLE intake
        ADD CONSTRAINT intake_state_check
          CHECK (state IN ('unpacking', 'collecting', 'carrying out', 'done', 'failed', 'cancelled')),
        ADD COLUMN archive_sha256 text,
        ADD COLUMN cancel_asked boolean NOT NULL DEFAULT false,
        ADD COLUMN done_count int NOT NULL DEFAULT 0,
        ADD COLUMN total_count int NOT NULL DEFAULT 0;
      CREATE INDEX ON intake (created_by, created_at DESC);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE intake DROP COLUMN archive_sha256, DROP COLUMN cancel_asked, DROP COLUMN done_count, DROP COLUMN total_count;
    `);
  }
}
