import type { MigrationInterface, QueryRunner } from 'typeorm';

const RIGHTS_BEFORE = `ARRAY['see', 'fetch', 'change', 'release', 'administer']`;
const RIGHTS = `ARRAY['see', 'receive', 'fetch', 'change', 'release', 'administer']`;

/** Steps to states that count as released make files, as they did of bills before anybody could say so. */
const WITH_ISSUE = `
  UPDATE lifecycle_version l SET diagram = jsonb_set(l.diagram, '{steps}', (
    SELECT jsonb_agg(CASE WHEN EXISTS (SELECT FROM state s WHERE s.name = step->>'to' AND s.is_released)
        THEN jsonb_set(step, '{then}', step->'then' || '[{"kind": "issue"}]') ELSE step END ORDER BY at)
    FROM jsonb_array_elements(l.diagram->'steps') WITH ORDINALITY AS n(step, at)))
  WHERE jsonb_array_length(l.diagram->'steps') > 0`;

const WITHOUT_ISSUE = `
  UPDATE lifecycle_version l SET diagram = jsonb_set(l.diagram, '{steps}', (
    SELECT jsonb_agg(jsonb_set(step, '{then}',
        coalesce((SELECT jsonb_agg(t) FROM jsonb_array_elements(step->'then') t WHERE t->>'kind' <> 'issue'), '[]')) ORDER BY at)
    FROM jsonb_array_elements(l.diagram->'steps') WITH ORDINALITY AS n(step, at)))
  WHERE jsonb_array_length(l.diagram->'steps') > 0`;

/** Neutral files that are made when something is released, each once; and the right to have them without their sources. */
export class IssuedFiles1764000000034 implements MigrationInterface {
  name = 'IssuedFiles1764000000034';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE issued_file (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        item_id bigint NOT NULL REFERENCES item,
        version_id bigint NOT NULL REFERENCES version,
        kind text NOT NULL CHECK (kind IN
          ('PDF', 'STEP', 'glTF', 'BOM as XLSX', 'BOM as CSV', 'BOM as XML', 'bill as XLSX', 'bill as XML')),
        -- Which of several of its kind.
        part int NOT NULL DEFAULT 0,
        -- What it shows of what is below; none for what is made of nothing.
        baseline_id bigint REFERENCES baseline,
        person_id bigint NOT NULL REFERENCES person,
        notes text NOT NULL,
        -- The state that it was released to.
        state text NOT NULL,
        asked_at timestamptz NOT NULL,
        name text,
        size bigint,
        sha256 text REFERENCES blob,
        made_at timestamptz,
        -- What it could not say, such as characters that no font has.
        remarks text[] NOT NULL DEFAULT '{}',
        tries int NOT NULL DEFAULT 0,
        next_try timestamptz NOT NULL DEFAULT now(),
        problem text,
        -- Why none can be made of what was released, however often it is tried.
        left_out text,
        UNIQUE (version_id, kind, part),
        CHECK ((made_at IS NULL) = (sha256 IS NULL) AND (made_at IS NULL) = (name IS NULL) AND (made_at IS NULL) = (size IS NULL)),
        CHECK (made_at IS NULL OR left_out IS NULL)
      );
      CREATE INDEX issued_file_item ON issued_file (item_id, id);
      CREATE INDEX issued_file_blob ON issued_file (sha256);
      CREATE INDEX issued_file_open ON issued_file (next_try) WHERE made_at IS NULL AND left_out IS NULL;
      CREATE TRIGGER issued_file_is_never_overwritten BEFORE UPDATE ON issued_file FOR EACH ROW
        WHEN (OLD.made_at IS NOT NULL) EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER issued_file_is_never_lost BEFORE DELETE ON issued_file FOR EACH ROW EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER issued_file_is_never_emptied BEFORE TRUNCATE ON issued_file EXECUTE FUNCTION refuse_change();
      CREATE TRIGGER issued_file_tells_store AFTER INSERT OR UPDATE ON issued_file
        FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store');

      INSERT INTO issued_file (item_id, version_id, kind, part, person_id, notes, state, asked_at, name, size, sha256, made_at)
      SELECT b.item_id, b.version_id, CASE WHEN f->>'name' LIKE '%.xml' THEN 'bill as XML' ELSE 'bill as XLSX' END,
             CASE WHEN f->>'name' LIKE '%.xml' THEN 0 ELSE at::int - 1 END, b.person_id, b.notes, r.state, b.released_at,
             f->>'name', (f->>'size')::bigint, f->>'sha256', b.released_at
      FROM bill_release b JOIN version v ON v.id = b.version_id JOIN revision r ON r.id = v.revision_id,
           jsonb_array_elements(b.files) WITH ORDINALITY AS n(f, at);
      -- What was not made yet is made now.
      INSERT INTO issued_file (item_id, version_id, kind, person_id, notes, state, asked_at)
      SELECT b.item_id, b.version_id, k.kind, b.person_id, b.notes, r.state, b.released_at
      FROM bill_release b JOIN version v ON v.id = b.version_id JOIN revision r ON r.id = v.revision_id,
           (VALUES ('bill as XLSX'), ('bill as XML')) AS k(kind) WHERE b.files IS NULL;
      DROP INDEX bill_release_open;
      ALTER TABLE bill_release DROP COLUMN files, DROP COLUMN files_problem;
      CREATE INDEX bill_release_open ON bill_release (id) WHERE planning_sent_at IS NULL;

      ALTER TABLE place_grant DROP CONSTRAINT place_grant_rights_check,
        ADD CONSTRAINT place_grant_rights_check CHECK (rights <@ ${RIGHTS});
      ALTER TABLE lifecycle_version DISABLE TRIGGER USER;
      ${WITH_ISSUE};
      ALTER TABLE lifecycle_version ENABLE TRIGGER USER;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP INDEX bill_release_open;
      ALTER TABLE bill_release ADD COLUMN files jsonb, ADD COLUMN files_problem text;
      UPDATE bill_release b SET files = (SELECT jsonb_agg(jsonb_build_object('name', name, 'size', size, 'sha256', sha256) ORDER BY kind, part)
        FROM issued_file f WHERE f.version_id = b.version_id AND f.made_at IS NOT NULL);
      CREATE INDEX bill_release_open ON bill_release (id) WHERE files IS NULL OR planning_sent_at IS NULL;
      DROP TABLE issued_file;
      UPDATE place_grant SET rights = array_remove(rights, 'receive');
      ALTER TABLE place_grant DROP CONSTRAINT place_grant_rights_check,
        ADD CONSTRAINT place_grant_rights_check CHECK (rights <@ ${RIGHTS_BEFORE});
      ALTER TABLE lifecycle_version DISABLE TRIGGER USER;
      ${WITHOUT_ISSUE};
      ALTER TABLE lifecycle_version ENABLE TRIGGER USER;
    `);
  }
}
