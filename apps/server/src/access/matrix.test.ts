/**
 * Who may do what: every route of the table, for every role, about an item that one sees, and about items that one does
 * not see in every way there is. What may not be seen answers word for word as what is not there.
 */
import type { FindAnswer, FindCounts, ItemView, Role, Route, RouteFacts } from '@stem-trace/contract';
import { ROUTES } from '@stem-trace/contract';
import { type Grant, type QueryWords, type Right } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { ABOUT_ITEM, OTHERS, type Sample } from '../testing/route-samples.js';
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
