import type { MigrationInterface, QueryRunner } from 'typeorm';

const tellWebhooks = (isTold: string): string => `
  CREATE OR REPLACE FUNCTION tell_webhooks() RETURNS trigger LANGUAGE plpgsql AS $$
  BEGIN
    INSERT INTO webhook_delivery (webhook_id, event_id)
      SELECT w.id, f.id FROM webhook w JOIN fresh f ON ${isTold} WHERE w.ended_at IS NULL ORDER BY f.id;
    RETURN NULL;
  END $$;`;

/** Steps set properties of revisions, and say by name which programs are told of them. */
export class StepConsequences1764000000038 implements MigrationInterface {
  name = 'StepConsequences1764000000038';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      -- As the core says properties; they count for all versions of the revision, beside what each says itself.
      ALTER TABLE revision ADD COLUMN set_values jsonb NOT NULL DEFAULT '[]';
      ${tellWebhooks(`(f.kind = ANY(w.kinds) OR (f.kind = 'step' AND f.detail->'webhooks' ? w.name))`)}
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ${tellWebhooks('f.kind = ANY(w.kinds)')}
      ALTER TABLE revision DROP COLUMN set_values;
    `);
  }
}
