/** From wishes to variants without hands: planned, made, proved, found again; once for the same wishes, and whole or not at all. */
import type {
  FindAnswer,
  ItemView,
  OrderAnswer,
  RecipeSummary,
  RecipeView,
  VersionMade,
  WishPlan,
  WishSheetRow,
} from '@stem-trace/contract';
import { EMPTY_RECIPE, type Recipe } from '@stem-trace/core/recipes';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { filesOf } from '../testing/random-trees.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open(undefined, { worksInBackground: true });
  await store.intake(
    filesOf({
      names: ['ST-1', 'MAST-1', 'CLAMP-1', 'ARM-120', 'HEAT-1'],
      uses: [
        [0, 1, 1],
        [1, 2, 2],
        [0, 3, 1],
        [0, 4, 1],
      ],
    }),
    { place: '/stations' },
  );
  await store.intake(filesOf({ names: ['ARM-160'], uses: [] }), { place: '/stations/arms/160' });
  await store.intake(filesOf({ names: ['ARM-180'], uses: [] }), { place: '/stations/arms/180' });
});
afterAll(() => store.close());

const RECIPE: Recipe = {
  ...EMPTY_RECIPE,
  of: 'ST-1',
  wishes: [
    {
      name: 'arm',
      label: 'Arm length',
      kind: 'number',
      unit: 'm',
      least: 1,
      most: 2,
      choices: [],
      otherwise: '1.2',
    },
    {
      name: 'heater',
      label: 'Heater',
      kind: 'yes/no',
      unit: '',
      least: null,
      most: null,
      choices: [],
      otherwise: 'yes',
    },
    {
      name: 'clamps',
      label: 'Clamps',
      kind: 'number',
      unit: '',
      least: 0,
      most: 9,
      choices: [],
      otherwise: '2',
    },
    {
      name: 'colour',
      label: 'Colour',
      kind: 'choice',
      unit: '',
      least: null,
      most: null,
      choices: ['grey', 'red'],
      otherwise: 'grey',
    },
  ],
  rules: [
    { name: 'Longer arm', when: 'arm > 1.2 m', then: { do: 'swap', item: 'ARM-120', to: 'ARM-{arm to cm}' } },
    { name: 'No heater', when: 'not heater', then: { do: 'omit', item: 'HEAT-1' } },
    {
      name: 'Clamps',
      when: 'clamps != quantity("CLAMP-1", "MAST-1")',
      then: { do: 'count', item: 'CLAMP-1', in: 'MAST-1', count: 'clamps', step: [0, 0, 100] },
    },
    {
      name: 'Number',
      when: '',
      then: { do: 'number', item: '', pattern: 'ST-{arm to cm}{heater ? "H" : ""}-{clamps}-{colour}' },
    },
    {
      name: 'Paint',
      when: 'colour == "red"',
      then: { do: 'property', item: 'MAST-1', property: 'finish', value: '"RAL " + 3020' },
    },
  ],
  names: [{ kind: 'put', of: 'numbers', at: 'end', text: '-{arm to cm}{heater ? "H" : ""}{clamps}{colour}' }],
  place: '/stations/variants/{arm to cm}-{heater}-{clamps}-{colour}',
  examples: [{ name: 'plain', wishes: {}, rules: ['Number'] }],
};

async function settled(batch: string): Promise<readonly WishSheetRow[]> {
  for (;;) {
    const rows = await store.json<WishSheetRow[]>('GET', `/api/wishes?batch=${batch}`);
    if (
      rows.every(
        // A variant that was known is proved again, as one that was made.
        ({ state, dangling }) => state === 'failed' || (state !== 'waiting' && dangling !== null),
      )
    )
      return rows.toReversed();
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

const plan = (wishes: object): Promise<WishPlan> =>
  store.json('POST', '/api/wishes/plan', { recipe: 'RC-1', wishes });
const order = (...sheets: object[]): Promise<OrderAnswer> =>
  store.json('POST', '/api/wishes', {
    recipe: 'RC-1',
    sheets: sheets.map((wishes, at) => ({ for: `Customer ${at + 1}`, wishes })),
  });

describe('a recipe', () => {
  it('is a document of the store: made, held, checked, saved version by version, and found from its item', async () => {
    const made = await store.json<VersionMade>('POST', '/api/recipes', {
      item: 'ST-1',
      number: 'RC-1',
      name: 'Stations',
    });
    expect(made).toEqual({ number: 'RC-1', version: 'A/1' });
    const saved = await store.json<VersionMade>('PUT', '/api/recipe', {
      item: 'RC-1',
      version: 'A/1',
      recipe: RECIPE,
      comment: 'First rules',
    });
    expect(saved.version).toBe('A/2');
    const view = await store.json<RecipeView>('GET', '/api/recipe?item=RC-1');
    expect([view.recipe, view.problems, view.heldBy?.login]).toEqual([RECIPE, [], 'ada']);
    expect((await store.json<RecipeView>('GET', '/api/recipe?item=RC-1@A/1')).recipe.rules).toEqual([]);
    expect(
      (await store.json<RecipeSummary[]>('GET', '/api/recipes?item=ST-1')).map(({ number, of }) => [
        number,
        of,
      ]),
    ).toEqual([['RC-1', 'ST-1']]);
    await expect(
      store.json('PUT', '/api/recipe', { item: 'RC-1', version: 'A/1', recipe: RECIPE }),
    ).rejects.toThrow(/is at A\/2 by now/);
    await expect(store.json('GET', '/api/recipe?item=ST-1')).rejects.toThrow(
      'ST-1 is no recipe: it is a assembly',
    );
  });

  it('is checked without being kept, and what it cannot mean is refused', async () => {
    const wrong = {
      ...RECIPE,
      rules: [{ name: 'Odd', when: 'arm > 2 kg', then: { do: 'omit', item: 'HEAT-1' } }],
    };
    expect(await store.json('POST', '/api/recipe/check', { recipe: wrong })).toEqual([
      { where: 'rule', name: 'Odd', says: 'the units of what is compared or added do not fit' },
      { where: 'example', name: 'plain', says: 'Odd: the units of what is compared or added do not fit' },
    ]);
    const hostile = { ...RECIPE, rules: [{ name: 'x', when: '', then: { do: 'delete', item: 'ST-1' } }] };
    await expect(store.json('POST', '/api/recipe/check', { recipe: hostile })).rejects.toBeInstanceOf(
      Refused,
    );
  });
});

describe('wishes', () => {
  it('lead to a plan that says which rule did what', async () => {
    const { problems, said, request, preview, wishes, fulfilledBy } = await plan({
      arm: '1600 mm',
      heater: 'no',
      clamps: 4,
    });
    expect([problems, fulfilledBy, wishes.arm]).toEqual([[], null, '1.6 m']);
    expect(said.map(({ rule, says }) => `${rule}: ${says}`)).toEqual([
      'Longer arm: ARM-120 is swapped for ARM-160',
      'No heater: HEAT-1 is left out',
      'Clamps: 4 of CLAMP-1 in MAST-1',
      'Number: the variant gets the number ST-160-4-grey',
    ]);
    expect(request?.swap).toEqual([{ from: 'ARM-120', to: 'ARM-160' }]);
    expect(preview?.ready).toBe(true);
  });

  it('that cannot be fulfilled end in words that name the wish or the rule', async () => {
    expect((await plan({ arm: '5 m' })).problems).toEqual([
      { where: 'wish', name: 'Arm length', says: '5 m is not between 1 and 2 m' },
    ]);
    // There is no such arm in the store.
    const { problems, request } = await plan({ arm: 1.7 });
    expect(request).toBeNull();
    expect(problems).toEqual([
      { where: 'rule', name: 'Longer arm', says: expect.stringContaining('ARM-170') as string },
    ]);
  });

  it('become variants, each proved; one that fails does not stop the others, and the same wishes make one', async () => {
    const { batch } = await order(
      { arm: 1.6, heater: 'no' },
      { arm: 1.7 },
      { 'Arm length': '160 cm', heater: false },
      { arm: 1.8, clamps: 4, colour: 'red' },
      { clamps: 1 },
    );
    const rows = await settled(batch);
    expect([rows[0]?.state, rows[2]?.state].sort()).toEqual(['known', 'made']);
    expect(
      rows.map(({ for: of, state, variant, dangling, leaking }) => [of, state, variant, dangling, leaking]),
    ).toEqual([
      ['Customer 1', expect.stringMatching(/made|known/), 'ST-160-2-grey', 0, 0],
      ['Customer 2', 'failed', null, null, null],
      ['Customer 3', expect.stringMatching(/made|known/), 'ST-160-2-grey', 0, 0],
      ['Customer 4', 'made', 'ST-180H-4-red', 0, 0],
      ['Customer 5', 'made', 'ST-120H-1-grey', 0, 0],
    ]);
    expect(rows[1]?.says).toMatch(/^Rule “Longer arm”: .*ARM-170/);
    expect(rows.find(({ state }) => state === 'made')?.says).toContain('No heater: HEAT-1 is left out');
    expect((await plan({ arm: 1.6, heater: 'no' })).fulfilledBy).toBe('ST-160-2-grey');
    const made = async (number: string): Promise<string[]> =>
      (await store.made(number)).rows.map((row) => `${row.number} ×${row.quantity}`);
    expect(await made('ST-160-2-grey')).toEqual(['MAST-1-1602grey ×1', 'CLAMP-1-1602grey ×2', 'ARM-160 ×1']);
    expect(await made('ST-180H-4-red')).toContain('CLAMP-1-180H4red ×4');
    expect(await made('ST-120H-1-grey')).toContain('CLAMP-1-120H1grey ×1');
  });

  it('of two people at once make one variant, and nobody else takes the keys of wishes', async () => {
    const ben = { Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}` };
    const sheet = { recipe: 'RC-1', sheets: [{ for: 'Both', wishes: { arm: 1.8, clamps: 3 } }] };
    const batches = await Promise.all([
      store.json<OrderAnswer>('POST', '/api/wishes', sheet),
      store
        .call('POST', '/api/wishes', sheet, ben)
        .then(async (response) => (await response.json()) as OrderAnswer),
    ]);
    const rows = (await Promise.all(batches.map(({ batch }) => settled(batch)))).flat();
    expect(rows.map(({ state }) => state).sort()).toEqual(['known', 'made']);
    expect(rows.map(({ variant, dangling }) => [variant, dangling])).toEqual([
      ['ST-180H-3-grey', 0],
      ['ST-180H-3-grey', 0],
    ]);
    await expect(
      store.json('POST', '/api/derive', { item: 'ST-1', copy: 'all', prefix: 'K-', key: 'wish 1' }),
    ).rejects.toMatchObject({ status: 400 });
  });

  it('go on to checking once they are proved, where the recipe says so', async () => {
    const { recipe, version } = await store.json<RecipeView>('GET', '/api/recipe?item=RC-1');
    await store.json('PUT', '/api/recipe', { item: 'RC-1', version, recipe: { ...recipe, sendsOn: true } });
    const [row] = await settled((await order({ arm: 1.6, clamps: 5 })).batch);
    const variant = row?.variant ?? '';
    const state = async (): Promise<string> =>
      (await store.json<ItemView>('GET', `/api/item?item=${variant}`)).state;
    while ((await state()) === 'draft') await new Promise((resolve) => setTimeout(resolve, 50));
    expect(await state()).toBe('in check');
    expect((await store.made(variant)).rows.map(({ number, state: is }) => [number, is])).toContainEqual([
      'MAST-1-160H5grey',
      'in check',
    ]);
    const [sent] = await settled(row?.batch ?? '');
    expect(sent?.says).toMatch(/; sent on to checking$/);
    // The same again is known, and not sent twice.
    const [again] = await settled((await order({ arm: 1.6, clamps: 5 })).batch);
    expect([again?.state, again?.says.includes('checking')]).toEqual(['known', false]);
  });

  it('find the variants that fulfil them', async () => {
    const found = async (words: string): Promise<string[]> =>
      (await store.json<FindAnswer>('GET', `/api/items?words=${encodeURIComponent(words)}`)).rows.map(
        ({ number }) => number,
      );
    expect(await found('arm = 1.6 m')).toEqual(['ST-160-2-grey', 'ST-160H-5-grey']);
    expect(await found('colour = red')).toEqual(['ST-180H-4-red']);
    expect(await found('finish = "RAL 3020"')).toEqual(['MAST-1-180H4red']);
  });
});
