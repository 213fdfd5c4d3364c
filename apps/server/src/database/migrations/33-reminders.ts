import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Of what somebody was reminded, so that it is said once for each day that was set. */
export class Reminders1764000000033 implements MigrationInterface {
  name = 'Reminders1764000000033';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE change_reminder (
        change_id bigint NOT NULL REFERENCES change,
        -- Of the task; empty for the change itself.
        key text NOT NULL,
        day date NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        kind text NOT NULL CHECK (kind IN ('soon', 'today', 'late')),
        at timestamptz NOT NULL DEFAULT now(),
        PRIMARY KEY (change_id, key, day, person_id, kind)
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE change_reminder;');
  }
}
