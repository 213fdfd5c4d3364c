/** Lifecycles that are not the one that ships: names that nobody knew, for what they are meant, changed while items are under way. */
import type {
  ItemView,
  LifecycleDraft,
  LifecycleRow,
  LifecyclesAnswer,
  MoveOnAnswer,
  OfferedStep,
  Role,
  StepAnswer,
  StructureAnswer,
  AlignAnswer,
  DeliveryRow,
  WebhookMade,
} from '@stem-trace/contract';
import {
  LIFECYCLE_ROLES,
  sayValue,
  SHIPPED,
  type Diagram,
  type DiagramState,
  type DiagramStep,
} from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';

const state = (name: string, lane: DiagramState['lane'], isReleased = false): DiagramState => ({
  name,
  lane,
  isReleased,
  glyph: 'diamond',
});

const step = (name: string, from: string[], to: string, roles: Role[], more = {}): DiagramStep => ({
  ...{ name, done: `${name}: …`, from, to, who: roles.map((role) => ({ kind: 'role', role }) as const) },
  ...{ notByAuthors: false, asksReason: false, isOverUnreleased: false, then: [], ...more },
});

/** Not one name of the lifecycle that ships. */
const KILN: Diagram = {
  name: 'Kiln',
  first: 'wet',
  states: [
    state('wet', 'open'),
    state('leather', 'open'),
    state('drying', 'under check'),
    state('fired', 'locked', true),
    state('shelved', 'locked', true),
    state('shards', 'out of use'),
  ],
  steps: [
    step('set down', ['wet'], 'leather', ['engineer']),
    step('rack', ['wet', 'leather'], 'drying', ['engineer', 'planner']),
    step('soak', ['drying'], 'wet', ['checker'], { asksReason: true }),
    step('fire', ['drying'], 'fired', ['checker'], {
      notByAuthors: true,
      then: [{ kind: 'supersede', to: 'shelved' }],
    }),
    step('smash', ['wet', 'fired'], 'shards', ['administrator'], { asksReason: true }),
  ],
};

let store: TestStore;
const tokens = new Map<Role, string>();
let kiln: LifecycleRow;
beforeAll(async () => {
  store = await TestStore.open();
  for (const role of LIFECYCLE_ROLES) tokens.set(role, await store.tokenFor(`k-${role}`, role));
  await store.call('POST', '/api/places', { path: '/kiln' });
  kiln = await save({ diagram: KILN, scopes: [{ kind: null, class: null, place: '/kiln' }] });
});
afterAll(() => store.close());

async function as<T>(role: Role, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(role)}` });
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

function save(draft: Partial<LifecycleDraft>): Promise<LifecycleRow> {
  return as('administrator', 'POST', '/api/lifecycles', { id: '', scopes: [], comment: '', ...draft });
}

let made = 0;
async function newItem(place: string, uses: readonly string[] = []): Promise<string> {
  const id = `K${++made}`;
  const named = uses.map((number) => ({ id: number, locator: `${number}.stp` }));
  await store.intake(new Map([[`${id}.stp`, stepFile({ id, uses: named })]]), { place });
  return id;
}

async function newItems(place: string, count: number): Promise<string[]> {
  const ids = Array.from({ length: count }, () => `K${++made}`);
  await store.intake(new Map(ids.map((id) => [`${id}.stp`, stepFile({ id })])), { place });
  return ids;
}

const take = (role: Role, item: string, name: string, more = {}): Promise<StepAnswer> =>
  as(role, 'POST', '/api/steps', { items: [item], step: name, reason: 'because', ...more });
const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);
const stateOf = async (item: string): Promise<string> => (await view(item)).state;

describe('a lifecycle with names of its own', () => {
  it('leads from the first version to what replaces it, and every part of the product goes by what is locked', async () => {
    const part = await newItem('/kiln');
    const whole = await newItem('/kiln', [part]);
    expect(await stateOf(part)).toBe('wet');
    await take('engineer', part, 'set down');
    // Open is open, whatever it is called.
    const held = await as<StepAnswer>('engineer', 'POST', '/api/holds', { items: [part], reason: 'x' });
    expect(held.done).toHaveLength(1);
    await as('engineer', 'POST', '/api/holds/let-go', { items: [part] });
    await take('engineer', part, 'rack');
    await expect(store.json('POST', '/api/holds', { items: [part], reason: 'x' })).resolves.toMatchObject({
      refused: [{ number: part, reason: 'it is drying; it can be changed again when it is sent back' }],
    });
    expect(
      (await as<{ number: string }[]>('checker', 'GET', '/api/checks')).map(({ number }) => number),
    ).toContain(part);
    await take('engineer', whole, 'rack');
    await expect(take('checker', whole, 'fire')).rejects.toThrow(/uses K\d+ A\/1, which is not released/);
    await take('checker', part, 'fire');
    await take('checker', whole, 'fire');
    const released = await store.json<StructureAnswer>('GET', `/api/made?item=${whole}&lens=released`);
    expect(released.rows[0]).toMatchObject({ number: part, version: 'A/1', state: 'fired' });
    const found = await store.json<{ total: number }>(
      'GET',
      `/api/items?words=${encodeURIComponent('state = fired')}`,
    );
    expect(found.total).toBe(2);
    await as('engineer', 'POST', '/api/revise', { items: [part], reason: 'again' });
    await as('engineer', 'POST', '/api/holds/let-go', { items: [part] });
    expect(await stateOf(part)).toBe('wet');
    await take('engineer', part, 'rack');
    await take('checker', part, 'fire');
    expect((await view(part)).versions.map(({ version, state: own }) => `${version} ${own}`)).toEqual([
      'B/1 fired',
      'A/1 shelved',
    ]);
    await take('administrator', part, 'smash');
    expect((await view(part)).steps).toEqual([]);
  });

  it('sets properties of the revision, opens the next one, and tells a program by its name', async () => {
    const { rows } = await as<WebhookMade>('administrator', 'POST', '/api/webhooks', {
      ...{ name: 'Stock', address: 'http://127.0.0.1:9/', kinds: [] },
    });
    const firing = (then: DiagramStep['then']): Diagram => ({
      ...{ ...KILN, name: 'Raku' },
      steps: KILN.steps.map((each) =>
        each.name === 'fire' ? { ...each, then: [...each.then, ...then] } : each,
      ),
    });
    await expect(save({ diagram: firing([{ kind: 'webhook', name: 'Nobody' }]) })).rejects.toThrow(
      /fire: there is no program called Nobody/,
    );
    const diagram = firing([
      { kind: 'set', property: 'Fired by', to: 'person', text: '' },
      { kind: 'set', property: 'Fired on', to: 'day', text: '' },
      { kind: 'set', property: 'Glaze', to: 'text', text: 'Celadon' },
      { kind: 'revise' },
      { kind: 'webhook', name: 'Stock' },
    ]);
    await as('administrator', 'POST', '/api/places', { path: '/raku' });
    await save({ diagram, scopes: [{ kind: null, class: null, place: '/raku' }] });
    const part = await newItem('/raku');
    await take('engineer', part, 'rack');
    await take('checker', part, 'fire');
    const now = await view(part);
    expect(now.versions.map(({ version, state: own, author }) => [version, own, author])).toEqual([
      ['B/1', 'wet', 'ada'],
      ['A/1', 'fired', 'ada'],
    ]);
    expect(now.properties.map(({ name }) => name)).not.toContain('Glaze');
    const fired = await view(`${part}@A/1`);
    expect(Object.fromEntries(fired.properties.map((each) => [each.name, sayValue(each)]))).toMatchObject({
      ...{ 'Fired by': 'k-checker', 'Fired on': new Date().toISOString().slice(0, 10) },
      Glaze: 'Celadon',
    });
    // Nobody holds it, and whoever checked it has made nothing of the new revision.
    expect(now.heldBy).toBeNull();
    const told = await as<DeliveryRow[]>('administrator', 'GET', `/api/webhooks/${rows[0]?.id}/log`);
    expect(told).toHaveLength(1);
  });

  it('is found by what a step set of it', async () => {
    const diagram = {
      ...{ ...KILN, name: 'Stoneware' },
      steps: KILN.steps.map((each) =>
        each.name === 'fire'
          ? {
              ...each,
              then: [...each.then, { kind: 'set', property: 'Cone', to: 'text', text: '10' } as const],
            }
          : each,
      ),
    };
    await as('administrator', 'POST', '/api/places', { path: '/stoneware' });
    await save({ diagram, scopes: [{ kind: null, class: null, place: '/stoneware' }] });
    const part = await newItem('/stoneware');
    await take('engineer', part, 'rack');
    await take('checker', part, 'fire');
    const words = encodeURIComponent('Cone = 10');
    const { rows } = await store.json<{ rows: { number: string }[] }>('GET', `/api/items?words=${words}`);
    expect(rows.map(({ number }) => number)).toEqual([part]);
    expect((await store.made(part)).item).toMatchObject({ number: part, state: 'fired' });
  });

  it('offers, and takes, exactly the steps that its diagram gives to a role', async () => {
    // Worked out here once more, without anything of the server or the core.
    const way: Readonly<Record<string, readonly [Role, string][]>> = {
      wet: [],
      leather: [['engineer', 'set down']],
      drying: [['engineer', 'rack']],
      fired: [
        ['engineer', 'rack'],
        ['checker', 'fire'],
      ],
      shards: [['administrator', 'smash']],
    };
    for (const [from, before] of Object.entries(way)) {
      const items = await newItems('/kiln', LIFECYCLE_ROLES.length * KILN.steps.length);
      for (const [by, each] of before)
        await as(by, 'POST', '/api/steps', { items, step: each, reason: 'because' });
      for (const role of LIFECYCLE_ROLES)
        for (const { name, from: states, who } of KILN.steps) {
          const item = items.pop() ?? '';
          const may =
            states.includes(from) &&
            who.some((each) => each.kind === 'role' && each.role === role) &&
            // What a planner may do by itself does not include changing, whatever the diagram says.
            role !== 'planner';
          const offered = await as<OfferedStep[]>('engineer', 'POST', '/api/steps/offered', {
            items: [item],
          });
          if (role === 'engineer')
            expect([from, name, offered.some((each) => each.name === name)]).toEqual([from, name, may]);
          const done = await take(role, item, name).then(
            () => true,
            (error: unknown) => {
              if (error instanceof Refused) return false;
              throw error;
            },
          );
          expect([from, role, name, done]).toEqual([from, role, name, may]);
        }
    }
  });
});

describe('which lifecycle an item goes by', () => {
  it('is told by class before kind, and by kind before place', async () => {
    const simple = (name: string, first: string): Diagram => ({
      ...{ name, first, states: [state(first, 'open'), state(`${first} done`, 'locked', true)] },
      steps: [step(`end ${first}`, [first], `${first} done`, ['checker'])],
    });
    await as('administrator', 'PUT', '/api/properties/class', { name: 'Glaze', properties: [] });
    await save({
      diagram: simple('Drawings', 'sketched'),
      scopes: [{ kind: 'document', class: null, place: null }],
    });
    await save({ diagram: simple('Glazes', 'mixed'), scopes: [{ kind: null, class: 'glaze', place: null }] });
    await store.call('POST', '/api/places', { path: '/kiln/deep' });
    await save({
      diagram: simple('Deep', 'sunk'),
      scopes: [{ kind: null, class: null, place: '/kiln/deep' }],
    });
    const item = await newItem('/kiln/deep');
    expect(await stateOf(item)).toBe('sunk');
    // Before its first step it follows what it becomes.
    await as('engineer', 'POST', '/api/items/move', { items: [item], place: '/kiln' });
    expect(await stateOf(item)).toBe('wet');
    await as('engineer', 'POST', '/api/holds', { items: [item], reason: 'x' });
    await as('engineer', 'POST', '/api/items/properties', { items: [item], set: {}, class: 'Glaze' });
    expect(await stateOf(item)).toBe('mixed');
    const paper = `K${++made}`;
    await store.intake(new Map([[`${paper}.txt`, new TextEncoder().encode('How to fire')]]), {
      place: '/kiln',
    });
    expect(await stateOf(paper)).toBe('sketched');
    expect(await stateOf(await newItem('/elsewhere'))).toBe(SHIPPED.first);
  });

  it.each<[string, (draft: LifecycleDraft) => Partial<LifecycleDraft>, RegExp]>([
    [
      'what another is meant for',
      () => ({ id: '', diagram: { ...SHIPPED, name: 'Twin' } }),
      /Kiln is meant for that/,
    ],
    [
      'a place that is none',
      () => ({ scopes: [{ kind: null, class: null, place: '/nowhere' }] }),
      /no place \/nowhere/,
    ],
    [
      'a class that is none',
      () => ({ scopes: [{ kind: null, class: 'Nothing', place: null }] }),
      /no class Nothing/,
    ],
    [
      'another lifecycle’s name',
      ({ diagram }) => ({ diagram: { ...diagram, name: 'items' } }),
      /Another lifecycle is called Items/,
    ],
    [
      'a state that means something else elsewhere',
      ({ diagram }) => ({ diagram: { ...diagram, states: [...diagram.states, state('draft', 'locked')] } }),
      /draft: a state of this name is open/,
    ],
    [
      'somebody who is not there',
      ({ diagram }) => ({
        diagram: {
          ...diagram,
          steps: [
            ...diagram.steps,
            step('lift', ['wet'], 'drying', [], { who: [{ kind: 'person', id: 'nobody', name: 'No Body' }] }),
          ],
        },
      }),
      /No Body cannot sign in here/,
    ],
  ])('is not saved with %s', async (_, change, says) => {
    const { id, diagram, scopes } = kiln;
    const draft = { id, diagram, scopes, comment: '' };
    await expect(save({ ...draft, ...change(draft) })).rejects.toThrow(says);
    const { lifecycles } = await store.json<LifecyclesAnswer>('GET', '/api/lifecycles');
    expect(lifecycles.find((each) => each.id === id)?.version).toBe(1);
  });

  it('is always known: one is meant for everything else', async () => {
    const { lifecycles } = await store.json<LifecyclesAnswer>('GET', '/api/lifecycles');
    const items = lifecycles.find(({ diagram }) => diagram.name === SHIPPED.name);
    await expect(save({ id: items?.id ?? '', diagram: SHIPPED, scopes: [] })).rejects.toThrow(
      /for everything else/,
    );
  });
});

describe('a lifecycle that is changed', () => {
  it('leaves what is under way alone until it is moved on, and says where those go whose state is gone', async () => {
    await store.call('POST', '/api/places', { path: '/loom' });
    const loom: Diagram = {
      ...{ name: 'Loom', first: 'strung' },
      states: [state('strung', 'open'), state('tight', 'under check'), state('woven', 'locked', true)],
      steps: [
        step('tighten', ['strung'], 'tight', ['engineer']),
        step('weave', ['tight'], 'woven', ['checker']),
        step('loosen', ['tight'], 'strung', ['checker']),
      ],
    };
    const first = await save({ diagram: loom, scopes: [{ kind: null, class: null, place: '/loom' }] });
    const [still, checked, done] = [await newItem('/loom'), await newItem('/loom'), await newItem('/loom')];
    for (const item of [checked, done]) await take('engineer', item, 'tighten');
    await take('checker', done, 'weave');
    const next: Diagram = {
      ...loom,
      states: [state('strung', 'open'), state('on the loom', 'under check'), state('woven', 'locked', true)],
      steps: [
        step('mount', ['strung'], 'on the loom', ['engineer']),
        step('weave', ['on the loom'], 'woven', ['checker']),
      ],
    };
    const second = await save({ id: first.id, diagram: next, scopes: first.scopes, comment: 'Fewer words' });
    expect([second.version, second.standing.map(({ version }) => version)]).toEqual([2, [1, 1, 1]]);
    expect((await view(still)).steps.map(({ name }) => name)).toEqual(['tighten']);
    expect(await stateOf(await newItem('/loom'))).toBe('strung');
    const preview = (moves: readonly object[]): Promise<MoveOnAnswer> =>
      as('administrator', 'POST', '/api/lifecycles/move-on/preview', { id: first.id, moves });
    const plain = await preview([]);
    expect(plain.rows.map(({ from, to, count }) => `${count} ${from} → ${to}`)).toEqual([
      '1 strung → strung',
      '1 tight → tight',
      '1 woven → woven',
    ]);
    expect(plain.wrong).toEqual(['One revision is tight, which is there no more. Say where they go.']);
    expect((await preview([{ from: 'tight', to: 'woven' }])).wrong[0]).toMatch(/something else is locked/);
    await expect(
      as('administrator', 'POST', '/api/lifecycles/move-on', { id: first.id, moves: [] }),
    ).rejects.toThrow(/Nothing was moved/);
    await as('administrator', 'POST', '/api/lifecycles/move-on', {
      ...{ id: first.id, moves: [{ from: 'tight', to: 'on the loom' }] },
    });
    expect([await stateOf(still), await stateOf(checked), await stateOf(done)]).toEqual([
      ...['strung', 'on the loom', 'woven'],
    ]);
    await take('checker', checked, 'weave');
    const versions = await store.json<{ version: number; comment: string; diagram: Diagram }[]>(
      'GET',
      `/api/lifecycles/${first.id}/versions`,
    );
    expect(versions.map(({ version, comment }) => [version, comment])).toEqual([
      [2, 'Fewer words'],
      [1, ''],
    ]);
    // What was taken out as a file comes in again.
    expect(
      (await save({ diagram: { ...(versions[1]?.diagram ?? loom), name: 'Loom again' } })).diagram.states,
    ).toEqual(loom.states);
  });

  it('is meant for recipes apart from other documents, wherever both could be meant', async () => {
    await store.call('POST', '/api/places', { path: '/recipes' });
    const papers = { ...KILN, name: 'Papers' };
    await save({ diagram: papers, scopes: [{ kind: 'document', class: null, place: '/recipes' }] });
    const kitchen: Diagram = {
      ...KILN,
      name: 'Kitchen',
      first: 'raw',
      states: [state('raw', 'open'), state('tasted', 'under check'), state('served', 'locked', true)],
      steps: [
        step('taste', ['raw'], 'tasted', ['engineer']),
        step('serve', ['tasted'], 'served', ['checker']),
      ],
    };
    await save({ diagram: kitchen, scopes: [{ kind: 'recipe', class: null, place: null }] });
    const item = await newItem('/recipes', []);
    const whole = await newItem('/recipes', [item]);
    await as('engineer', 'POST', '/api/recipes', {
      ...{ item: whole, number: 'SOUP', name: 'Soup', place: '/recipes' },
    });
    await store.intake(new Map([['note.txt', new TextEncoder().encode('Boil it')]]), { place: '/recipes' });
    expect([await stateOf('SOUP'), await stateOf('note')]).toEqual(['raw', 'wet']);
  });

  it('says how revisions are called that are opened under it, one after another and when they are aligned', async () => {
    await store.call('POST', '/api/places', { path: '/counted' });
    const counted: Diagram = { ...KILN, name: 'Counted', revisions: 'two digits' };
    await save({ diagram: counted, scopes: [{ kind: null, class: null, place: '/counted' }] });
    const item = await newItem('/counted');
    expect((await view(item)).version).toBe('01/1');
    await take('engineer', item, 'rack');
    await take('checker', item, 'fire');
    await as('engineer', 'POST', '/api/revise', { items: [item] });
    expect((await view(item)).version).toBe('02/1');
    // Elsewhere they are called as before.
    expect((await view(await newItem('/loom'))).version).toBe('A/1');
    const aligned = await as<{ rows: readonly { to: string }[]; unchanged: readonly string[] }>(
      ...(['checker', 'POST', '/api/align/preview', { items: [item], start: '05' }] as const),
    );
    expect(aligned.rows.map(({ to }) => to)).toEqual(['05', '06']);
    await expect(as('checker', 'POST', '/api/align/preview', { items: [item], start: 'C' })).rejects.toThrow(
      /begins with 01, 02/,
    );
  });

  it('writes the code of what is opened into the property that says it, and of what is aligned', async () => {
    await as('administrator', 'PUT', '/api/settings/revisions', { scheme: 'letters', property: 'Issue' });
    const part = await newItem('/kiln');
    const says = async (version: string): Promise<string[]> =>
      (await view(`${part}@${version}`)).properties.flatMap((each) =>
        each.name === 'Issue' ? sayValue(each) : [],
      );
    expect(await says('A/1')).toEqual([]);
    await take('engineer', part, 'rack');
    await take('checker', part, 'fire');
    await as('engineer', 'POST', '/api/revise', { items: [part], reason: 'again' });
    expect([await says('A/1'), await says('B/1')]).toEqual([[], ['B']]);
    const issueB = encodeURIComponent('Issue = B');
    const found = await store.json<{ rows: { number: string }[] }>('GET', `/api/items?words=${issueB}`);
    expect(found.rows.map(({ number }) => number)).toContain(part);
    // What the file of before goes on saying does not disagree with what was written.
    await as('checker', 'POST', '/api/align', { items: [part], start: 'C' });
    expect(await says('D/1')).toEqual(['D']);
    const answer = await as<AlignAnswer>('checker', 'POST', '/api/align', {
      items: [part],
      start: '',
      property: 'Issue',
    });
    expect(answer).toMatchObject({ rows: [], disagrees: [] });
    await as('engineer', 'POST', '/api/holds/let-go', { items: [part] });
    await as('administrator', 'PUT', '/api/settings/revisions', { scheme: 'letters', property: '' });
  });

  it('of two who save at once, both are kept, one after the other', async () => {
    const { id, diagram, scopes } = kiln;
    const saved = await Promise.all(
      ['one', 'two', 'three'].map((comment) => save({ id, diagram, scopes, comment })),
    );
    expect(new Set(saved.map(({ id: own }) => own)).size).toBe(1);
    const versions = await store.json<{ version: number }[]>('GET', `/api/lifecycles/${id}/versions`);
    expect(versions.map(({ version }) => version)).toEqual([4, 3, 2, 1]);
  });

  it('never changes a version of it, nor what a state means', async () => {
    const owner = await store.owner();
    await expect(owner.query(`UPDATE lifecycle_version SET diagram = '{}'`)).rejects.toThrow(/never changes/);
    await expect(owner.query(`UPDATE state SET lane = 'open' WHERE name = 'fired'`)).rejects.toThrow(
      /never changes/,
    );
    await expect(owner.query(`DELETE FROM state WHERE name = 'fired'`)).rejects.toThrow(/never changes/);
  });
});
