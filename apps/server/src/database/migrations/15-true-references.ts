import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * What a file says of others is relative to where it lay when its bytes were stored, so versions keep that place. Links know
 * whether all mentions of their target say the same. A derivation keeps what was asked for, to know the same request again.
 *
 * Repaired on the way, where the versions still know it: the file name of items that once had a file of their own, and
 * whether items are parts or assemblies.
 */
export class TrueReferences1764000000015 implements MigrationInterface {
  name = 'TrueReferences1764000000015';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE version ADD COLUMN stored_place text NOT NULL DEFAULT '/';
      ALTER TABLE version DISABLE TRIGGER version_is_immutable;
      WITH RECURSIVE source AS (
        SELECT v.id, v.item_id FROM version v WHERE v.origin_version_id IS NULL
        UNION ALL SELECT v.id, s.item_id FROM version v JOIN source s ON s.id = v.origin_version_id
      )
      UPDATE version SET stored_place = p.path FROM source s JOIN item i ON i.id = s.item_id JOIN place p ON p.id = i.place_id
      WHERE s.id = version.id;
      ALTER TABLE version ENABLE TRIGGER version_is_immutable;

      -- Of links from before it is not known, so that their files are looked through when they are handed out.
      ALTER TABLE link ADD COLUMN said_alike boolean NOT NULL DEFAULT false;

      ALTER TABLE derivation ADD COLUMN request jsonb;

      UPDATE item SET file_name = own.file_name FROM (
        SELECT DISTINCT ON (item_id) item_id, file_name FROM version
        WHERE carrier_version_id IS NULL AND file_name <> '' AND origin_version_id IS NULL ORDER BY item_id, ordinal DESC
      ) own WHERE own.item_id = item.id AND item.file_name = '';
      UPDATE item SET kind = made.kind FROM (
        SELECT i.id, CASE WHEN EXISTS (SELECT 1 FROM link l WHERE l.version_id = i.newest_version_id AND l.relation = 'component')
          THEN 'assembly' ELSE 'part' END AS kind
        FROM item i WHERE i.kind IN ('part', 'assembly')
      ) made WHERE made.id = item.id AND made.kind <> item.kind;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE derivation DROP COLUMN request;
      ALTER TABLE link DROP COLUMN said_alike;
      ALTER TABLE version DROP COLUMN stored_place;
    `);
  }
}
