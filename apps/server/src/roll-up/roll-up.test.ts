/** What assemblies weigh, kept beside them: against a walk through what the files were made of. */
import type { FindAnswer, ItemView, VerifyAnswer } from '@stem-trace/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore, type Files } from '../testing/test-store.js';
import { RollUpsService } from './roll-ups.service.js';
import type { RollUpNode } from './load.js';
import { sumUp } from './sum-up.js';

let store: TestStore;
let administrator: Readonly<Record<string, string>>;
beforeAll(async () => {
  store = await TestStore.open();
  administrator = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  const mass = { name: 'mass', kind: 'number', unit: 'kg', choices: [] };
  await store.call('PUT', '/api/properties/definition', mass, administrator);
});
afterAll(() => store.close());

const catchUp = (): Promise<void> => store.server.app.get(RollUpsService).catchUp();

async function find(words: string, more = '', headers = {}): Promise<FindAnswer> {
  const answer = await store.call(
    'GET',
    `/api/items?words=${encodeURIComponent(words)}&columns=mass${more}`,
    undefined,
    headers,
  );
  return (await answer.json()) as FindAnswer;
}

async function masses(words: string, headers = {}): Promise<Record<string, string | undefined>> {
  const { rows } = await find(words, '', headers);
  return Object.fromEntries(rows.map(({ number, properties }) => [number, properties.mass]));
}

async function weigh(item: string, mass: string): Promise<void> {
  await store.json('POST', '/api/holds', { items: [item], reason: '' });
  await store.json('POST', '/api/items/properties', { items: [item], set: { mass }, comment: '' });
  await store.call('POST', '/api/holds/let-go', { items: [item] }).catch(() => undefined);
}

/** An assembly of two tubes and a lid, within another one. */
function pump(prefix: string): Files {
  const one = (id: string, uses: Parameters<typeof stepFile>[0]['uses'] = []): [string, Uint8Array] => [
    `${prefix}${id}.stp`,
    stepFile({ id: prefix + id, uses }),
  ];
  const use = (id: string, count = 1): { id: string; locator: string; count: number } => ({
    id: prefix + id,
    locator: `${prefix}${id}.stp`,
    count,
  });
  return new Map([
    one('TUBE'),
    one('LID'),
    one('BODY', [use('TUBE', 2), use('LID')]),
    one('PUMP', [use('BODY', 3)]),
  ]);
}

it('is what its parts weigh, with what nobody knows, and follows them', async () => {
  await store.intake(pump('A-'), { place: '/pumps' });
  await weigh('A-TUBE', '500 g');
  await catchUp();
  expect(await masses('A-')).toEqual({
    'A-TUBE': '500 g',
    'A-LID': undefined,
    'A-BODY': '≥ 1 kg, 1 of 2 unknown',
    'A-PUMP': '≥ 3 kg, 1 of 2 unknown',
  });
  await weigh('A-LID', '0.25 kg');
  await weigh('A-PUMP', '99 kg');
  await catchUp();
  expect(await masses('A-')).toMatchObject({ 'A-BODY': '1.25 kg', 'A-PUMP': '3.75 kg' });
  // Beside what its own file says.
  expect(await store.json<ItemView>('GET', '/api/item?item=A-PUMP')).toMatchObject({
    sums: [{ name: 'mass', shown: '3.75 kg' }],
    properties: [{ name: 'mass', value: 99 }],
  });
});

it('is filtered by and sorted by', async () => {
  const found = async (words: string): Promise<string[]> =>
    (await find(words, '&sort=property:mass&order=down')).rows.map(({ number }) => number);
  expect(await found('A-')).toEqual(['A-PUMP', 'A-BODY', 'A-TUBE', 'A-LID']);
  expect(await found('mass > 1 kg')).toEqual(['A-PUMP', 'A-BODY']);
  expect(await found('mass = 1250 g')).toEqual(['A-BODY']);
});

it('comes along with copies, and is right there too', async () => {
  await store.derive({ item: 'A-PUMP', copy: 'all', prefix: 'V-', place: '/pumps/variants' });
  await weigh('V-A-TUBE', '1 kg');
  await catchUp();
  // The lid was copied as the assembly had recorded it: before anybody had weighed it.
  expect(await masses('V-A-')).toMatchObject({
    'V-A-LID': undefined,
    'V-A-BODY': '≥ 2 kg, 1 of 2 unknown',
  });
  expect(await masses('number = A-*')).toMatchObject({ 'A-PUMP': '3.75 kg' });
});

it('tells nobody what something hidden weighs', async () => {
  await store.intake(pump('S-'), { place: '/open' });
  for (const item of ['S-TUBE', 'S-LID']) await weigh(item, '2 kg');
  await store.call('POST', '/api/items/move', { items: ['S-LID'], place: '/secret' });
  await catchUp();
  const access = { place: '/secret', inherits: false, grants: [] };
  await store.call('PUT', '/api/places/access', access, administrator);
  const viewer = { Authorization: `Bearer ${await store.tokenFor('vi', 'viewer')}` };
  expect(await masses('number = S-*', viewer)).toEqual({
    'S-TUBE': '2 kg',
    'S-BODY': undefined,
    'S-PUMP': undefined,
  });
  expect((await find('mass > 1 kg number = S-*', '', viewer)).rows.map(({ number }) => number)).toEqual([
    'S-TUBE',
  ]);
  expect(await masses('number = S-*', administrator)).toMatchObject({ 'S-BODY': '6 kg' });
});

it('agrees with a walk through any structure, whatever is weighed in whatever order', async () => {
  const anyStore = fc.record({
    // Each is made of later ones only.
    uses: fc.array(fc.array(fc.record({ by: fc.integer({ min: 1, max: 4 }), count: fc.integer({ min: 1, max: 3 }) }), { maxLength: 3 }), { minLength: 4, maxLength: 8 }), // prettier-ignore
    weighed: fc.array(fc.record({ at: fc.nat(7), grams: fc.integer({ min: 1, max: 900 }) }), {
      maxLength: 6,
    }),
  });
  let run = 0;
  await fc.assert(
    fc.asyncProperty(anyStore, async ({ uses, weighed }) => {
      const prefix = `R${run++}-`;
      const name = (at: number): string => prefix + at;
      const below = uses.map((lines, at) => {
        const counts = new Map<number, number>();
        for (const { by, count } of lines)
          if (at + by < uses.length) counts.set(at + by, (counts.get(at + by) ?? 0) + count);
        return counts;
      });
      const files = below.map((counts, at): [string, Uint8Array] => [
        `${name(at)}.stp`,
        stepFile({
          id: name(at),
          uses: [...counts].map(([to, count]) => ({ id: name(to), locator: `${name(to)}.stp`, count })),
        }),
      ]);
      await store.intake(new Map(files), { place: '/random' });
      await catchUp();
      const grams = new Map<number, number>();
      for (const { at, grams: mass } of weighed.filter((one) => one.at < uses.length)) {
        await weigh(name(at), `${mass} g`);
        grams.set(at, mass);
      }
      await catchUp();
      const walk = (at: number): { grams: number; unknown: number } => {
        if (below[at]?.size === 0) return { grams: grams.get(at) ?? 0, unknown: grams.has(at) ? 0 : 1 };
        const sums = [...(below[at] ?? [])].map(([to, count]) => ({ ...walk(to), count }));
        return {
          grams: sums.reduce((all, sum) => all + sum.grams * sum.count, 0),
          unknown: sums.reduce((all, sum) => all + sum.unknown, 0),
        };
      };
      const kept: { number: string; value: number; unknown: number }[] = await store.database.query(
        `SELECT i.number, u.value, u.unknown FROM roll_up u JOIN item i ON i.id = u.item_id
         WHERE u.key = 'mass' AND starts_with(i.number, $1)`,
        [prefix],
      );
      expect(new Map(kept.map((row) => [row.number, [Math.round(row.value * 1000), row.unknown]]))).toEqual(
        new Map(
          uses.flatMap((_, at) => {
            const sum = walk(at);
            return below[at]?.size === 0 ? [] : [[name(at), [sum.grams, sum.unknown]] as const];
          }),
        ),
      );
    }),
    { numRuns: 6 },
  );
  const verified = (await (
    await store.call('GET', '/api/verify', undefined, administrator)
  ).json()) as VerifyAnswer;
  expect(verified).toMatchObject({ whole: true, faults: [] });
});

it('is one sum for an item of which a version came in while it was read', () => {
  const node = (version: string): RollUpNode => ({
    ...{ version, item: '7', place: '1', isPaper: false, isNewest: true, properties: [], places: [] },
  });
  const sums = sumUp({
    ...{ wanted: new Set(['7']), links: [], properties: [] },
    nodes: new Map(['1', '2'].map((version) => [version, node(version)])),
  });
  expect(sums.map(({ item }) => item)).toEqual(['7']);
});

it('is found out by the check of the store where it is wrong', async () => {
  await store.database.query(
    `UPDATE roll_up SET value = value + 1 WHERE key = 'mass' AND item_id = (SELECT id FROM item WHERE number = 'A-BODY')`,
  );
  const verified = (await (
    await store.call('GET', '/api/verify', undefined, administrator)
  ).json()) as VerifyAnswer;
  expect(verified.whole).toBe(false);
  expect(verified.faults.join('\n')).toMatch(
    /^A-BODY: violates: an assembly weighs and costs what it is made of/,
  );
});

it('goes on where somebody writes the same property at the same moment', async () => {
  await store.intake(pump('RACE-'), { place: '/race' });
  await weigh('RACE-LID', '3 kg');
  await catchUp();
  // Made anew while another writer has put in the row that it is about to put in, and not yet said so.
  await store.database.query(
    `INSERT INTO roll_up_due (item_id) SELECT id FROM item WHERE number = 'RACE-LID'`,
  );
  await store.database.query(
    `DELETE FROM item_property WHERE key = 'mass' AND item_id = (SELECT id FROM item WHERE number = 'RACE-LID')`,
  );
  const writer = store.database.createQueryRunner();
  await writer.startTransaction();
  await writer.query(
    `INSERT INTO item_property (item_id, key, said, shown) SELECT id, 'mass', 'unsaid', 'unsaid' FROM item WHERE number = 'RACE-LID'`,
  );
  const caughtUp = catchUp();
  const isWaiting = async (): Promise<boolean> => {
    const [{ count }] = (await store.database.query(
      `SELECT count(*)::int AS count FROM pg_locks WHERE NOT granted AND locktype = 'transactionid'`,
    )) as [{ count: number }];
    return count > 0;
  };
  await vi.waitUntil(isWaiting, { timeout: 10_000 });
  await writer.commitTransaction();
  await writer.release();
  await caughtUp;
  expect((await masses('RACE-LID'))['RACE-LID']).toBe('3 kg');
});
