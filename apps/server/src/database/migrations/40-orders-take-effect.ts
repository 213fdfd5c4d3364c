import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * From when on what an order makes counts, beside what else its newest version says. What was written before is read from its file once a
 * server is there.
 */
export class OrdersTakeEffect1764000000040 implements MigrationInterface {
  name = 'OrdersTakeEffect1764000000040';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      -- As the core says it, like those of uses; nothing where its file was not read for it yet.
      ALTER TABLE change ADD COLUMN spans jsonb;

      CREATE FUNCTION tell_made(order_id bigint) RETURNS void LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO structure_feed (kind, id) SELECT 'state', revision_id FROM change_makes WHERE change_id = order_id;
        IF FOUND THEN NOTIFY stem_structure; END IF;
      END $$;

      CREATE FUNCTION tell_order_spans() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        PERFORM tell_made(NEW.item_id);
        RETURN NULL;
      END $$;
      CREATE TRIGGER change_tells_made AFTER UPDATE OF spans ON change FOR EACH ROW
        WHEN (OLD.spans IS DISTINCT FROM NEW.spans) EXECUTE FUNCTION tell_order_spans();

      -- An order that is given up limits nothing any more.
      CREATE FUNCTION tell_order_state() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        PERFORM tell_made(NEW.id);
        RETURN NULL;
      END $$;
      CREATE TRIGGER order_tells_made AFTER UPDATE OF state ON item FOR EACH ROW
        WHEN (NEW.kind = 'order' AND OLD.state IS DISTINCT FROM NEW.state) EXECUTE FUNCTION tell_order_state();

      CREATE FUNCTION tell_made_revision() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO structure_feed (kind, id) VALUES ('state', coalesce(NEW.revision_id, OLD.revision_id));
        NOTIFY stem_structure;
        RETURN NULL;
      END $$;
      CREATE TRIGGER change_makes_tells_structure AFTER INSERT OR DELETE ON change_makes
        FOR EACH ROW EXECUTE FUNCTION tell_made_revision();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER change_makes_tells_structure ON change_makes;
      DROP TRIGGER order_tells_made ON item;
      DROP TRIGGER change_tells_made ON change;
      DROP FUNCTION tell_made_revision, tell_order_state, tell_order_spans, tell_made;
      ALTER TABLE change DROP COLUMN spans;
    `);
  }
}
