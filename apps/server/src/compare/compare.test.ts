/** Comparing, against differences that are worked out here from what the structures were made of. */
import type { CompareAnswer } from '@stem-trace/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const compare = (from: string, to: string, query = ''): Promise<CompareAnswer> =>
  store.json('GET', `/api/compare?from=${encodeURIComponent(from)}&to=${encodeURIComponent(to)}${query}`);

/** How many of each part an assembly has, over two levels: groups, and parts in them. */
type Recipe = readonly {
  readonly group: number;
  readonly count: number;
  readonly parts: readonly number[];
}[];

const recipe: fc.Arbitrary<Recipe> = fc.uniqueArray(
  fc.record({
    group: fc.integer({ min: 0, max: 4 }),
    count: fc.integer({ min: 1, max: 3 }),
    parts: fc.uniqueArray(fc.integer({ min: 0, max: 5 }), { minLength: 1, maxLength: 4 }),
  }),
  { minLength: 1, maxLength: 4, selector: ({ group }) => group },
);

let made = 0;

/** Brings a product in, all of it in one file. @returns its number */
async function bringIn(of: Recipe): Promise<string> {
  const run = made++;
  const id = `P${run}`;
  const file = stepFile({
    id,
    uses: of.map(({ group, count, parts }) => ({
      id: `G${run}-${group}`,
      count,
      uses: parts.map((part) => ({ id: `T${run}-${part}`, count: part + 1 })),
    })),
  });
  await store.intake(new Map([[`${id}.stp`, file]]), { place: `/compared/${id}` });
  return id;
}

function totalsOf(of: Recipe): Map<number, number> {
  const totals = new Map<number, number>();
  for (const { count, parts } of of)
    for (const part of parts) totals.set(part, (totals.get(part) ?? 0) + count * (part + 1));
  return totals;
}

it('counts lines and pieces as the files have them, whatever they are made of', async () => {
  await fc.assert(
    fc.asyncProperty(recipe, async (of) => {
      const id = await bringIn(of);
      const { counts, rows } = await compare(id, id, '&net=true');
      expect({ ...counts, same: 0 }).toEqual({
        ...{ added: 0, removed: 0, changed: 0, replaced: 0, moved: 0, same: 0 },
      });
      const found = new Map(
        rows.flatMap(({ number, after }) => {
          const part = /^T\d+-(\d)$/.exec(number)?.[1];
          return part === undefined ? [] : [[Number(part), Number(after?.amount ?? NaN)] as const];
        }),
      );
      expect(found).toEqual(totalsOf(of));
    }),
    { numRuns: 8 },
  );
});

it('says the same from the other side, with added and removed in each other’s place', async () => {
  await fc.assert(
    fc.asyncProperty(recipe, recipe, fc.boolean(), async (one, other, net) => {
      const [from, to] = [await bringIn(one), await bringIn(other)];
      const query = net ? '&net=true' : '';
      const there = await compare(from, to, query);
      const back = await compare(to, from, query);
      expect(back.counts).toEqual({
        ...there.counts,
        added: there.counts.removed,
        removed: there.counts.added,
      });
      expect(there.sentence).toContain(from);
      expect(there.sentence).toContain(to);
    }),
    { numRuns: 8 },
  );
});

it('tells versions of one item apart: more of it, a newer one, another one, one less', async () => {
  const file = (uses: Parameters<typeof stepFile>[0]['uses']): Uint8Array =>
    stepFile({ id: 'V', uses: uses ?? [] });
  const put = async (bytes: Uint8Array): Promise<void> => {
    await store.json('POST', '/api/holds', { items: ['V'], reason: '' }).catch(() => undefined);
    await store.intake(new Map([['v.stp', bytes]]), { place: '/versions' });
  };
  await put(file([{ id: 'V-NUT', count: 2 }, { id: 'V-CAP' }, { id: 'V-ARM' }]));
  await put(file([{ id: 'V-NUT', count: 5 }, { id: 'V-ARM' }, { id: 'V-LID' }]));
  const { rows, counts, from, to } = await compare('V@A/1', 'V@A/2');
  expect([from.version, to.version]).toEqual(['A/1', 'A/2']);
  const byNumber = new Map(rows.map((row) => [row.number, row]));
  expect(byNumber.get('V-NUT')).toMatchObject({
    sign: 'changed',
    differs: { quantity: true },
    before: { amount: '2' },
    after: { amount: '5' },
  });
  // In the same number at the same place, the one stands for the other.
  expect(byNumber.get('V-LID')).toMatchObject({ sign: 'replaced', before: { number: 'V-CAP' } });
  expect(counts).toMatchObject({ replaced: 1, added: 0, removed: 0 });
  await put(file([{ id: 'V-NUT', count: 5 }, { id: 'V-ARM' }]));
  expect((await compare('V@A/2', 'V@A/3')).counts).toMatchObject({ removed: 1, added: 0 });
  expect((await compare('V@A/3', 'V@A/2')).counts).toMatchObject({ removed: 0, added: 1 });
  expect((await compare('V@A/2', 'V@A/2')).rows.every(({ sign }) => sign === 'same')).toBe(true);
});

it('says what is not there, and which side it was', async () => {
  await expect(compare('NOT-THERE', 'V')).rejects.toThrow(/NOT-THERE/);
  await expect(compare('V', 'V@Z/9')).rejects.toMatchObject({ status: 404 });
});
