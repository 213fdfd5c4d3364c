/** What is said of uses goes on to the next version, whatever becomes of their find numbers. */
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  await store.database.query(`INSERT INTO place (path) VALUES ('/follows')`);
  await store.database.query(
    `INSERT INTO blob (sha256, size) VALUES (repeat('a', 64), 0) ON CONFLICT DO NOTHING`,
  );
});
afterAll(() => store.close());

interface Use {
  /** Which of two items it uses. */
  readonly of: 0 | 1;
  readonly find: string;
  /** Day from which it counts; none where nothing is said. */
  readonly from: number | undefined;
}

let made = 0;
async function newItem(): Promise<string> {
  const [row]: { id: string }[] = await store.database.query(
    `INSERT INTO item (number, number_key, name, kind, place_id, file_name)
     VALUES ($1, $1, 'x', 'part', (SELECT id FROM place WHERE path = '/follows'), '') RETURNING id`,
    [`follows-${++made}`],
  );
  const id = row?.id ?? '';
  await store.database.query(`INSERT INTO revision (item_id, code, position) VALUES ($1, 'A', 1)`, [id]);
  return id;
}

async function newVersion(
  item: string,
  ordinal: number,
  targets: readonly string[],
  uses: readonly Use[],
): Promise<string> {
  return store.database.transaction(async (manager) => {
    const [version]: { id: string }[] = await manager.query(
      `INSERT INTO version (item_id, revision_id, seq, ordinal, comment, author_id, sha256, file_name, product_ref, id_in_file, name_in_file, facts)
       SELECT $1, r.id, $2, $2, '', (SELECT min(id) FROM person), repeat('a', 64), '', 0, '', '',
         '{"properties":[],"description":"","schema":"","versionText":"","source":"unknown"}'
       FROM revision r WHERE r.item_id = $1 RETURNING id`,
      [item, ordinal],
    );
    const id = version?.id ?? '';
    // In one statement, as all links of a version are written.
    await manager.query(
      `INSERT INTO link (version_id, position, target_item_id, target_version_id, quantity, carried, target_ref, target_id_in_file,
         target_name_in_file, configurations, occurrences, find)
       SELECT $1, at - 1, item, (SELECT newest_version_id FROM item WHERE id = u.item), 1, false, 0, '', '', '{}', '[]', u.find
       FROM unnest($2::bigint[], $3::text[]) WITH ORDINALITY AS u(item, find, at)`,
      [id, uses.map(({ of }) => targets[of]), uses.map(({ find: said }) => said)],
    );
    await manager.query('UPDATE item SET newest_version_id = $2 WHERE id = $1', [item, id]);
    return id;
  });
}

const day = (from: number): string => `2026-05-${String(from).padStart(2, '0')}`;

/** From which day on each use of the second version counts, in their order. */
async function followed(before: readonly Use[], after: readonly Use[]): Promise<(string | null)[]> {
  const [item, ...targets] = [await newItem(), await newItem(), await newItem()];
  for (const target of targets) await newVersion(target, 1, [], []);
  const first = await newVersion(item, 1, targets, before);
  for (const [position, { from }] of before.entries())
    if (from !== undefined)
      await store.database.query(
        `INSERT INTO effectivity (link_id, version_id, spans, person_id)
         SELECT id, version_id, $3, (SELECT min(id) FROM person) FROM link WHERE version_id = $1 AND position = $2`,
        [first, position, { planned: { days: { from: day(from) } } }],
      );
  const second = await newVersion(item, 2, targets, after);
  const rows: { from: string | null }[] = await store.database.query(
    `SELECT e.spans #>> '{planned,days,from}' AS "from" FROM link l LEFT JOIN effectivity e ON e.link_id = l.id
     WHERE l.version_id = $1 ORDER BY l.position`,
    [second],
  );
  return rows.map(({ from }) => from);
}

const find = fc.constantFrom('', '10', '20');
const use = fc.record({
  of: fc.constantFrom(0 as const, 1 as const),
  find,
  from: fc.option(fc.integer({ min: 1, max: 28 }), { nil: undefined }),
});
const uses = fc.array(use, { minLength: 1, maxLength: 6 });
const saidOf = (of: readonly Use[], target: 0 | 1, said: readonly (string | null)[]): (string | null)[] =>
  said.filter((_, at) => of[at]?.of === target).sort();

it('every use that stays as it is keeps what was said of it', async () => {
  await fc.assert(
    fc.asyncProperty(uses, async (before) => {
      expect(await followed(before, before)).toEqual(
        before.map(({ from }) => (from === undefined ? null : day(from))),
      );
    }),
    { numRuns: 12 },
  );
});

it('nothing that was said is lost or said twice, however often an item is used, when find numbers change', async () => {
  await fc.assert(
    fc.asyncProperty(uses, fc.array(find, { minLength: 6, maxLength: 6 }), async (before, finds) => {
      const after = before.map((each, at) => ({ ...each, find: finds[at] ?? '' }));
      const said = await followed(before, after);
      const was = before.map(({ from }) => (from === undefined ? null : day(from)));
      for (const target of [0, 1] as const)
        expect(saidOf(after, target, said)).toEqual(saidOf(before, target, was));
    }),
    { numRuns: 25 },
  );
});

it('what comes and goes with its item takes nothing from others', async () => {
  const [a, b] = [
    { of: 0, find: '10', from: 3 },
    { of: 1, find: '20', from: 7 },
  ] as const;
  expect(await followed([a, b], [{ ...b, find: '10' }])).toEqual([day(7)]);
  // Of two uses under other find numbers one went: which one nobody knows.
  expect(await followed([a, { ...a, find: '20', from: 9 }], [{ ...a, find: '30' }])).toEqual([null]);
});
