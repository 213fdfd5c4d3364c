import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Check-in comments of all of an item's versions beside the item, so that a word is looked up in one table: the database
 * can then combine its indexes for any search, which it cannot across a subquery.
 */
export class CommentText1764000000012 implements MigrationInterface {
  name = 'CommentText1764000000012';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE item ADD COLUMN comment_text text NOT NULL DEFAULT '';

      CREATE OR REPLACE FUNCTION tell_item_of_newest() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        SELECT r.state, v.author_id, v.created_at INTO NEW.state, NEW.author_id, NEW.changed_at
        FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = NEW.newest_version_id;
        SELECT coalesce(string_agg(DISTINCT lower(comment), E'\\n'), '') INTO NEW.comment_text
        FROM version WHERE item_id = NEW.id AND comment <> '';
        RETURN NEW;
      END $$;

      -- An item that is made together with its versions brings its comments with it.
      CREATE FUNCTION lower_comment_text() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.comment_text := lower(NEW.comment_text);
        RETURN NEW;
      END $$;
      CREATE TRIGGER item_comment_is_lower BEFORE INSERT ON item
        FOR EACH ROW WHEN (NEW.comment_text <> '') EXECUTE FUNCTION lower_comment_text();

      UPDATE item SET newest_version_id = newest_version_id;
      DROP INDEX version_comment;
      CREATE INDEX item_comment ON item USING gin (comment_text gin_trgm_ops);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP INDEX item_comment;
      CREATE INDEX version_comment ON version USING gin (lower(comment) gin_trgm_ops) WHERE comment <> '';
      DROP TRIGGER item_comment_is_lower ON item;
      DROP FUNCTION lower_comment_text;
      CREATE OR REPLACE FUNCTION tell_item_of_newest() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        SELECT r.state, v.author_id, v.created_at INTO NEW.state, NEW.author_id, NEW.changed_at
        FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = NEW.newest_version_id;
        RETURN NEW;
      END $$;
      ALTER TABLE item DROP COLUMN comment_text;
    `);
  }
}
