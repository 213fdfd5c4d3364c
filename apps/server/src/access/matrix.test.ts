/**
 * Who may do what: every route of the table, for every role, about an item that one sees, and about items that one does
 * not see in every way there is. What may not be seen answers word for word as what is not there.
 */
import type {
  FindAnswer,
  FindCounts,
  ItemView,
  Role,
  Route,
  RouteFacts,
  SceneLook,
} from '@stem-trace/contract';
import { NOTICE_KINDS, ROUTES } from '@stem-trace/contract';
import { SHIPPED, type Grant, type QueryWords, type Right } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';

const ROLES: readonly Role[] = ['engineer', 'checker', 'planner', 'viewer', 'administrator'];

/** What a role may where nobody said anything else. */
const RIGHTS: Readonly<Record<Role, readonly Right[]>> = {
  engineer: ['see', 'receive', 'fetch', 'change'],
  checker: ['see', 'receive', 'fetch', 'change', 'release'],
  planner: ['see', 'receive', 'fetch'],
  viewer: ['see', 'receive', 'fetch'],
  administrator: ['see', 'receive', 'fetch', 'change', 'release', 'administer'],
};

const LOOK: SceneLook = {
  ...{ lens: 'recorded', hidden: [], selected: [], isGlass: false, sections: [], colouredBy: 'file' },
  ...{ camera: { from: [0, 0, 9], at: [0, 0, 0], up: [0, 1, 0], isParallel: false } },
  ...{ spread: { amount: 0, levels: 1 }, measures: [], note: '' },
};

/** What is sent to each route about an item; null where the route is about none. */
type Sample = (item: string) => { readonly query?: string; readonly body?: unknown };
const about = (item: string): { query: string } => ({ query: `item=${encodeURIComponent(item)}` });
const list = (item: string): { body: unknown } => ({ body: { items: [item] } });

const ABOUT_ITEM: Readonly<Partial<Record<Route, Sample>>> = {
  'GET /api/compare': (item) => ({ query: `from=${item}&to=SEEN` }),
  'GET /api/compare/file': (item) => ({ query: `from=${item}&to=SEEN&format=csv` }),
  'GET /api/compare/three': (item) => ({ query: `one=${item}&other=SEEN&base=SEEN` }),
  'GET /api/changes': about,
  'POST /api/changes': (item) => ({
    body: {
      kind: 'request',
      name: 'Rattles',
      place: '/open',
      contents: { why: 'It rattles', lines: [{ relation: 'shows in', item }] },
    },
  }),
  'GET /api/record': about,
  'GET /api/issued': about,
  'GET /api/issued/file': (item) => ({ query: `item=${encodeURIComponent(item)}&file=999999` }),
  'POST /api/issued/again': (item) => ({ body: { item, file: '999999' } }),
  'GET /api/change': (item) => ({ query: `change=${item}` }),
  'PUT /api/change': (item) => ({
    body: { change: item, version: 'A/1', name: 'x', contents: { why: 'x' } },
  }),
  'POST /api/change/tick': (item) => ({ body: { change: item, task: 'x', done: true } }),
  'POST /api/change/makes': (item) => ({ body: { change: item, items: ['SEEN'] } }),
  'POST /api/change/leaves': (item) => ({ body: { change: item, items: ['SEEN'] } }),
  'POST /api/change/join': (item) => ({ body: { change: item, into: 'SEEN', step: 'join' } }),
  'GET /api/change/redline': (item) => ({ query: `change=${item}` }),
  'GET /api/change/redline/file': (item) => ({ query: `change=${item}&format=xml` }),
  'GET /api/change/map': (item) => ({ query: `change=${item}` }),
  'GET /api/bills': about,
  'POST /api/bills': (item) => ({ body: { item, number: 'M-BILL', name: 'Bill', place: '/open' } }),
  'GET /api/build': (item) => ({ query: `bill=${item}` }),
  'PUT /api/build': (item) => ({
    body: { bill: item, version: 'A/1', columns: [], rows: [], reasons: {}, outputs: [] },
  }),
  'GET /api/build/carry': (item) => ({ query: `bill=${item}` }),
  'POST /api/build/carry': (item) => ({ body: { bill: item, version: 'A/1', to: 'A/1', decisions: {} } }),
  'GET /api/build/check': (item) => ({ query: `bill=${item}` }),
  'GET /api/build/releases': (item) => ({ query: `bill=${item}` }),
  'GET /api/bill': about,
  'POST /api/lists/of': (item) => ({ body: { item } }),
  'GET /api/used/besides': about,
  'GET /api/stem': about,
  'GET /api/family': about,
  'GET /api/bill/file': (item) => ({ query: `item=${item}&format=csv` }),
  'GET /api/bill/finds': about,
  'POST /api/bill/rows': (item) => ({ body: { item, version: 'A/1', rows: [{ position: 0, find: '1' }] } }),
  'PUT /api/effectivity': (item) => ({ body: { item, rows: [{ position: 0, planned: 'from 2026-03-01' }] } }),
  'PUT /api/alternates': (item) => ({ body: { item, other: 'SEEN' } }),
  'POST /api/alternates/approve': (item) => ({ body: { item, other: 'SEEN' } }),
  'POST /api/alternates/remove': (item) => ({ body: { item, other: 'SEEN' } }),
  'GET /api/derive/proposal': about,
  'GET /api/derive/proof': about,
  'POST /api/derive/proof': (item) => ({ body: { item } }),
  'GET /api/derive/proof/rows': about,
  'GET /api/print': about,
  'GET /api/mark-up': about,
  'POST /api/mark-up': (item) => ({
    body: {
      item,
      sheet: 'Model',
      kind: 'box',
      tone: 'note',
      spots: [
        [0, 0],
        [1, 1],
      ],
      words: '',
    },
  }),
  'GET /api/plans': about,
  'PUT /api/plans': (item) => ({ body: { item, name: 'Kept', request: { item } } }),
  'GET /api/carry-over': about,
  'POST /api/carry-over': (item) => ({ body: { item } }),
  'GET /api/recipes': about,
  'POST /api/recipes': (item) => ({ body: { item, number: 'M-RECIPE', name: 'Recipe', place: '/open' } }),
  'GET /api/recipe': about,
  'PUT /api/recipe': (item) => ({
    body: { item, version: 'A/1', recipe: { format: 'stem-trace recipe', formatVersion: 1, of: 'SEEN' } },
  }),
  'POST /api/recipe/check': (item) => ({
    body: { recipe: { format: 'stem-trace recipe', formatVersion: 1, of: item } },
  }),
  'POST /api/wishes/plan': (item) => ({ body: { recipe: item, wishes: {} } }),
  'POST /api/wishes': (item) => ({ body: { recipe: item, sheets: [{ for: '', wishes: {} }] } }),
  'GET /api/wishes': (item) => ({ query: `recipe=${item}` }),
  'GET /api/fetch/joined': about,
  'POST /api/intakes/split': (item) => ({ body: { item } }),
  'GET /api/derive/proof/file': about,
  'GET /api/fetch': about,
  'GET /api/fetch/plan': about,
  'GET /api/file': about,
  'GET /api/text': about,
  'GET /api/like': about,
  'GET /api/like/properties': about,
  'GET /api/item': about,
  'GET /api/scene': about,
  'GET /api/near': (item) => ({ query: `item=${item}&of=0&nodes=1` }),
  'GET /api/overlaps': (item) => ({ query: `item=${item}&nodes=1` }),
  'POST /api/overlaps': (item) => ({ body: { item, nodes: 1 } }),
  'GET /api/scene/traits': about,
  'GET /api/scenes': about,
  'GET /api/document': about,
  'POST /api/scenes': (item) => ({ body: { item, name: 'From above', look: LOOK } }),
  'GET /api/mesh': about,
  'POST /api/meshes': (item) => ({ body: { items: [item] } }),
  'GET /api/net': (item) => ({ query: `item=${item}&side=used&papers=true` }),
  'GET /api/baselines': about,
  'GET /api/configurations': about,
  'GET /api/made': (item) => ({ query: `item=${item}&all=true` }),
  'GET /api/used': (item) => ({ query: `item=${item}&all=true` }),
  'POST /api/effect': list,
  'POST /api/common': (item) => ({ body: { items: [item, 'SEEN'] } }),
  'POST /api/holds': (item) => ({ body: { items: [item], reason: '' } }),
  'POST /api/holds/let-go': list,
  'POST /api/holds/reason': (item) => ({ body: { items: [item], reason: 'x' } }),
  'POST /api/holds/ask': (item) => ({ body: { item } }),
  'POST /api/holds/break': (item) => ({ body: { item, reason: 'x' } }),
  'POST /api/revise': list,
  'POST /api/catch-up': list,
  'POST /api/bring-back': (item) => ({ body: { item: `${item}@A/1` } }),
  'POST /api/derive/preview': (item) => ({ body: { item } }),
  'POST /api/derive/ground': (item) => ({ body: { item } }),
  'POST /api/begin': (item) => ({ body: { item, place: '/open/derived' } }),
  'POST /api/derive': (item) => ({ body: { item, copy: 'all', prefix: 'M-', place: '/open/derived' } }),
  'POST /api/items/belong': (item) => ({ body: { item, model: '' } }),
  'POST /api/items/move': (item) => ({ body: { items: [item], place: '/open' } }),
  'POST /api/items/rename': (item) => ({ body: { item, name: 'Seen' } }),
  'POST /api/items/properties': (item) => ({ body: { items: [item], set: {} } }),
  'POST /api/steps': (item) => ({ body: { items: [item], step: 'ask for check' } }),
  'POST /api/sheets/seen': (item) => ({ body: { sheet: '1', item, shown: '' } }),
  'POST /api/sheets/points': (item) => ({ body: { sheet: '1', item, words: 'x' } }),
  'POST /api/steps/offered': list,
  'POST /api/steps/preview': (item) => ({ body: { items: [item], step: 'ask for check' } }),
  'GET /api/history': (item) => ({ query: `item=${encodeURIComponent(item)}&below=true` }),
  'POST /api/items/along': (item) => ({ body: { items: [item], place: '/open' } }),
  'POST /api/align': list,
  'POST /api/align/preview': list,
  'POST /api/watch': (item) => ({ body: { item, watch: true } }),
};

const LIFECYCLE = { id: '', diagram: { ...SHIPPED, name: 'Another' }, scopes: [], comment: '' };

/** What is sent to the others, so that only access can refuse it. */
const OTHERS: Readonly<Partial<Record<Route, ReturnType<Sample>>>> = {
  'GET /api/session': {},
  'POST /api/tokens': { body: { name: 'x' } },
  'GET /api/entries': {},
  'DELETE /api/entries/:id': {},
  'GET /api/audit': {},
  'GET /api/audit.csv': {},
  'GET /api/holds': {},
  'GET /api/items': { query: 'words=seen' },
  'GET /api/find/words': {},
  'GET /api/find/counts': {},
  'GET /api/find/ranges': { query: 'property=mass' },
  'GET /api/find/table': {},
  'GET /api/plan': { query: 'id=1' },
  'POST /api/mark-up/change': { body: { id: '1', words: 'x' } },
  'GET /api/scenes/one': { query: 'id=1' },
  'PUT /api/scenes': { body: { id: '1', name: 'From below', look: LOOK } },
  'POST /api/scenes/remove': { body: { id: '1' } },
  'POST /api/mark-up/remark': { body: { id: '1', words: 'x' } },
  'POST /api/mark-up/settle': { body: { id: '1', isSettled: true } },
  'POST /api/mark-up/remove': { body: { id: '1' } },
  'POST /api/plans/remove': { body: { id: '1' } },
  'GET /api/saved': {},
  'POST /api/saved': { body: { kind: 'search', name: 'x', address: '/find?words=seen' } },
  'DELETE /api/saved/:id': {},
  'GET /api/intakes': {},
  'POST /api/intakes': { body: { place: '/open' } },
  'POST /api/intakes/archive': { query: 'place=/open', body: new Uint8Array(0) },
  'GET /api/intakes/:id': {},
  'GET /api/bill.xsd': {},
  'GET /api/change.xsd': {},
  'GET /api/build/template': {},
  'GET /api/settings/readiness': {},
  'PUT /api/settings/readiness': { body: { rules: ['account'] } },
  'POST /api/lists': { query: 'name=a.csv', body: new TextEncoder().encode('Part no\nA\n') },
  'GET /api/lists/:id': {},
  'PUT /api/lists/:id': {
    body: {
      mapping: { sheet: '', header: 0, decimal: '.', levels: 'none', columns: { number: 0 }, further: [] },
    },
  },
  'GET /api/column-sets': {},
  'PUT /api/column-sets': { body: { name: 'x', columns: ['find'] } },
  'DELETE /api/column-sets': { query: 'name=x' },
  'GET /api/staged/file': { query: 'id=00000000-0000-4000-8000-000000000000&path=a.stp' },
  'GET /api/staged/mesh': { query: 'id=00000000-0000-4000-8000-000000000000&path=a.stp' },
  'PATCH /api/intakes/:id': { body: { corrections: {} } },
  'PUT /api/intakes/:id/files': { query: 'path=a.stp', body: new Uint8Array(1) },
  'POST /api/intakes/:id/carry-out': { body: {} },
  'POST /api/intakes/:id/cancel': {},
  'POST /api/like': { body: new Uint8Array(1) },
  'GET /api/jobs': {},
  'POST /api/jobs/cancel': { body: { kind: 'proof', id: '00000000-0000-4000-8000-000000000000' } },
  'POST /api/jobs/retry': { body: { kind: 'proof', id: '00000000-0000-4000-8000-000000000000' } },
  'GET /api/notices': {},
  'GET /api/notices/ways': {},
  'PUT /api/notices/ways': {
    body: {
      mail: '',
      ways: Object.fromEntries(NOTICE_KINDS.map((kind) => [kind, 'desk'])),
    },
  },
  'POST /api/notices/read': {},
  'GET /api/checks': {},
  'POST /api/holds/answer': { body: { id: '1', letGo: true } },
  'POST /api/password': { body: { old: 'x', password: 'long enough' } },
  'GET /api/preferences': {},
  'PUT /api/preferences': { body: { theme: 'dark', density: 'usual', dates: 'said', mass: 'kg' } },
  'GET /api/people': {},
  'POST /api/people': { body: { login: 'x' } },
  'PATCH /api/people': { body: { login: 'nobody', name: 'Nobody' } },
  'GET /api/places': {},
  'POST /api/places': { body: { path: '/open/new' } },
  'POST /api/places/move': { body: { from: '/open/nowhere', to: '/open/x' } },
  'GET /api/places/access': { query: 'place=/open' },
  'PUT /api/places/access': { body: { place: '/open', inherits: true, grants: [] } },
  'GET /api/places/papers': { query: 'place=/open' },
  'GET /api/places/bin': {},
  'POST /api/places/bin': { body: { place: '/open/nowhere' } },
  'POST /api/places/restore': { body: { place: '/open/nowhere' } },
  'GET /api/properties': {},
  'PUT /api/properties/definition': { body: { name: 'length', kind: 'number', unit: 'mm' } },
  'PUT /api/properties/class': { body: { name: 'Tube', properties: [] } },
  'GET /api/numbers': {},
  'PUT /api/numbers': { body: { name: 'parts', digits: 4 } },
  'POST /api/numbers/reserve': { body: { scheme: 'parts' } },
  'GET /api/settings/title-block': {},
  'PUT /api/settings/title-block': { body: { rules: [] } },
  'GET /api/settings/zone': {},
  'PUT /api/settings/zone': { body: { zone: 'UTC' } },
  'GET /api/settings/revisions': {},
  'PUT /api/settings/revisions': { body: { scheme: 'letters' } },
  'GET /api/verify': {},
  'GET /api/tasks': {},
  'POST /api/sheets/pass': { body: { sheet: '999999', to: 'nobody', reason: '' } },
  'GET /api/substitute': {},
  'PUT /api/substitute': { body: { substitute: '', from: '', to: '' } },
  'GET /api/issued/from': { query: `sha256=${'0'.repeat(64)}` },
  'GET /api/settings/issued': {},
  'PUT /api/settings/issued': { body: { issued: { part: [], assembly: [], drawing: [], document: [] } } },
  'GET /api/webhooks': {},
  'POST /api/webhooks': { body: { name: 'x', address: 'http://127.0.0.1:1/', kinds: ['access'] } },
  'DELETE /api/webhooks/:id': {},
  'POST /api/webhooks/test': { body: { id: '999999' } },
  'GET /api/webhooks/:id/log': {},
  'GET /api/sheets': {},
  'GET /api/sheets/:id': {},
  'GET /api/record/sheet': { query: 'id=999999' },
  'POST /api/sheets/points/answer': { body: { point: '999999', words: 'x' } },
  'POST /api/sheets/points/close': { body: { point: '999999' } },
  'GET /api/lifecycles': {},
  'GET /api/lifecycles/:id/versions': {},
  'POST /api/lifecycles': { body: LIFECYCLE },
  'POST /api/lifecycles/check': { body: LIFECYCLE },
  'POST /api/lifecycles/move-on': { body: { id: '1', moves: [] } },
  'POST /api/lifecycles/move-on/preview': { body: { id: '1', moves: [] } },
};

/** Streams without an end are tested where they are served. */
const NOT_HERE: readonly Route[] = ['GET /api/feed'];

/** Rights that depend on what is asked for, which the table says in words only. */
const WANTS: Readonly<Partial<Record<Route, Right>>> = {
  'GET /api/derive/proof': 'fetch',
  'POST /api/derive/proof': 'fetch',
  'GET /api/derive/proof/rows': 'fetch',
  'GET /api/fetch/joined': 'fetch',
  'POST /api/intakes/split': 'change',
  'GET /api/derive/proof/file': 'fetch',
  // At the place where the bill or the recipe is put, which is the same here.
  'POST /api/bills': 'change',
  'POST /api/recipes': 'change',
};

const FACTS = Object.entries(ROUTES) as [Route, RouteFacts][];

let store: TestStore;
const tokens = new Map<string, string>();

beforeAll(async () => {
  store = await TestStore.open();
  for (const role of ROLES) tokens.set(role, await store.tokenFor(`m-${role}`, role));
  const set = readExchangeSet('s1_pe_214');
  await store.intake(set, { place: '/secret', prefix: 'H-' });
  await store.intake(new Map([['seen.stp', stepFile({ id: 'SEEN', uses: [{ id: 'IN-SEEN' }] })]]), {
    place: '/open',
  });
  // A product that lives in a hidden file, but lies itself where everybody sees it; and one the other way round.
  await store.intake(new Map([['carrier.stp', stepFile({ id: 'H-CARRIER', uses: [{ id: 'CARRIED' }] })]]), {
    place: '/secret',
  });
  await move(['CARRIED'], '/open');
  await store.intake(new Map([['open.stp', stepFile({ id: 'CARRIES', uses: [{ id: 'H-CARRIED' }] })]]), {
    place: '/open',
  });
  await move(['H-CARRIED'], '/secret');
  await store.intake(new Map([['bin.stp', stepFile({ id: 'H-BINNED' })]]), { place: '/thrown' });
  await store.call('POST', '/api/places/bin', { place: '/thrown' });
  // A place of one's own below one that is shut.
  await store.intake(new Map([['inner.stp', stepFile({ id: 'INNER' })]]), { place: '/secret/inner' });
  await grant('/secret', []);
  await grant(
    '/secret/inner',
    (['engineer', 'checker', 'planner', 'viewer'] as const).map((role) => ({
      to: { kind: 'role', role },
      rights: [...RIGHTS[role]],
    })),
  );
});
afterAll(() => store.close());

async function move(items: readonly string[], place: string): Promise<void> {
  await store.call('POST', '/api/items/move', { items, place });
}

async function grant(place: string, grants: readonly Grant[]): Promise<void> {
  const { status } = await as('administrator', 'PUT', '/api/places/access', {
    place,
    inherits: false,
    grants,
  });
  expect(status).toBe(200);
}

interface Answered {
  readonly status: number;
  readonly text: string;
}

async function as(who: string, method: string, path: string, body?: unknown): Promise<Answered> {
  try {
    const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(who)}` });
    return { status: response.status, text: await response.text() };
  } catch (error) {
    if (error instanceof Refused) return { status: error.status, text: JSON.stringify(error.problem) };
    throw error;
  }
}

async function ask(who: Role, route: Route, sample: ReturnType<Sample>): Promise<Answered> {
  const [method = '', path = ''] = route.split(' ');
  const filled = path.replace(/:\w+/g, '00000000-0000-4000-8000-000000000000');
  return as(who, method, sample.query === undefined ? filled : `${filled}?${sample.query}`, sample.body);
}

function mayBy(role: Role, route: Route, facts: RouteFacts): boolean {
  const { wants, isQuestion } = facts;
  if (role === 'viewer' && !route.startsWith('GET ') && !isQuestion) return false;
  // A token creates no credentials, whoever it acts for.
  if (facts.isInBrowserOnly) return false;
  if (wants === 'administrator') return role === 'administrator';
  if (wants === 'signed in' || wants === 'nobody') return true;
  return RIGHTS[role].includes(WANTS[route] ?? wants);
}

describe('the matrix', () => {
  it('asks every route that there is', () => {
    const asked = [...Object.keys(ABOUT_ITEM), ...Object.keys(OTHERS), ...NOT_HERE].sort();
    const closed = FACTS.filter(([, { wants }]) => wants !== 'nobody').map(([route]) => route);
    expect(asked).toEqual(closed.sort());
  });

  const samples = FACTS.flatMap(([route, facts]) => {
    const sample = ABOUT_ITEM[route]?.('SEEN') ?? OTHERS[route];
    return sample ? [{ route, facts, sample }] : [];
  });

  it.each(samples)('$route is for those who may', async ({ route, facts, sample }) => {
    for (const role of ROLES) {
      const { status, text } = await ask(role, route, sample);
      if (mayBy(role, route, facts)) {
        expect([role, status, text]).not.toEqual([role, 403, text]);
        expect([role, status]).not.toEqual([role, 500]);
        if (facts.refusesEach) expect(text).not.toMatch(/your access at its place/);
      } else if (facts.refusesEach && role !== 'viewer') {
        expect(JSON.parse(text)).toMatchObject({ done: [], refused: [{ number: 'SEEN' }] });
      } else expect([role, status]).toEqual([role, 403]);
    }
  });
});

const HIDDEN = ['H-TAIL_ASM', 'H-CARRIER', 'H-CARRIED', 'H-BINNED'] as const;

describe('what may not be seen', () => {
  const routes = Object.keys(ABOUT_ITEM) as Route[];

  it.each(routes)('%s answers about it as about what is not there', async (route) => {
    const sample = ABOUT_ITEM[route] as Sample;
    for (const number of HIDDEN) {
      const nothing = `${number}-NOT-THERE`;
      for (const role of ['engineer', 'checker', 'planner', 'viewer'] as const) {
        const hidden = await ask(role, route, sample(number));
        const absent = await ask(role, route, sample(nothing));
        expect([role, number, hidden.status, hidden.text]).toEqual([
          role,
          number,
          absent.status,
          absent.text.replaceAll(nothing, number),
        ]);
      }
    }
  });

  it('is told by no answer about what may be seen', async () => {
    const seen = ['SEEN', 'CARRIED', 'CARRIES', 'INNER'];
    for (const role of ['engineer', 'viewer'] as const)
      for (const route of routes.filter(
        (name) => name.startsWith('GET ') || name.endsWith('/preview') || ROUTES[name].isQuestion,
      )) {
        for (const number of seen) {
          const { text } = await ask(role, route, (ABOUT_ITEM[route] as Sample)(number));
          expect([route, number, /H-(TAIL|CARRI|BINNED)/.exec(text)?.[0]]).toEqual([
            route,
            number,
            undefined,
          ]);
        }
      }
  });

  it('is neither found, counted, completed nor exported, whatever is asked', async () => {
    const queries = ['H-TAIL', 'turbine', 'number has H-', 'kind is assembly', 'H-CARRIED or SEEN', ''];
    for (const words of queries) {
      const query = `words=${encodeURIComponent(words)}`;
      const found = JSON.parse((await as('viewer', 'GET', `/api/items?${query}`)).text) as FindAnswer;
      expect(JSON.stringify(found.rows)).not.toMatch(/H-/);
      if (words !== '') expect([words, found.hidden]).toEqual([words, 0]);
      const counts = JSON.parse((await as('viewer', 'GET', `/api/find/counts?${query}`)).text) as FindCounts;
      expect(counts.total).toBe(found.total);
      expect(counts.place.map(({ value }) => value)).not.toContain('/secret');
      expect((await as('viewer', 'GET', `/api/find/table?${query}`)).text).not.toMatch(/H-/);
    }
    const known = JSON.parse((await as('viewer', 'GET', '/api/find/words')).text) as QueryWords;
    expect(known.places).not.toContain('/secret');
    expect(known.places).toContain('/secret/inner');
  });

  it('takes as long to be refused as what is not there', async () => {
    const medianOf = (times: number[]): number => times.sort((a, b) => a - b)[times.length >> 1] ?? NaN;
    const times = { hidden: [] as number[], absent: [] as number[] };
    for (let run = 0; run < 40; run++)
      for (const [kind, number] of [
        ['hidden', 'H-TAIL_ASM'],
        ['absent', 'H-TAIL_NOT'],
      ] as const) {
        const begun = performance.now();
        await as('engineer', 'GET', `/api/item?item=${number}`);
        times[kind].push(performance.now() - begun);
      }
    const [hidden, absent] = [medianOf(times.hidden), medianOf(times.absent)];
    // The same statements are run; what is left is noise.
    expect(Math.abs(hidden - absent)).toBeLessThan(Math.max(3, absent));
  });

  it('does not come out with the file that it lives in, nor the file with what lives in it', async () => {
    expect((await as('engineer', 'GET', '/api/file?item=CARRIED')).status).toBe(403);
    expect((await as('engineer', 'GET', '/api/fetch?item=CARRIED')).status).toBe(403);
    const view = JSON.parse((await as('engineer', 'GET', '/api/item?item=CARRIED')).text) as ItemView;
    expect([view.carrier, view.fileName]).toEqual([undefined, '']);
    expect(view.usedIn).toBe(0);
  });

  it('keeps a place from being moved or thrown away by those who may not change all of it', async () => {
    await grant('/open', [
      { to: { kind: 'role', role: 'engineer' }, rights: ['see', 'fetch', 'change'] },
      { to: { kind: 'role', role: 'viewer' }, rights: ['see'] },
      { to: { kind: 'role', role: 'checker' }, rights: ['see'] },
    ]);
    await store.call('POST', '/api/places', { path: '/open/mine/secret' });
    await grant('/open/mine/secret', []);
    for (const [path, body] of [
      ['/api/places/move', { from: '/open/mine', to: '/open/yours' }],
      ['/api/places/bin', { place: '/open/mine' }],
    ] as const) {
      const { status, text } = await as('engineer', 'POST', path, body);
      expect([path, status]).toEqual([path, 403]);
      expect(text).not.toContain('secret');
    }
  });

  it('is not named by what keeps a place from the bin, nor by comments of versions', async () => {
    await store.intake(new Map([['used.stp', stepFile({ id: 'USED' })]]), { place: '/shared' });
    await store.intake(
      new Map([
        ['user.stp', stepFile({ id: 'H-USER', uses: [{ id: 'USED', locator: '../shared/used.stp' }] })],
      ]),
      { place: '/secret2' },
    );
    const used = JSON.parse((await as('administrator', 'GET', '/api/used?item=USED')).text) as {
      rows: unknown[];
    };
    expect(used.rows).toHaveLength(1);
    await grant('/secret2', []);
    const { status, text } = await as('engineer', 'POST', '/api/places/bin', { place: '/shared' });
    expect(status).toBe(409);
    expect(text).toMatch(/used in something that you may not see/);
    expect(text).not.toContain('H-USER');
  });

  it('is not named to those who watch what it was derived from', async () => {
    await as('checker', 'POST', '/api/watch', { item: 'INNER', watch: true });
    const made = await as('administrator', 'POST', '/api/derive', {
      item: 'INNER',
      copy: 'all',
      prefix: 'H-',
      place: '/secret2',
    });
    expect(made.status).toBe(201);
    const { text } = await as('checker', 'GET', '/api/notices');
    expect(text).toMatch(/derived a variant from INNER/);
    expect(text).not.toContain('H-INNER');
  });

  it('cannot be brought into, not by one byte', async () => {
    for (const [path, body] of [
      ['/api/intakes', { place: '/secret2' }],
      ['/api/intakes/archive?place=/secret2', new Uint8Array(10)],
    ] as const) {
      const blobs: { count: string }[] = await store.database.query('SELECT count(*) FROM blob');
      expect([path, (await as('engineer', 'POST', path, body)).status]).toEqual([path, 404]);
      expect(await store.database.query('SELECT count(*) FROM blob')).toEqual(blobs);
    }
  });
});
