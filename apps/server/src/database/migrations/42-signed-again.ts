import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * A signature counts for the content that was signed. If something below is released meanwhile, the same person signs the new content
 * in the same round of the check.
 */
export class SignedAgain1764000000042 implements MigrationInterface {
  name = 'SignedAgain1764000000042';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE signature DROP CONSTRAINT signature_revision_id_moves_step_person_id_key;
      ALTER TABLE signature ADD CONSTRAINT signature_once UNIQUE (revision_id, moves, step, person_id, content);
      -- Digest of the item as it was when the person opened it: changed later, it counts as not opened.
      ALTER TABLE check_seen ADD COLUMN shown text NOT NULL DEFAULT '';
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE check_seen DROP COLUMN shown;
      ALTER TABLE signature DROP CONSTRAINT signature_once;
      ALTER TABLE signature ADD CONSTRAINT signature_revision_id_moves_step_person_id_key
        UNIQUE (revision_id, moves, step, person_id);
    `);
  }
}
