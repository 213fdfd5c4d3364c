import type { MigrationInterface, QueryRunner } from 'typeorm';

/** As it shipped when lifecycles became data; what ships now is in core, and comes to a new store by this and what was changed since. */
const ITEMS = {
  name: 'Items',
  first: 'draft',
  states: [
    { name: 'draft', lane: 'open', isReleased: false, glyph: 'dashed ring' },
    { name: 'in check', lane: 'under check', isReleased: false, glyph: 'rising ring' },
    { name: 'released', lane: 'locked', isReleased: true, glyph: 'cut square' },
    { name: 'superseded', lane: 'locked', isReleased: true, glyph: 'cut square in outline' },
    { name: 'withdrawn', lane: 'out of use', isReleased: false, glyph: 'crossed ring' },
  ],
  steps: [
    step('ask for check', 'sent … for checking', ['draft'], 'in check', {
      who: roles('engineer', 'planner', 'administrator'),
      then: [{ kind: 'tell', who: roles('checker') }],
    }),
    step('take back', 'took … back from checking', ['in check'], 'draft', {
      who: [{ kind: 'sender' }, ...roles('administrator')],
      then: [{ kind: 'tell', who: roles('checker') }],
    }),
    step('release', 'released …', ['in check'], 'released', {
      who: roles('checker', 'administrator'),
      then: [
        { kind: 'supersede', to: 'superseded' },
        { kind: 'tell', who: [{ kind: 'sender' }] },
      ],
    }),
    step('send back', 'sent … back', ['in check'], 'draft', {
      who: roles('checker', 'administrator'),
      asksReason: true,
      then: [{ kind: 'tell', who: [{ kind: 'sender' }] }],
    }),
    step('withdraw', 'withdrew …', ['draft', 'released'], 'withdrawn', {
      who: roles('administrator'),
      asksReason: true,
    }),
  ],
};

function roles(...names: string[]): object[] {
  return names.map((role) => ({ kind: 'role', role }));
}

function step(name: string, done: string, from: string[], to: string, more: object): object {
  return {
    ...{ name, done, from, to, notByAuthors: false, asksReason: false, isOverUnreleased: false, then: [] },
    ...more,
  };
}

/**
 * Lifecycles as rows. A state means the same in every lifecycle and for ever; a lifecycle has versions, which never change; each
 * revision says by which it goes: the newest of whichever is meant for its item when it begins, or when the item gets another class
 * or place before the first step.
 */
export class Lifecycles1764000000027 implements MigrationInterface {
  name = 'Lifecycles1764000000027';

  async up(runner: QueryRunner): Promise<void> {
    await this.makeTables(runner);
    await this.fill(runner);
    await this.giveRevisionsTheirs(runner);
  }

  private async makeTables(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE state (
        name text PRIMARY KEY,
        lane text NOT NULL CHECK (lane IN ('open', 'under check', 'locked', 'out of use')),
        is_released boolean NOT NULL,
        glyph text NOT NULL,
        position int GENERATED ALWAYS AS IDENTITY UNIQUE,
        CHECK (NOT is_released OR lane = 'locked')
      );
      CREATE UNIQUE INDEX state_folded ON state (lower(name));
      CREATE TRIGGER state_means_the_same_for_ever BEFORE UPDATE OF name, lane, is_released OR DELETE ON state
        FOR EACH ROW EXECUTE FUNCTION refuse_change();

      CREATE TABLE lifecycle (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        name text NOT NULL
      );
      CREATE UNIQUE INDEX lifecycle_name ON lifecycle (lower(name));

      CREATE TABLE lifecycle_version (
        id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
        lifecycle_id bigint NOT NULL REFERENCES lifecycle,
        seq int NOT NULL,
        diagram jsonb NOT NULL,
        comment text NOT NULL DEFAULT '',
        person_id bigint REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        UNIQUE (lifecycle_id, seq)
      );
      CREATE TRIGGER lifecycle_version_is_immutable BEFORE UPDATE OR DELETE ON lifecycle_version
        FOR EACH ROW EXECUTE FUNCTION refuse_change();

      -- For what a lifecycle is meant; what is null does not matter. What something is counts more than where it lies.
      CREATE TABLE lifecycle_scope (
        lifecycle_id bigint NOT NULL REFERENCES lifecycle,
        kind text CHECK (kind IN ('assembly', 'part', 'drawing', 'document', 'bill')),
        class_id bigint REFERENCES class ON DELETE CASCADE,
        place_id bigint REFERENCES place ON DELETE CASCADE,
        UNIQUE NULLS NOT DISTINCT (kind, class_id, place_id)
      );

      CREATE FUNCTION lifecycle_for(wanted bigint) RETURNS bigint LANGUAGE sql STABLE AS $$
        SELECT v.id FROM item i JOIN place p ON p.id = i.place_id
        CROSS JOIN lifecycle_scope s LEFT JOIN place q ON q.id = s.place_id
        JOIN LATERAL (SELECT id FROM lifecycle_version WHERE lifecycle_id = s.lifecycle_id ORDER BY seq DESC LIMIT 1) v ON true
        WHERE i.id = wanted AND (s.kind IS NULL OR s.kind = i.kind) AND (s.class_id IS NULL OR s.class_id = i.class_id)
          AND (s.place_id IS NULL OR q.path IN ('/', p.path) OR starts_with(p.path, q.path || '/'))
        ORDER BY (s.class_id IS NOT NULL) DESC, (s.kind IS NOT NULL) DESC, length(coalesce(q.path, '')) DESC LIMIT 1
      $$;
    `);
  }

  private async fill(runner: QueryRunner): Promise<void> {
    for (const { name, lane, isReleased, glyph } of ITEMS.states)
      await runner.query('INSERT INTO state (name, lane, is_released, glyph) VALUES ($1, $2, $3, $4)', [
        ...[name, lane, isReleased, glyph],
      ]);
    await runner.query(
      `WITH made AS (INSERT INTO lifecycle (name) VALUES ($1) RETURNING id),
         scoped AS (INSERT INTO lifecycle_scope (lifecycle_id) SELECT id FROM made)
       INSERT INTO lifecycle_version (lifecycle_id, seq, diagram) SELECT id, 1, $2 FROM made`,
      [ITEMS.name, JSON.stringify(ITEMS)],
    );
  }

  /** How often a revision has moved tells what was signed since it came where it stands. */
  private async giveRevisionsTheirs(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE revision ADD COLUMN lifecycle_version_id bigint REFERENCES lifecycle_version,
        ADD COLUMN moves int NOT NULL DEFAULT 0;
      UPDATE revision r SET lifecycle_version_id = (SELECT min(id) FROM lifecycle_version),
        moves = (SELECT count(*) FROM event e WHERE e.item_id = r.item_id AND e.kind = 'step');
      ALTER TABLE revision ALTER COLUMN lifecycle_version_id SET NOT NULL, ALTER COLUMN state DROP DEFAULT,
        DROP CONSTRAINT revision_state_check, ADD FOREIGN KEY (state) REFERENCES state;
      CREATE INDEX revision_lifecycle ON revision (lifecycle_version_id, state);

      CREATE FUNCTION begin_revision() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.lifecycle_version_id := coalesce(NEW.lifecycle_version_id, lifecycle_for(NEW.item_id));
        NEW.state := coalesce(NEW.state,
          (SELECT diagram->>'first' FROM lifecycle_version WHERE id = NEW.lifecycle_version_id));
        RETURN NEW;
      END $$;
      CREATE TRIGGER revision_begins BEFORE INSERT ON revision FOR EACH ROW EXECUTE FUNCTION begin_revision();

      CREATE FUNCTION count_move() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.moves := OLD.moves + 1;
        RETURN NEW;
      END $$;
      CREATE TRIGGER revision_counts_moves BEFORE UPDATE OF state ON revision
        FOR EACH ROW WHEN (OLD.state IS DISTINCT FROM NEW.state AND OLD.lifecycle_version_id = NEW.lifecycle_version_id)
        EXECUTE FUNCTION count_move();

      CREATE FUNCTION begin_anew() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        UPDATE revision r SET lifecycle_version_id = v.id, state = v.diagram->>'first', moves = 0
        FROM lifecycle_version v
        WHERE r.item_id = NEW.id AND r.moves = 0 AND v.id = lifecycle_for(NEW.id) AND v.id <> r.lifecycle_version_id
          AND r.state = (SELECT diagram->>'first' FROM lifecycle_version WHERE id = r.lifecycle_version_id);
        RETURN NULL;
      END $$;
      CREATE TRIGGER item_begins_anew AFTER UPDATE OF class_id, place_id ON item FOR EACH ROW
        WHEN (OLD.class_id IS DISTINCT FROM NEW.class_id OR OLD.place_id IS DISTINCT FROM NEW.place_id)
        EXECUTE FUNCTION begin_anew();
    `);
    for (const table of ['state', 'lifecycle_version'])
      await runner.query(
        `CREATE TRIGGER ${table}_tells_store AFTER INSERT OR UPDATE ON ${table}
           FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store')`,
      );
  }

  /** Back to the one lifecycle there was; revisions that stand in other states go to the nearest of its own. */
  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER item_begins_anew ON item;
      DROP TRIGGER revision_counts_moves ON revision;
      DROP TRIGGER revision_begins ON revision;
      DROP FUNCTION begin_anew, count_move, begin_revision;
      UPDATE revision r SET state = CASE s.lane WHEN 'open' THEN 'draft' WHEN 'under check' THEN 'in check'
          WHEN 'locked' THEN 'released' ELSE 'withdrawn' END
        FROM state s WHERE s.name = r.state AND r.state NOT IN ('draft', 'in check', 'released', 'superseded', 'withdrawn');
      DROP INDEX revision_lifecycle;
      ALTER TABLE revision DROP COLUMN lifecycle_version_id, DROP COLUMN moves, DROP CONSTRAINT revision_state_fkey,
        ALTER COLUMN state SET DEFAULT 'draft',
        ADD CONSTRAINT revision_state_check CHECK (state IN ('draft', 'in check', 'released', 'superseded', 'withdrawn'));
      DROP FUNCTION lifecycle_for;
      DROP TABLE lifecycle_scope, lifecycle_version, lifecycle, state;
    `);
  }
}
