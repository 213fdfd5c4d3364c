import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Programs that are told what happens; what each was sent stands in the transaction in which it happened. */
export class Webhooks1764000000032 implements MigrationInterface {
  name = 'Webhooks1764000000032';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE webhook (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL,
        address text NOT NULL,
        kinds text[] NOT NULL,
        secret text NOT NULL,
        ended_at timestamptz
      );
      CREATE TABLE webhook_delivery (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        webhook_id bigint NOT NULL REFERENCES webhook,
        -- Null for a test. The trail is never emptied, and nothing may stand in the way of its saying so.
        event_id bigint,
        at timestamptz NOT NULL DEFAULT now(),
        tries int NOT NULL DEFAULT 0,
        next_at timestamptz NOT NULL DEFAULT now(),
        sent_at timestamptz,
        given_up_at timestamptz,
        problem text
      );
      CREATE INDEX webhook_delivery_open ON webhook_delivery (next_at) WHERE sent_at IS NULL AND given_up_at IS NULL;
      CREATE INDEX webhook_delivery_log ON webhook_delivery (webhook_id, id);

      CREATE FUNCTION tell_webhooks() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO webhook_delivery (webhook_id, event_id)
          SELECT w.id, f.id FROM webhook w JOIN fresh f ON f.kind = ANY(w.kinds) WHERE w.ended_at IS NULL ORDER BY f.id;
        RETURN NULL;
      END $$;
      CREATE TRIGGER event_tells_webhooks AFTER INSERT ON event REFERENCING NEW TABLE AS fresh
        FOR EACH STATEMENT EXECUTE FUNCTION tell_webhooks();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER event_tells_webhooks ON event;
      DROP FUNCTION tell_webhooks;
      DROP TABLE webhook_delivery, webhook;
    `);
  }
}
