import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Whoever keeps the structure in memory also keeps the order of items and where they lie, and is told of moves. */
export class ItemOrder1764000000011 implements MigrationInterface {
  name = 'ItemOrder1764000000011';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE structure_feed DROP CONSTRAINT structure_feed_kind_check;
      ALTER TABLE structure_feed ADD CONSTRAINT structure_feed_kind_check
        CHECK (kind IN ('versions', 'state', 'gap', 'item'));

      CREATE FUNCTION tell_structure_of_item() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO structure_feed (kind, id) VALUES ('item', NEW.id);
        NOTIFY stem_structure;
        RETURN NULL;
      END $$;
      CREATE TRIGGER item_tells_structure AFTER UPDATE OF place_id, number_key ON item
        FOR EACH ROW WHEN (OLD.place_id <> NEW.place_id OR OLD.number_key <> NEW.number_key)
        EXECUTE FUNCTION tell_structure_of_item();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER item_tells_structure ON item;
      DROP FUNCTION tell_structure_of_item;
      DELETE FROM structure_feed WHERE kind = 'item';
      ALTER TABLE structure_feed DROP CONSTRAINT structure_feed_kind_check;
      ALTER TABLE structure_feed ADD CONSTRAINT structure_feed_kind_check CHECK (kind IN ('versions', 'state', 'gap'));
    `);
  }
}
