import type { MigrationInterface, QueryRunner } from 'typeorm';

/** An event as the text of which its seal is made; `audit/seal.ts` writes the same by other means. */
const EVENT_TEXT = `concat_ws('|', e.id, to_char(e.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), e.person_id, e.kind,
  coalesce(e.item_id::text, '-'), e.detail::text)`;

const ANY = 'INSERT OR UPDATE OR DELETE';
/** Tables, what they tell of, and at which statements. When a token was last used is nobody's concern. */
const FRESH: readonly (readonly [table: string, topic: 'store' | 'access', events: string])[] = [
  ...[
    'item',
    'revision',
    'version',
    'link',
    'hold',
    'watch',
    'place_watch',
    'class',
    'class_property',
    'property_definition',
    'property_known',
    'item_property',
    'setting',
    'number_scheme',
    'place',
    'place_grant',
    'person',
  ].map((table) => [table, 'store', ANY] as const),
  ['place', 'access', ANY],
  ['place_grant', 'access', ANY],
  ['person', 'access', ANY],
  ['access_token', 'access', 'INSERT OR DELETE OR UPDATE OF person_id, scope, expires_at'],
];

/**
 * What holds under many writers and hostile ones: the structure's feed in the order of commits though not every writer
 * takes turns any more, a trail that shows where it was tampered with, texts of files as stored search vectors, and the
 * indexes that the trail's filters need.
 */
export class StandFirm1764000000016 implements MigrationInterface {
  name = 'StandFirm1764000000016';

  async up(runner: QueryRunner): Promise<void> {
    await this.feedInOrderOfCommits(runner);
    await this.sealTrail(runner);
    await this.tellWhatChanged(runner);
    await runner.query(`
      ALTER TABLE item ADD COLUMN body_words tsvector
        GENERATED ALWAYS AS (to_tsvector('simple', left(body_text, 150000))) STORED;
      DROP INDEX item_body;
      CREATE INDEX item_body ON item USING gin (body_words);

      CREATE INDEX event_person ON event (person_id, id);
      CREATE INDEX event_kind ON event (kind, id);
      CREATE INDEX event_at ON event (at, id);

      -- Sign-ins are counted by name and by address before a password is looked at.
      DROP TABLE sign_in_failure;
      CREATE UNLOGGED TABLE sign_in_attempt (
        key text PRIMARY KEY,
        points int NOT NULL,
        until timestamptz NOT NULL
      );
      CREATE INDEX ON sign_in_attempt (until);
      CREATE TABLE sign_in_device (
        token_hash bytea PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person ON DELETE CASCADE,
        until timestamptz NOT NULL
      );

      ALTER TABLE shape ADD COLUMN failure text;
      ALTER TABLE blob ADD COLUMN stored_at timestamptz NOT NULL DEFAULT now();
    `);
  }

  /** Positions are given while a lock is held that ends with the commit, so that none becomes visible after a higher one. */
  private async feedInOrderOfCommits(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE structure_feed ALTER COLUMN position DROP IDENTITY;
      ALTER TABLE structure_feed DROP CONSTRAINT structure_feed_pkey;
      ALTER TABLE structure_feed ALTER COLUMN position DROP NOT NULL;
      ALTER TABLE structure_feed ADD COLUMN told bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY;
      CREATE UNIQUE INDEX structure_feed_position ON structure_feed (position);
      CREATE SEQUENCE structure_position;
      SELECT setval('structure_position', (SELECT coalesce(max(position), 0) + 1 FROM structure_feed));

      CREATE FUNCTION place_in_structure_feed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
      BEGIN
        PERFORM pg_advisory_xact_lock(hashtext('stem-trace feed'));
        UPDATE structure_feed SET position = nextval('structure_position') WHERE told = NEW.told;
        RETURN NULL;
      END $$;
      CREATE CONSTRAINT TRIGGER structure_feed_is_in_order AFTER INSERT ON structure_feed
        DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION place_in_structure_feed();
    `);
  }

  /**
   * Each transaction's events get one seal when it commits: the hash of the seal before with the digest of the events. An
   * event that is changed, left out or slipped in later breaks the chain from there on.
   */
  private async sealTrail(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE seal (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        position bigint UNIQUE,
        hash bytea
      );
      ALTER TABLE event ADD COLUMN seal_id bigint REFERENCES seal;
      CREATE INDEX event_seal ON event (seal_id, id);

      CREATE FUNCTION seal_events() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
      DECLARE
        before seal;
        digest bytea;
      BEGIN
        PERFORM pg_advisory_xact_lock(hashtext('stem-trace trail'));
        SELECT * INTO before FROM seal WHERE position IS NOT NULL ORDER BY position DESC LIMIT 1;
        SELECT sha256(convert_to(coalesce(string_agg(${EVENT_TEXT}, E'\\n' ORDER BY e.id), ''), 'UTF8')) INTO digest
          FROM event e WHERE e.seal_id = NEW.id;
        UPDATE seal SET position = coalesce(before.position, 0) + 1, hash = sha256(coalesce(before.hash, '') || digest)
          WHERE id = NEW.id;
        RETURN NULL;
      END $$;
      CREATE CONSTRAINT TRIGGER seal_when_committed AFTER INSERT ON seal
        DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION seal_events();

      ALTER TABLE event DISABLE TRIGGER event_is_append_only;
      INSERT INTO seal DEFAULT VALUES;
      UPDATE event SET seal_id = (SELECT max(id) FROM seal);
      SET CONSTRAINTS ALL IMMEDIATE;
      SET CONSTRAINTS ALL DEFERRED;
      ALTER TABLE event ENABLE TRIGGER event_is_append_only;
      ALTER TABLE event ALTER COLUMN seal_id SET NOT NULL;

      -- One seal a transaction, remembered in a setting that ends with it.
      CREATE FUNCTION begin_seal() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
      DECLARE
        made bigint;
      BEGIN
        IF coalesce(current_setting('stem.seal', true), '') = '' THEN
          INSERT INTO seal DEFAULT VALUES RETURNING id INTO made;
          PERFORM set_config('stem.seal', made::text, true);
        END IF;
        RETURN NULL;
      END $$;
      CREATE TRIGGER event_begins_seal BEFORE INSERT ON event FOR EACH STATEMENT EXECUTE FUNCTION begin_seal();

      CREATE FUNCTION put_under_seal() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.seal_id := current_setting('stem.seal')::bigint;
        RETURN NEW;
      END $$;
      CREATE TRIGGER event_is_sealed BEFORE INSERT ON event FOR EACH ROW EXECUTE FUNCTION put_under_seal();

      CREATE TRIGGER seal_is_never_emptied BEFORE TRUNCATE ON seal EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER version_is_never_emptied BEFORE TRUNCATE ON version EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER link_is_never_emptied BEFORE TRUNCATE ON link EXECUTE FUNCTION refuse_change();
    `);
  }

  /** Whatever answers are made of tells when it changed, so that servers can keep answers until then. */
  private async tellWhatChanged(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE FUNCTION tell_fresh() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        PERFORM pg_notify('stem_fresh', TG_ARGV[0]);
        RETURN NULL;
      END $$;
      ${FRESH.map(
        ([table, topic, events]) => `CREATE TRIGGER ${table}_tells_${topic} AFTER ${events} ON ${table}
          FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('${topic}');`,
      ).join('\n')}
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ${FRESH.map(([table, topic]) => `DROP TRIGGER ${table}_tells_${topic} ON ${table};`).join('\n')}
      DROP FUNCTION tell_fresh;
      DROP TABLE sign_in_device;
      ALTER TABLE blob DROP COLUMN stored_at;
      ALTER TABLE shape DROP COLUMN failure;
      DROP TABLE sign_in_attempt;
      CREATE TABLE sign_in_failure (login text NOT NULL, at timestamptz NOT NULL DEFAULT now());
      DROP INDEX event_at, event_kind, event_person, item_body;
      ALTER TABLE item DROP COLUMN body_words;
      CREATE INDEX item_body ON item USING gin (to_tsvector('simple', body_text));

      DROP TRIGGER link_is_never_emptied ON link;
      DROP TRIGGER version_is_never_emptied ON version;
      DROP TRIGGER event_is_sealed ON event;
      DROP TRIGGER event_begins_seal ON event;
      DROP FUNCTION put_under_seal, begin_seal;
      ALTER TABLE event DROP COLUMN seal_id;
      DROP TABLE seal;
      DROP FUNCTION seal_events;

      DROP TRIGGER structure_feed_is_in_order ON structure_feed;
      DROP FUNCTION place_in_structure_feed;
      DROP SEQUENCE structure_position;
      DROP INDEX structure_feed_position;
      ALTER TABLE structure_feed DROP COLUMN told;
      DELETE FROM structure_feed WHERE position IS NULL;
      ALTER TABLE structure_feed ALTER COLUMN position SET NOT NULL;
      ALTER TABLE structure_feed ADD PRIMARY KEY (position);
      ALTER TABLE structure_feed ALTER COLUMN position ADD GENERATED ALWAYS AS IDENTITY;
    `);
  }
}
