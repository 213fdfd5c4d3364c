import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The store: people, places, items with their versions and links, intake sheets, derivations. */
export class Store1764000000001 implements MigrationInterface {
  name = 'Store1764000000001';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE EXTENSION IF NOT EXISTS pg_trgm;

      CREATE TABLE person (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        login text NOT NULL UNIQUE,
        name text NOT NULL,
        initials text NOT NULL,
        role text NOT NULL CHECK (role IN ('engineer', 'checker', 'planner', 'viewer', 'administrator')),
        password_hash text NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now()
      );

      -- Only hashes of session and program tokens are kept: a copy of the database signs nobody in.
      CREATE TABLE access_token (
        token_hash bytea PRIMARY KEY,
        person_id bigint NOT NULL REFERENCES person ON DELETE CASCADE,
        kind text NOT NULL CHECK (kind IN ('session', 'program')),
        name text NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now(),
        expires_at timestamptz
      );

      CREATE TABLE sign_in_failure (login text NOT NULL, at timestamptz NOT NULL DEFAULT now());
      CREATE INDEX ON sign_in_failure (login, at);

      CREATE TABLE place (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        path text NOT NULL UNIQUE
      );

      CREATE TABLE blob (
        sha256 text PRIMARY KEY,
        size bigint NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now()
      );

      CREATE TABLE derivation (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        request_key text UNIQUE,
        origin_version_id bigint NOT NULL,
        plan jsonb NOT NULL,
        result jsonb,
        created_by bigint NOT NULL REFERENCES person,
        created_at timestamptz NOT NULL DEFAULT now()
      );

      CREATE TABLE item (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        number text NOT NULL,
        number_key text NOT NULL UNIQUE,
        name text NOT NULL,
        kind text NOT NULL CHECK (kind IN ('assembly', 'part', 'drawing', 'document')),
        place_id bigint NOT NULL REFERENCES place,
        file_name text NOT NULL,
        stem_id bigint,
        origin_version_id bigint,
        derivation_id bigint REFERENCES derivation,
        newest_version_id bigint,
        search_text text NOT NULL DEFAULT '',
        created_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX item_search ON item USING gin (search_text gin_trgm_ops);
      CREATE INDEX item_file ON item (place_id, lower(file_name));
      CREATE INDEX item_stem ON item (stem_id);

      CREATE TABLE revision (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        code text NOT NULL,
        position int NOT NULL,
        state text NOT NULL DEFAULT 'draft'
          CHECK (state IN ('draft', 'in check', 'released', 'superseded', 'withdrawn')),
        UNIQUE (item_id, code),
        UNIQUE (item_id, position)
      );

      CREATE TABLE version (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        revision_id bigint NOT NULL REFERENCES revision,
        seq int NOT NULL,
        ordinal int NOT NULL,
        comment text NOT NULL,
        author_id bigint NOT NULL REFERENCES person,
        created_at timestamptz NOT NULL DEFAULT now(),
        sha256 text NOT NULL REFERENCES blob,
        file_name text NOT NULL,
        product_ref bigint NOT NULL,
        id_in_file text NOT NULL,
        name_in_file text NOT NULL,
        carrier_version_id bigint REFERENCES version,
        origin_version_id bigint REFERENCES version,
        facts jsonb NOT NULL,
        UNIQUE (item_id, ordinal),
        UNIQUE (revision_id, seq)
      );
      CREATE INDEX ON version (carrier_version_id) WHERE carrier_version_id IS NOT NULL;
      CREATE INDEX ON version (origin_version_id) WHERE origin_version_id IS NOT NULL;

      CREATE TABLE link (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        version_id bigint NOT NULL REFERENCES version,
        position int NOT NULL,
        relation text NOT NULL DEFAULT 'component'
          CHECK (relation IN ('component', 'depicts', 'describes', 'draws on')),
        target_item_id bigint REFERENCES item,
        target_version_id bigint REFERENCES version,
        quantity numeric NOT NULL CHECK (quantity > 0),
        carried boolean NOT NULL,
        target_ref bigint NOT NULL,
        target_id_in_file text NOT NULL,
        target_name_in_file text NOT NULL,
        locator text,
        occurrences jsonb NOT NULL,
        CHECK ((target_item_id IS NULL) = (target_version_id IS NULL)),
        UNIQUE (version_id, position)
      );
      CREATE INDEX ON link (target_item_id);
      CREATE INDEX ON link (target_version_id);
      CREATE INDEX ON link ((1)) WHERE target_item_id IS NULL;

      CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        RAISE EXCEPTION 'a % never changes', TG_TABLE_NAME;
      END $$;
      CREATE TRIGGER version_is_immutable BEFORE UPDATE OR DELETE ON version
        FOR EACH ROW EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER link_is_immutable BEFORE DELETE ON link
        FOR EACH ROW EXECUTE FUNCTION refuse_change();
      -- The one thing that may happen to a link: a gap is filled.
      CREATE TRIGGER link_only_fills_gaps BEFORE UPDATE ON link
        FOR EACH ROW WHEN (OLD.target_item_id IS NOT NULL) EXECUTE FUNCTION refuse_change();

      CREATE TABLE intake (
        id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
        place text NOT NULL,
        prefix text NOT NULL,
        comment text NOT NULL DEFAULT '',
        state text NOT NULL DEFAULT 'collecting'
          CHECK (state IN ('collecting', 'carrying out', 'done', 'failed')),
        corrections jsonb NOT NULL DEFAULT '{}',
        result jsonb,
        failure text,
        created_by bigint NOT NULL REFERENCES person,
        created_at timestamptz NOT NULL DEFAULT now()
      );

      CREATE TABLE intake_file (
        intake_id uuid NOT NULL REFERENCES intake ON DELETE CASCADE,
        path text NOT NULL,
        sha256 text NOT NULL REFERENCES blob,
        size bigint NOT NULL,
        reading jsonb,
        problem jsonb,
        passed_over text,
        PRIMARY KEY (intake_id, path)
      );
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TABLE intake_file, intake, link, version, revision, item, derivation, blob, place, sign_in_failure, access_token, person;
      DROP FUNCTION refuse_change;
    `);
  }
}
