/**
 * Kills the server, and separately the database, at random moments of intake, check-in, revise, derive, carrying over and
 * wish sheets. After the restart nothing that was acknowledged is lost, and nothing is half there.
 */
import type {
  CarryOverPlan,
  CarryOverResult,
  CustodyAnswer,
  DeriveResult,
  FindAnswer,
  IntakeView,
  OrderAnswer,
  StructureAnswer,
  VersionMade,
  WishSheetRow,
} from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readExchangeSet } from '../../../packages/formats/src/testing/exchange-files.js';
import { RealServer } from './testing/real-server.js';

/** Moments are chosen at random, so that a hundred runs of the suite try hundreds; more at once where that is said. */
const KILLS = Number(process.env.STEM_KILLS ?? 6);
const WITHIN_MS = 450;
const SHIP = readExchangeSet('s1_pe_214');

let real: RealServer;
/** Numbers whose coming into the store was acknowledged. */
const acknowledged = new Set<string>();

const call = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  real.call<T>(method, path, body);

async function intake(prefix: string): Promise<void> {
  const sheet = await call<IntakeView>('POST', '/api/intakes', { place: '/faults', prefix });
  for (const [path, bytes] of SHIP) await call('PUT', `/api/intakes/${sheet.id}/files?path=${path}`, bytes);
  let view = await call<IntakeView>('POST', `/api/intakes/${sheet.id}/carry-out`, {});
  while (view.state === 'carrying out') view = await call<IntakeView>('GET', `/api/intakes/${sheet.id}`);
  if (view.state === 'done') acknowledged.add(`${prefix}S1_PE_TOP`).add(`${prefix}TAIL_TURBINE`);
}

async function derive(prefix: string): Promise<void> {
  const result = await call<DeriveResult>('POST', '/api/derive', {
    item: 'BASE-S1_PE_TOP',
    copy: 'all',
    prefix,
  });
  for (const { to } of result.made) acknowledged.add(to);
}

async function changeOne(round: number): Promise<void> {
  const name = 'head_back_prt.stp';
  await call<CustodyAnswer>('POST', '/api/holds', { items: ['BASE-HEAD_BACK'], reason: '' });
  const text = new TextDecoder('latin1')
    .decode(SHIP.get(name))
    .replace('DATA;', `DATA;\n/* round ${round} */`);
  const sheet = await call<IntakeView>('POST', '/api/intakes', { place: '/faults', prefix: 'BASE-' });
  await call('PUT', `/api/intakes/${sheet.id}/files?path=${name}`, new TextEncoder().encode(text));
  await call('POST', `/api/intakes/${sheet.id}/carry-out`, { comment: `round ${round}` });
}

async function reviseOne(): Promise<void> {
  const items = ['BASE-FOOT_BACK'];
  await call('POST', '/api/holds/let-go', { items });
  await call('POST', '/api/steps', { items, step: 'ask for check' });
  await call('POST', '/api/steps', { items, step: 'release' });
  await call('POST', '/api/revise', { items });
}

/** A variant that follows its origin, which `changeOne` changes. */
const FOLLOWER = 'FOLLOWS-BASE-S1_PE_TOP';

async function carryOver(): Promise<void> {
  await call<CarryOverResult>('POST', '/api/carry-over', { item: FOLLOWER });
}

/** Sheets whose order was acknowledged, by batch. */
const ordered = new Map<string, readonly string[]>();

/** Three sheets, of which two wish for the same. */
async function order(round: number): Promise<void> {
  const wishes = [`W${round}a`, `W${round}b`, `W${round}a`];
  const { batch } = await call<OrderAnswer>('POST', '/api/wishes', {
    recipe: 'FAULTS',
    sheets: wishes.map((mark) => ({ for: mark, wishes: { mark } })),
  });
  ordered.set(batch, wishes);
}

async function makeRecipe(): Promise<void> {
  const item = 'BASE-S1_PE_TOP';
  const { number, version } = await call<VersionMade>('POST', '/api/recipes', {
    ...{ item, number: 'FAULTS', name: 'Marked', place: '/faults' },
  });
  const { rows } = await call<StructureAnswer>('GET', `/api/made?item=${item}&all=true`);
  const mark = { name: 'mark', label: 'Mark', kind: 'text', unit: '', least: null, most: null, choices: [] };
  await call('PUT', '/api/recipe', {
    ...{ item: number, version },
    recipe: {
      ...{ format: 'stem-trace recipe', formatVersion: 1, of: item, wishes: [{ ...mark, otherwise: 'X' }] },
      rules: [...new Set(rows.map(({ number }) => number))].map((part) => ({
        ...{ name: part, when: '', then: { do: 'copy', item: part } },
      })),
      names: [{ kind: 'put', of: 'numbers', at: 'start', text: '{mark}-' }],
      ...{ place: '/faults/wished', examples: [] },
    },
  });
}

/** Every sheet that was acknowledged is fulfilled in the end, by whole variants, the same wishes by one. */
async function expectFulfilled(): Promise<void> {
  for (const [batch, wishes] of ordered) {
    let rows: readonly WishSheetRow[];
    do rows = await call<WishSheetRow[]>('GET', `/api/wishes?batch=${batch}`);
    while (rows.some(({ state, dangling }) => state !== 'failed' && dangling === null));
    expect(
      rows.map(({ variant, says, dangling, leaking }) => [variant ?? says, dangling, leaking]).toReversed(),
    ).toEqual(wishes.map((mark) => [`${mark}-BASE-S1_PE_TOP`, 0, 0]));
    expect(rows.filter(({ state }) => state === 'made')).toHaveLength(new Set(wishes).size);
    for (const mark of wishes) acknowledged.add(`${mark}-BASE-TAIL_TURBINE`);
    ordered.delete(batch);
  }
}

/** What the variant has not got yet is carried over, once; its file then says what the origin's says, and all holds together. */
async function expectFollows(): Promise<void> {
  const item = FOLLOWER;
  const { rows } = await call<CarryOverPlan>('GET', `/api/carry-over?item=${item}`);
  if (rows.length > 0) await carryOver();
  expect((await call<CarryOverPlan>('GET', `/api/carry-over?item=${item}`)).rows).toEqual([]);
  const changed = await Promise.all(
    ['BASE-HEAD_BACK', 'FOLLOWS-BASE-HEAD_BACK'].map(async (number) => {
      return /round \d+/.exec(await real.textOf(number))?.[0];
    }),
  );
  expect(changed[1]).toBe(changed[0]);
  const proof = await call<Proof>('GET', `/api/derive/proof?item=${item}`);
  expect([proof.dangling, proof.leaking]).toEqual([0, 0]);
}

/** Everything at once, and a blow at a random moment; what fails then fails. */
async function workUntil(round: number, blow: () => void): Promise<void> {
  // Its jobs are under way when the blow comes. Whoever takes over waits for some seconds, so it is not tried each time.
  if (round % 5 === 1) await order(round);
  const work = Promise.allSettled([
    intake(`I${round}-`),
    derive(`D${round}-`),
    changeOne(round),
    reviseOne(),
    ...(round % 2 === 1 ? [carryOver()] : []),
  ]);
  await new Promise((done) => setTimeout(done, Math.random() * WITHIN_MS));
  blow();
  await work;
}

async function expectWhole(round: number): Promise<void> {
  expect((await real.verify()).faults).toEqual([]);
  await expectFulfilled();
  if (round % 2 === 1) await expectFollows();
  const { rows } = await call<FindAnswer>('GET', '/api/items?limit=1000');
  const present = new Set(rows.map(({ number }) => number));
  expect([...acknowledged].filter((number) => !present.has(number))).toEqual([]);
  // An intake or a derivation is there with all its items, or with none.
  const byPrefix = new Map<string, number>();
  for (const { number } of rows) {
    const prefix = /^(I\d+|D\d+|W\d+[ab])-/.exec(number)?.[1];
    if (prefix) byPrefix.set(prefix, (byPrefix.get(prefix) ?? 0) + 1);
  }
  expect([...byPrefix].filter(([, count]) => count !== SHIP.size)).toEqual([]);
}

beforeAll(async () => {
  real = await RealServer.start();
  await intake('BASE-');
  await derive('FOLLOWS-');
  await makeRecipe();
});
afterAll(() => real.close());

it(
  'a killed server loses nothing acknowledged and leaves nothing half done',
  { timeout: 40_000 * KILLS },
  async () => {
    for (let round = 0; round < KILLS; round++) {
      await workUntil(round, () => real.killServer());
      await real.restartServer();
      await expectWhole(round);
    }
  },
);

it(
  'a killed database neither; the server goes on by itself when it is back',
  { timeout: 40_000 * KILLS },
  async () => {
    for (let round = 1000; round < 1000 + KILLS / 2; round++) {
      await workUntil(round, () => real.killDatabase());
      await real.restartDatabase();
      await new Promise((done) => setTimeout(done, 200));
      await expectWhole(round);
    }
  },
);
