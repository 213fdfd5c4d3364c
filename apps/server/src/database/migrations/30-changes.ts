import type { MigrationInterface, QueryRunner } from 'typeorm';

const KINDS = `('assembly', 'part', 'drawing', 'document', 'bill', 'request', 'order')`;
const KINDS_BEFORE = `('assembly', 'part', 'drawing', 'document', 'bill')`;

const STATES: readonly (readonly [name: string, lane: string, glyph: string])[] = [
  ['raised', 'open', 'ringed dot'],
  ['taken on', 'open', 'half ring'],
  ['settled', 'locked', 'diamond'],
  ['refused', 'out of use', 'crossed ring'],
  ['joined', 'out of use', 'crossed ring'],
  ['planned', 'open', 'ringed dot'],
  ['under way', 'open', 'half ring'],
  ['carried out', 'locked', 'split square'],
  ['abandoned', 'out of use', 'crossed ring'],
];

const MAKERS = roles('engineer', 'planner', 'administrator');
const HANDLERS = roles('engineer', 'planner', 'checker', 'administrator');
const DECIDERS = roles('checker', 'planner', 'administrator');
const CHECKERS = roles('checker', 'administrator');
const TELLS_CHECKERS = [{ kind: 'tell', who: roles('checker') }];
const TELLS_SENDER = [{ kind: 'tell', who: [{ kind: 'sender' }] }];
const SENDER = [{ kind: 'sender' }, ...roles('administrator')];

/** As they shipped when changes came; what ships now is in core. */
const REQUESTS = {
  name: 'Change requests',
  first: 'raised',
  steps: [
    step('take on', 'took … on', ['raised'], 'taken on', { who: HANDLERS }),
    step('put back', 'put … back', ['taken on'], 'raised', { who: HANDLERS, asksReason: true }),
    step('settle', 'settled …', ['taken on'], 'settled', { who: DECIDERS }),
    step('refuse', 'refused …', ['raised'], 'refused', { who: DECIDERS, asksReason: true }),
    step('join', 'joined … with another', ['raised'], 'joined', { who: DECIDERS, asksReason: true }),
  ],
  states: statesOf('raised', 'taken on', 'settled', 'refused', 'joined'),
};

const ORDERS = {
  name: 'Change orders',
  first: 'planned',
  steps: [
    step('begin', 'began …', ['planned'], 'under way', { who: MAKERS }),
    step('ask for check', 'sent … for checking', ['under way'], 'in check', {
      who: MAKERS,
      then: TELLS_CHECKERS,
    }),
    step('take back', 'took … back from checking', ['in check'], 'under way', {
      who: SENDER,
      then: TELLS_CHECKERS,
    }),
    step('send back', 'sent … back', ['in check'], 'under way', {
      ...{ who: CHECKERS, asksReason: true, then: TELLS_SENDER },
    }),
    step('carry out', 'carried … out', ['in check'], 'carried out', {
      who: [],
      signatures: { count: 2, of: CHECKERS, isInOrder: false },
      then: TELLS_SENDER,
    }),
    step('abandon', 'abandoned …', ['planned', 'under way'], 'abandoned', {
      who: CHECKERS,
      asksReason: true,
    }),
  ],
  states: [
    ...statesOf('planned', 'under way'),
    { name: 'in check', lane: 'under check', isReleased: false, glyph: 'rising ring' },
    ...statesOf('carried out', 'abandoned'),
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

function statesOf(...names: string[]): object[] {
  return STATES.filter(([name]) => names.includes(name)).map(([name, lane, glyph]) => ({
    ...{ name, lane, isReleased: false, glyph },
  }));
}

interface Shipped {
  name: string;
  first: string;
  readonly states: readonly object[];
  readonly steps: readonly object[];
}

/** Of states that mean something else here already, the name that they get instead. */
async function freeNames(runner: QueryRunner): Promise<ReadonlyMap<string, string>> {
  const rows = (await runner.query(
    'SELECT lower(name) AS name, lane, is_released AS released FROM state',
  )) as {
    readonly name: string;
    readonly lane: string;
    readonly released: boolean;
  }[];
  const known = new Map(rows.map((row) => [row.name, row]));
  const names = new Map<string, string>();
  for (const [name, lane] of STATES) {
    const other = known.get(name);
    if (other && (other.lane !== lane || other.released)) names.set(name, `${name} change`);
  }
  return names;
}

function renamed(shipped: Shipped, names: ReadonlyMap<string, string>): Shipped {
  const say = (name: unknown): unknown => (typeof name === 'string' ? (names.get(name) ?? name) : name);
  return {
    ...{ name: shipped.name, first: String(say(shipped.first)) },
    states: shipped.states.map((state) => ({ ...state, name: say((state as { name: string }).name) })),
    steps: shipped.steps.map((each) => {
      const { from, to } = each as { readonly from: string[]; readonly to: string };
      return { ...each, from: from.map(say), to: say(to) };
    }),
  };
}

/**
 * Change requests and change orders: items whose versions are what Change wrote; what they have to do with, the tasks of orders, and
 * what is made under them: by whoever holds an item for an order, noted by a trigger, whichever way a version comes about.
 */
export class Changes1764000000030 implements MigrationInterface {
  name = 'Changes1764000000030';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE item DROP CONSTRAINT item_kind_check, ADD CONSTRAINT item_kind_check CHECK (kind IN ${KINDS});
      ALTER TABLE lifecycle_scope DROP CONSTRAINT lifecycle_scope_kind_check,
        ADD CONSTRAINT lifecycle_scope_kind_check CHECK (kind IN ${KINDS});
    `);
    await this.ship(runner);
    await this.makeTables(runner);
  }

  /** States and lifecycles that somebody made under the same names keep what they mean; then what ships gets a name of its own. */
  private async ship(runner: QueryRunner): Promise<void> {
    const names = await freeNames(runner);
    for (const [name, lane, glyph] of STATES)
      await runner.query(
        'INSERT INTO state (name, lane, is_released, glyph) VALUES ($1, $2, false, $3) ON CONFLICT DO NOTHING',
        [names.get(name) ?? name, lane, glyph],
      );
    for (const [kind, shipped] of [
      ['request', REQUESTS],
      ['order', ORDERS],
    ] as const) {
      const taken: unknown = await runner.query('SELECT FROM lifecycle WHERE lower(name) = lower($1)', [
        shipped.name,
      ]);
      const diagram = renamed(shipped, names);
      diagram.name = Array.isArray(taken) && taken.length > 0 ? `${shipped.name} as shipped` : shipped.name;
      await runner.query(
        `WITH made AS (INSERT INTO lifecycle (name) VALUES ($1) RETURNING id),
           scoped AS (INSERT INTO lifecycle_scope (lifecycle_id, kind) SELECT id, $2 FROM made)
         INSERT INTO lifecycle_version (lifecycle_id, seq, diagram) SELECT id, 1, $3 FROM made`,
        [diagram.name, kind, JSON.stringify(diagram)],
      );
    }
    // Apart from those for items, which are proposed for files and variants.
    await runner.query(
      `ALTER TABLE number_scheme ADD COLUMN kind text UNIQUE CHECK (kind IN ('request', 'order'))`,
    );
    for (const [kind, name, prefix] of [
      ['request', 'Change requests', 'CR-'],
      ['order', 'Change orders', 'CO-'],
    ])
      await runner.query(
        `INSERT INTO number_scheme (name, prefix, digits, suffix, kind) VALUES ($1, $2, 4, '', $3)
         ON CONFLICT (lower(name)) DO UPDATE SET kind = excluded.kind`,
        [name, prefix, kind],
      );
  }

  private async makeTables(runner: QueryRunner): Promise<void> {
    await runner.query(`
      CREATE TABLE change (
        item_id bigint PRIMARY KEY REFERENCES item,
        owner_id bigint REFERENCES person,
        until date,
        urgency text NOT NULL
      );
      CREATE TABLE change_line (
        change_id bigint NOT NULL REFERENCES change,
        relation text NOT NULL CHECK (relation IN ('shows in', 'affects', 'refers to', 'answers', 'joins')),
        item_id bigint NOT NULL REFERENCES item,
        PRIMARY KEY (change_id, relation, item_id)
      );
      CREATE INDEX change_line_item ON change_line (item_id, relation);
      CREATE TABLE change_task (
        change_id bigint NOT NULL REFERENCES change,
        key text NOT NULL,
        what text NOT NULL,
        person_id bigint REFERENCES person,
        until date,
        PRIMARY KEY (change_id, key)
      );
      CREATE INDEX change_task_person ON change_task (person_id);
      -- Apart from the tasks, so that ticking one off changes nothing that is signed.
      CREATE TABLE change_task_done (
        change_id bigint NOT NULL REFERENCES change,
        key text NOT NULL,
        person_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        PRIMARY KEY (change_id, key)
      );

      ALTER TABLE hold ADD COLUMN change_id bigint REFERENCES change;
      CREATE INDEX hold_change ON hold (change_id) WHERE change_id IS NOT NULL;
      CREATE TABLE change_version (
        version_id bigint PRIMARY KEY REFERENCES version,
        change_id bigint NOT NULL REFERENCES change
      );
      CREATE INDEX change_version_change ON change_version (change_id, version_id);
      CREATE TABLE change_makes (
        change_id bigint NOT NULL REFERENCES change,
        revision_id bigint NOT NULL REFERENCES revision,
        -- What was there before the order; null where the item is new.
        since_version_id bigint REFERENCES version,
        at timestamptz NOT NULL DEFAULT now(),
        PRIMARY KEY (change_id, revision_id)
      );
      CREATE INDEX change_makes_revision ON change_makes (revision_id);

      -- Whoever takes what an order makes takes it for that order, whichever way it is taken.
      CREATE FUNCTION hold_for_order() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        NEW.change_id := coalesce(NEW.change_id, (SELECT m.change_id FROM item i JOIN version v ON v.id = i.newest_version_id
          JOIN change_makes m ON m.revision_id = v.revision_id JOIN item o ON o.id = m.change_id
          JOIN state s ON s.name = o.state AND s.lane IN ('open', 'under check') WHERE i.id = NEW.item_id LIMIT 1));
        RETURN NEW;
      END $$;
      CREATE TRIGGER hold_is_for_order BEFORE INSERT ON hold FOR EACH ROW EXECUTE FUNCTION hold_for_order();

      CREATE FUNCTION note_change() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO change_version (version_id, change_id)
          SELECT f.id, h.change_id FROM fresh f JOIN hold h ON h.item_id = f.item_id WHERE h.change_id IS NOT NULL;
        IF FOUND THEN
          INSERT INTO change_makes (change_id, revision_id, since_version_id)
            SELECT DISTINCT ON (h.change_id, f.revision_id) h.change_id, f.revision_id,
              (SELECT w.id FROM version w WHERE w.item_id = f.item_id AND w.ordinal < f.ordinal ORDER BY w.ordinal DESC LIMIT 1)
            FROM fresh f JOIN hold h ON h.item_id = f.item_id WHERE h.change_id IS NOT NULL
            ORDER BY h.change_id, f.revision_id, f.ordinal
            ON CONFLICT DO NOTHING;
        END IF;
        RETURN NULL;
      END $$;
      CREATE TRIGGER version_under_change AFTER INSERT ON version REFERENCING NEW TABLE AS fresh
        FOR EACH STATEMENT EXECUTE FUNCTION note_change();
    `);
    for (const table of ['change', 'change_line', 'change_makes', 'change_task_done'])
      await runner.query(
        `CREATE TRIGGER ${table}_tells_store AFTER INSERT OR UPDATE OR DELETE ON ${table}
           FOR EACH STATEMENT EXECUTE FUNCTION tell_fresh('store')`,
      );
  }

  /** For a store in which nobody has made a change yet. */
  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER version_under_change ON version;
      DROP TRIGGER hold_is_for_order ON hold;
      DROP FUNCTION note_change, hold_for_order;
      ALTER TABLE hold DROP COLUMN change_id;
      DROP TABLE change_makes, change_version, change_task_done, change_task, change_line, change;
      DELETE FROM lifecycle_scope WHERE kind IN ('request', 'order');
      ALTER TABLE lifecycle_version DISABLE TRIGGER USER;
      ALTER TABLE state DISABLE TRIGGER USER;
      DELETE FROM lifecycle_version v USING lifecycle l WHERE l.id = v.lifecycle_id AND l.name IN ('Change requests', 'Change orders');
      DELETE FROM lifecycle WHERE name IN ('Change requests', 'Change orders');
      DELETE FROM state WHERE name IN (${STATES.map(([name]) => `'${name}'`).join(', ')})
        AND NOT EXISTS (SELECT FROM revision r WHERE r.state = state.name);
      ALTER TABLE lifecycle_version ENABLE TRIGGER USER;
      ALTER TABLE state ENABLE TRIGGER USER;
      DELETE FROM number_scheme WHERE kind IS NOT NULL;
      ALTER TABLE number_scheme DROP COLUMN kind;
      ALTER TABLE lifecycle_scope DROP CONSTRAINT lifecycle_scope_kind_check,
        ADD CONSTRAINT lifecycle_scope_kind_check CHECK (kind IN ${KINDS_BEFORE});
      ALTER TABLE item DROP CONSTRAINT item_kind_check, ADD CONSTRAINT item_kind_check CHECK (kind IN ${KINDS_BEFORE});
    `);
  }
}
