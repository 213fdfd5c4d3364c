import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * What assemblies weigh and cost, under the lens *Newest*, kept beside them so that one can filter and sort by it. Whatever
 * changes such a sum leaves a note of the item here, in its own transaction; a job works off the notes and all that uses the
 * items.
 */
export class RollUp1764000000020 implements MigrationInterface {
  name = 'RollUp1764000000020';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE roll_up (
        item_id bigint NOT NULL REFERENCES item ON DELETE CASCADE,
        key text NOT NULL,
        value float8 NOT NULL,
        unknown float8 NOT NULL,
        lines float8 NOT NULL,
        places bigint[] NOT NULL,
        PRIMARY KEY (item_id, key)
      );
      ALTER TABLE item_property ADD COLUMN rolled boolean NOT NULL DEFAULT false;

      CREATE TABLE roll_up_due (
        told bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL
      );
      CREATE FUNCTION roll_up_is_due() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
      BEGIN
        IF TG_TABLE_NAME = 'item' THEN
          INSERT INTO roll_up_due (item_id) VALUES (NEW.id);
        ELSE
          INSERT INTO roll_up_due (item_id) SELECT v.item_id FROM version v WHERE v.id = NEW.version_id;
        END IF;
        RETURN NULL;
      END $$;
      CREATE TRIGGER item_tells_roll_up AFTER INSERT ON item
        FOR EACH ROW WHEN (NEW.newest_version_id IS NOT NULL) EXECUTE FUNCTION roll_up_is_due();
      CREATE TRIGGER item_change_tells_roll_up AFTER UPDATE OF newest_version_id, place_id ON item
        FOR EACH ROW WHEN (NEW.newest_version_id IS NOT NULL
          AND (OLD.newest_version_id IS DISTINCT FROM NEW.newest_version_id OR OLD.place_id <> NEW.place_id))
        EXECUTE FUNCTION roll_up_is_due();
      CREATE TRIGGER gap_tells_roll_up AFTER UPDATE OF target_item_id ON link
        FOR EACH ROW EXECUTE FUNCTION roll_up_is_due();
      INSERT INTO roll_up_due (item_id) SELECT id FROM item WHERE newest_version_id IS NOT NULL ORDER BY id;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER gap_tells_roll_up ON link;
      DROP TRIGGER item_change_tells_roll_up ON item;
      DROP TRIGGER item_tells_roll_up ON item;
      DROP FUNCTION roll_up_is_due;
      DROP TABLE roll_up_due;
      DELETE FROM item_property WHERE rolled;
      ALTER TABLE item_property DROP COLUMN rolled;
      DROP TABLE roll_up;
    `);
  }
}
