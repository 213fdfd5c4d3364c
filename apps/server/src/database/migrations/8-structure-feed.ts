import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * What changed of the structure, in the order in which it became visible: writers of the store take turns, so that
 * positions are given in the order of commits. Whoever keeps the structure in memory reads on from its position.
 */
export class StructureFeed1764000000008 implements MigrationInterface {
  name = 'StructureFeed1764000000008';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE structure_feed (
        position bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        kind text NOT NULL CHECK (kind IN ('versions', 'state', 'gap')),
        id bigint
      );

      CREATE FUNCTION tell_structure() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        IF TG_TABLE_NAME = 'version' THEN
          INSERT INTO structure_feed (kind) VALUES ('versions');
        ELSIF TG_TABLE_NAME = 'revision' THEN
          INSERT INTO structure_feed (kind, id) VALUES ('state', NEW.id);
        ELSE
          INSERT INTO structure_feed (kind, id) VALUES ('gap', NEW.id);
        END IF;
        -- Told once a transaction, when it commits.
        NOTIFY stem_structure;
        RETURN NULL;
      END $$;
      CREATE TRIGGER version_tells_structure AFTER INSERT ON version
        FOR EACH STATEMENT EXECUTE FUNCTION tell_structure();
      CREATE TRIGGER revision_tells_structure AFTER UPDATE OF state ON revision
        FOR EACH ROW WHEN (OLD.state IS DISTINCT FROM NEW.state) EXECUTE FUNCTION tell_structure();
      CREATE TRIGGER link_tells_structure AFTER UPDATE ON link FOR EACH ROW EXECUTE FUNCTION tell_structure();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER version_tells_structure ON version;
      DROP TRIGGER revision_tells_structure ON revision;
      DROP TRIGGER link_tells_structure ON link;
      DROP FUNCTION tell_structure;
      DROP TABLE structure_feed;
    `);
  }
}
