import type { MigrationInterface, QueryRunner } from 'typeorm';
import { indexProperties } from '../property-index.js';

/**
 * What items are found and counted by: state, author and time of the newest version beside the item, its properties as
 * rows, comments by any part of a word; and searches and views that people keep.
 */
export class Find1764000000009 implements MigrationInterface {
  name = 'Find1764000000009';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE item ADD COLUMN state text, ADD COLUMN author_id bigint, ADD COLUMN changed_at timestamptz;

      CREATE FUNCTION tell_item_of_newest() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        SELECT r.state, v.author_id, v.created_at INTO NEW.state, NEW.author_id, NEW.changed_at
        FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = NEW.newest_version_id;
        RETURN NEW;
      END $$;
      CREATE TRIGGER item_knows_newest BEFORE UPDATE OF newest_version_id ON item
        FOR EACH ROW EXECUTE FUNCTION tell_item_of_newest();

      CREATE FUNCTION tell_item_of_state() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        UPDATE item i SET state = NEW.state FROM version v
        WHERE i.id = NEW.item_id AND v.id = i.newest_version_id AND v.revision_id = NEW.id;
        RETURN NULL;
      END $$;
      CREATE TRIGGER revision_tells_item AFTER UPDATE OF state ON revision
        FOR EACH ROW EXECUTE FUNCTION tell_item_of_state();

      UPDATE item SET newest_version_id = newest_version_id;

      CREATE INDEX item_name ON item (lower(name), number_key);
      CREATE INDEX item_changed ON item (changed_at, number_key);
      -- All that is counted by, so that counting reads no rows.
      CREATE INDEX item_counted ON item (kind) INCLUDE (state, class_id, place_id, author_id, newest_version_id, id);
      CREATE INDEX item_number_like ON item USING gin (number_key gin_trgm_ops);
      CREATE INDEX version_comment ON version USING gin (lower(comment) gin_trgm_ops) WHERE comment <> '';

      -- Properties of newest versions. Numbers in SI units; said is lower case, shown as it was entered.
      CREATE TABLE item_property (
        item_id bigint NOT NULL REFERENCES item ON DELETE CASCADE,
        key text NOT NULL,
        number float8,
        unit text,
        said text NOT NULL,
        shown text NOT NULL,
        PRIMARY KEY (item_id, key)
      );
      CREATE INDEX item_property_number ON item_property (key, number, item_id) WHERE number IS NOT NULL;
      CREATE INDEX item_property_said ON item_property (key, left(said, 200));

      -- Every property that an item had once, for completing and checking what is asked.
      CREATE TABLE property_known (
        key text PRIMARY KEY,
        name text NOT NULL,
        kind text NOT NULL,
        unit text NOT NULL
      );

      CREATE TABLE saved (
        id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
        owner_id bigint NOT NULL REFERENCES person,
        kind text NOT NULL CHECK (kind IN ('search', 'view')),
        name text NOT NULL,
        address text NOT NULL,
        is_shared boolean NOT NULL,
        tells boolean NOT NULL DEFAULT false,
        last_count int,
        created_at timestamptz NOT NULL DEFAULT now(),
        UNIQUE (owner_id, kind, name)
      );
      ALTER TABLE notice ADD COLUMN address text;
    `);
    const items = (await runner.query(
      'SELECT newest_version_id AS id FROM item WHERE newest_version_id IS NOT NULL ORDER BY id',
    )) as { id: string }[];
    const batch = 5000;
    for (let at = 0; at < items.length; at += batch)
      await indexProperties(
        runner.manager,
        items.slice(at, at + batch).map(({ id }) => id),
      );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE notice DROP COLUMN address;
      DROP TABLE saved, property_known, item_property;
      DROP INDEX version_comment, item_number_like, item_counted, item_changed, item_name;
      DROP TRIGGER revision_tells_item ON revision;
      DROP TRIGGER item_knows_newest ON item;
      DROP FUNCTION tell_item_of_state, tell_item_of_newest;
      ALTER TABLE item DROP COLUMN state, DROP COLUMN author_id, DROP COLUMN changed_at;
    `);
  }
}
