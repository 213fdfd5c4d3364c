/** The index follows the database, from whichever server it is written, and says what recursive SQL says. */
import type { Effectivity, Lens, Totals } from '@stem-trace/core';
import fc from 'fast-check';
import type { DataSource } from 'typeorm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { effectivity } from '../../../../packages/core/src/testing/builders.js';
import { TestStore } from '../testing/test-store.js';
import { LinkIndexHost } from './link-index-host.js';
import { whereUsedSql } from '../structure/reference-sql.js';
import { StructureIndex } from '../structure/structure-index.js';

const START_MS = Date.UTC(2026, 0, 1);
const LENSES: readonly Lens[] = [
  { kind: 'recorded' },
  { kind: 'newest' },
  { kind: 'released' },
  { kind: 'date', atMs: START_MS + 9000 },
  { kind: 'recorded', configuration: 'hot' },
  { kind: 'newest', configuration: 'cold' },
  { kind: 'effective', at: { kind: 'day', day: '2026-01-02' }, untilMs: Number.MAX_VALUE },
  { kind: 'effective', at: { kind: 'day', day: '2026-01-03' }, untilMs: START_MS, configuration: 'hot' },
  { kind: 'effective', at: { kind: 'serial', product: 'p-1', serial: 2 }, untilMs: Number.MAX_VALUE },
];

let store: TestStore;
let second: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  second = await TestStore.open({ databaseUrl: store.databaseUrl, blobFolder: store.blobFolder });
  await Promise.all([ready(store), ready(second)]);
});
afterAll(async () => {
  await second.server.close();
  await store.close();
});

function ready(of: TestStore): Promise<void> {
  return of.server.app.get(LinkIndexHost).ready();
}

/** A check-in of one of the items with links to later ones, a release, a gap that is filled, or an item that is moved. */
const deed = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      kind: fc.constant('check in' as const),
      item: fc.nat(6),
      revision: fc.constantFrom('A', 'B'),
      uses: fc.array(
        fc.record({
          by: fc.integer({ min: 1, max: 6 }),
          quantity: fc.integer({ min: 1, max: 3 }),
          isGap: fc.boolean(),
          configurations: fc.oneof(fc.constant([]), fc.subarray(['hot', 'cold'])),
        }),
        { maxLength: 3 },
      ),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      ...{ kind: fc.constant('release' as const), item: fc.nat(6) },
      revision: fc.constantFrom('A', 'B'),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      ...{ kind: fc.constant('order' as const), item: fc.nat(6), revision: fc.constantFrom('A', 'B') },
      spans: fc.option(effectivity),
      leaves: fc.boolean(),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      kind: fc.constant('limit' as const),
      item: fc.nat(6),
      spans: fc.option(effectivity),
    }),
  },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('fill' as const), item: fc.nat(6) }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('move' as const), item: fc.nat(6) }) },
);
type Deed = typeof deed extends fc.Arbitrary<infer D> ? D : never;

/** Writes straight into the tables, as no client could: histories that are odd, but allowed. */
class Writer {
  readonly items: string[] = [];
  private readonly versions = new Map<string, string[]>();
  private clock = 0;

  constructor(private readonly prefix: string) {}

  private async one<R>(sql: string, values: unknown[] = []): Promise<R | undefined> {
    const [row]: R[] = await store.database.query(sql, values);
    return row;
  }

  async open(): Promise<void> {
    await store.database.query(
      `INSERT INTO place (path) VALUES ('/random'), ('/random/hidden') ON CONFLICT DO NOTHING`,
    );
    await store.database.query(
      `INSERT INTO blob (sha256, size) VALUES (repeat('a', 64), 0) ON CONFLICT DO NOTHING`,
    );
    for (let at = 0; at < 7; at++) {
      const row = await this.one<{ id: string }>(
        `INSERT INTO item (number, number_key, name, kind, place_id, file_name)
         VALUES ($1, $1, 'x', 'part', (SELECT id FROM place WHERE path = '/random'), '') RETURNING id`,
        // Not in the order in which they are made.
        [`${this.prefix}-${(at * 3) % 7}`],
      );
      await this.one(`INSERT INTO revision (item_id, code, position) VALUES ($1, 'A', 1), ($1, 'B', 2)`, [
        row?.id,
      ]);
      this.items.push(row?.id ?? '');
    }
  }

  async carryOut(deed: Deed): Promise<void> {
    const item = this.items[deed.item] ?? '';
    if (deed.kind === 'check in') return this.checkIn(item, deed);
    if (deed.kind === 'release')
      return void (await store.database.query(
        `UPDATE revision SET state = 'released' WHERE item_id = $1 AND code = $2`,
        [item, deed.revision],
      ));
    if (deed.kind === 'order') return this.order(item, deed);
    if (deed.kind === 'move')
      return void (await store.database.query(
        `UPDATE item SET place_id = (SELECT id FROM place WHERE path = '/random/hidden') WHERE id = $1`,
        [item],
      ));
    const newest = this.versions.get(item)?.at(-1);
    if (newest === undefined) return;
    if (deed.kind === 'limit') return this.limit(newest, deed.spans);
    // A gap may only be filled where no circle comes of it: by the item that stands last.
    await store.database.query(
      `UPDATE link SET target_item_id = $1, target_version_id = $2 WHERE target_item_id IS NULL AND version_id IN (
         SELECT v.id FROM version v WHERE v.item_id = ANY($3::bigint[]))`,
      [item, newest, this.items.slice(0, deed.item)],
    );
  }

  /** Says from when on what an order makes counts, of a revision that it makes from then on, or not any more. */
  private async order(
    item: string,
    { revision, spans, leaves }: Extract<Deed, { kind: 'order' }>,
  ): Promise<void> {
    const number = `${this.prefix}-${item}-${revision}`;
    await store.database.query(
      `WITH made AS (
         INSERT INTO item (number, number_key, name, kind, place_id, file_name)
         VALUES ($1, $1, 'x', 'order', (SELECT id FROM place WHERE path = '/random'), '') ON CONFLICT DO NOTHING RETURNING id)
       INSERT INTO change (item_id, urgency) SELECT id, 'soon' FROM made`,
      [number],
    );
    const order = '(SELECT id FROM item WHERE number = $1)';
    await store.database.query(`UPDATE change SET spans = $2 WHERE item_id = ${order}`, [
      number,
      spans && JSON.stringify(spans),
    ]);
    if (leaves) await store.database.query(`DELETE FROM change_makes WHERE change_id = ${order}`, [number]);
    else
      await store.database.query(
        `INSERT INTO change_makes (change_id, revision_id)
         SELECT ${order}, id FROM revision WHERE item_id = $2 AND code = $3 ON CONFLICT DO NOTHING`,
        [number, item, revision],
      );
  }

  /** Says from when until when the second use of a version counts, and all after it. */
  private async limit(version: string, spans: Effectivity | null): Promise<void> {
    if (spans === null)
      await store.database.query('DELETE FROM effectivity WHERE version_id = $1', [version]);
    else
      await store.database.query(
        `INSERT INTO effectivity (link_id, version_id, spans, person_id)
         SELECT id, version_id, $2, (SELECT min(id) FROM person) FROM link WHERE version_id = $1 AND position > 0
         ON CONFLICT (link_id) DO UPDATE SET spans = EXCLUDED.spans`,
        [version, JSON.stringify(spans)],
      );
  }

  private async checkIn(
    item: string,
    { uses, revision }: Extract<Deed, { kind: 'check in' }>,
  ): Promise<void> {
    const before = this.versions.get(item) ?? [];
    await store.database.transaction(async (manager) => {
      const [version]: { id: string }[] = await manager.query(
        `INSERT INTO version (item_id, revision_id, seq, ordinal, comment, author_id, created_at, sha256, file_name,
           product_ref, id_in_file, name_in_file, facts)
         SELECT $1, r.id, $2, $2, '', (SELECT min(id) FROM person), to_timestamp($3::float8 / 1000), repeat('a', 64), '', 0, '', '',
           '{"properties":[],"description":"","schema":"","versionText":"","source":"unknown"}'
         FROM revision r WHERE r.item_id = $1 AND r.code = $4 RETURNING id`,
        [item, before.length + 1, START_MS + 1000 * ++this.clock, revision],
      );
      const id = version?.id ?? '';
      for (const [position, { by, quantity, isGap, configurations }] of uses.entries()) {
        const target = this.items[this.items.indexOf(item) + by];
        const recorded = target === undefined ? undefined : this.versions.get(target)?.at(-1);
        if (target !== undefined && recorded === undefined && !isGap) continue;
        await manager.query(
          `INSERT INTO link (version_id, position, target_item_id, target_version_id, quantity, carried, target_ref,
             target_id_in_file, target_name_in_file, configurations, occurrences)
           VALUES ($1, $2, $3, $4, $5, false, 0, '', '', $6, '[]')`,
          [
            id,
            position,
            isGap ? null : (target ?? null),
            isGap || !target ? null : recorded,
            quantity,
            configurations,
          ],
        );
      }
      await manager.query('UPDATE item SET newest_version_id = $2 WHERE id = $1', [item, id]);
      this.versions.set(item, [...before, id]);
    });
  }
}

type Summary = Record<string, readonly [level: number, total: number]>;

function summary({ versions, levels, totals }: Totals): Summary {
  return Object.fromEntries(
    [...versions].map((version, at) => [version, [levels[at] ?? 0, totals[at] ?? 0]]),
  );
}

async function byRecursiveSql(item: string, lens: Lens): Promise<Summary> {
  const { sql, values } = whereUsedSql(lens);
  const rows: { version: number; level: number; total: number }[] = await store.database.query(sql, [
    item,
    ...values,
  ]);
  return Object.fromEntries(rows.map(({ version, level, total }) => [version, [level, total]]));
}

const HIDDEN = `(SELECT id FROM place WHERE path = '/random/hidden')`;

/** Versions of an answer in order of numbers, without those in a hidden place. */
async function inOrder({ versions }: Totals): Promise<number[]> {
  const rows: { id: string }[] = await store.database.query(
    `SELECT v.id FROM version v JOIN item i ON i.id = v.item_id WHERE v.id = ANY($1::bigint[]) AND i.place_id <> ${HIDDEN}
     ORDER BY i.number_key, v.ordinal`,
    [[...versions]],
  );
  return rows.map(({ id }) => Number(id));
}

async function expectPages(item: string, lens: Lens): Promise<void> {
  const [hidden]: { id: string }[] = await store.database.query(`SELECT id FROM ${HIDDEN} AS hidden`);
  const hiddenPlaces = [Number(hidden?.id)];
  for (const tops of [false, true]) {
    const ask = { of: Number(item), lens, levels: 1, what: tops ? ('tops' as const) : ('used' as const) };
    const index = store.server.app.get(StructureIndex);
    const whole = await inOrder(await index.fromDatabase(ask));
    for (const server of [store, second]) {
      const page = await server.server.app
        .get(StructureIndex)
        .askPage(item, lens, { tops, hiddenPlaces, limit: 2, offset: 1 });
      expect([...(page ?? fail()).versions]).toEqual(whole.slice(1, 3));
      expect(page?.counts[0]).toBe(whole.length);
    }
  }
}

describe('the structure index of a server', () => {
  it('says what recursive SQL says, under every lens, after whatever was written', async () => {
    let run = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(deed, { minLength: 4, maxLength: 16 }), async (deeds) => {
        const writer = new Writer(`R${++run}`);
        await writer.open();
        for (const [at, each] of deeds.entries()) {
          await writer.carryOut(each);
          if (at % 5 !== 4 && at !== deeds.length - 1) continue;
          for (const item of writer.items) {
            for (const lens of LENSES) {
              const ask = { what: 'used' as const, of: Number(item), lens, levels: Infinity };
              const expected = await byRecursiveSql(item, lens);
              const host = store.server.app.get(LinkIndexHost);
              const other = second.server.app.get(LinkIndexHost);
              expect(summary((await host.ask(ask)) ?? fail())).toEqual(expected);
              expect(summary((await other.ask(ask)) ?? fail())).toEqual(expected);
              expect(summary(await store.server.app.get(StructureIndex).fromDatabase(ask))).toEqual(expected);
              await expectPages(item, lens);
            }
          }
          const behind = { what: 'behind' as const, of: 0, lens: { kind: 'newest' } as const, levels: 1 };
          const index = store.server.app.get(StructureIndex);
          expect([...(await index.ask(behind)).items].sort()).toEqual(
            [...(await index.fromDatabase(behind)).items].sort(),
          );
        }
      }),
      { numRuns: 8 },
    );
  });

  it('answers every kind of question from memory, with the configurations of links', async () => {
    const host = store.server.app.get(LinkIndexHost);
    const writer = new Writer('K');
    await writer.open();
    await writer.carryOut({ kind: 'check in', item: 1, revision: 'A', uses: [] });
    const uses = [{ by: 1, quantity: 2, isGap: false, configurations: ['hot'] }];
    await writer.carryOut({ kind: 'check in', item: 0, revision: 'A', uses });
    const [top]: { id: string }[] = await store.database.query(
      'SELECT newest_version_id AS id FROM item WHERE id = $1',
      [writer.items[0]],
    );
    const lens: Lens = { kind: 'newest' };
    const item = Number(writer.items[1]);
    for (const what of ['used', 'users', 'tops', 'page', 'behind', 'common'] as const)
      expect(await host.ask({ what, of: item, lens, levels: Infinity }), what).toBeDefined();
    for (const what of ['made', 'above', 'unused'] as const)
      expect(await host.ask({ what, of: Number(top?.id), lens, levels: Infinity }), what).toBeDefined();
    const below = await host.ask({ what: 'below', of: Number(top?.id), lens, levels: Infinity });
    expect([...(below?.configurations ?? [])]).toEqual([[0, ['hot']]]);
  });

  it('comes back with everything after its thread has ended', async () => {
    const host = store.server.app.get(LinkIndexHost);
    const writer = new Writer('B');
    await writer.open();
    await writer.carryOut({ kind: 'check in', item: 1, revision: 'A', uses: [] });
    await host.restart();
    await writer.carryOut({
      kind: 'check in',
      revision: 'A',
      item: 0,
      uses: [{ by: 1, quantity: 2, isGap: false, configurations: [] }],
    });
    const ask = {
      what: 'used' as const,
      of: Number(writer.items[1]),
      lens: { kind: 'newest' } as const,
      levels: 1,
    };
    // While it loads, SQL answers.
    expect([...(await store.server.app.get(StructureIndex).ask(ask)).totals]).toEqual([2]);
    await host.ready();
    expect([...((await host.ask(ask)) ?? fail()).totals]).toEqual([2]);
  });

  it('is not waited for where its thread ends while somebody is about to ask it', async () => {
    const slow = {
      async query(sql: string) {
        const rows: unknown = await store.database.query(sql);
        await host.restart();
        return rows;
      },
    } as DataSource;
    const host = new LinkIndexHost(store.databaseUrl, slow);
    host.onApplicationBootstrap();
    await host.ready();
    const lens: Lens = { kind: 'newest' };
    expect(await host.ask({ what: 'used', of: 1, lens, levels: 1 })).toBeUndefined();
    await host.onModuleDestroy();
  });
});

function fail(): never {
  throw new Error('the index did not answer');
}
