/**
 * Kills the server, and the database, at random moments of a release that is signed and leaves issued files. After the restart state
 * and signatures are there together or not at all, every file is made in the end, and none twice.
 */
import type {
  FindAnswer,
  IntakeView,
  IssuedFileRow,
  LifecyclesAnswer,
  StepAnswer,
  StepPreview,
} from '@stem-trace/contract';
import { Client } from 'pg';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readExchangeSet } from '../../../packages/formats/src/testing/exchange-files.js';
import { RealServer } from './testing/real-server.js';

/** Moments are chosen at random; `npm run kill` tries more of them. */
const KILLS = Number(process.env.STEM_KILLS ?? 5);
/** The step itself, the longest of it that the first files are made in, and some of the time thereafter. */
const WITHIN_MS = [400, 1500, 4000] as const;
const SHIP = readExchangeSet('s1_pe_214');
const TOP = 'S1_PE_TOP';

let real: RealServer;
beforeAll(async () => {
  real = await RealServer.start();
  await signReleases();
}, 120_000);
afterAll(() => real.close());

/** A release of items is signed by an administrator from now on. */
async function signReleases(): Promise<void> {
  const { lifecycles } = await real.call<LifecyclesAnswer>('GET', '/api/lifecycles');
  const items = lifecycles.find(({ diagram }) => diagram.name === 'Items');
  if (!items) throw new Error('the lifecycle that ships is not there');
  const steps = items.diagram.steps.map((step) =>
    step.name === 'release'
      ? {
          ...{ ...step, who: [] },
          signatures: { count: 1, of: [{ kind: 'role', role: 'administrator' }], isInOrder: false },
        }
      : step,
  );
  await real.callAsPerson('POST', '/api/lifecycles', {
    ...{ id: items.id, diagram: { ...items.diagram, steps }, scopes: items.scopes, comment: 'Signed' },
  });
}

async function sentForChecking(prefix: string): Promise<void> {
  const { id } = await real.call<IntakeView>('POST', '/api/intakes', { place: `/${prefix}`, prefix });
  for (const [path, bytes] of SHIP) await real.call('PUT', `/api/intakes/${id}/files?path=${path}`, bytes);
  let view = await real.call<IntakeView>('POST', `/api/intakes/${id}/carry-out`, {});
  while (view.state === 'carrying out') view = await real.call<IntakeView>('GET', `/api/intakes/${id}`);
  await real.call('POST', '/api/steps', {
    ...{ items: [prefix + TOP], step: 'ask for check', reason: '', below: true },
  });
}

const release = async (prefix: string): Promise<StepAnswer> => {
  const request = { items: [prefix + TOP], step: 'release', reason: 'Series', below: true };
  const preview = await real.callAsPerson<StepPreview>('POST', '/api/steps/preview', request);
  const shown = Object.fromEntries(preview.items.map(({ number, shown: digest }) => [number, digest]));
  return real.callAsPerson('POST', '/api/steps', { ...request, ...real.signing, shown });
};

/** What the database says of a release, asked past the server. */
async function standing(prefix: string): Promise<Readonly<Record<string, unknown>>> {
  const client = new Client({ connectionString: real.databaseUrl });
  await client.connect();
  try {
    const { rows } = await client.query<Record<string, unknown>>(
      `SELECT r.state, count(*)::int AS items,
              sum((SELECT count(*) FROM signature s WHERE s.item_id = i.id))::int AS signatures,
              sum((SELECT count(*) FROM event e WHERE e.item_id = i.id AND e.kind = 'step' AND e.detail->>'step' = 'release'))::int AS told,
              bool_and(EXISTS (SELECT FROM issued_file f WHERE f.item_id = i.id)) AS asked,
              bool_or(EXISTS (SELECT FROM issued_file f WHERE f.item_id = i.id)) AS some
       FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       WHERE starts_with(i.number, $1) GROUP BY r.state`,
      [prefix],
    );
    expect(rows).toHaveLength(1);
    return rows[0] ?? {};
  } finally {
    await client.end();
  }
}

async function expectAllOrNothing(prefix: string, wasAcknowledged: boolean): Promise<void> {
  const now = await standing(prefix);
  if (now.state === 'released') {
    expect(now).toEqual({
      ...{ state: 'released', items: SHIP.size, signatures: SHIP.size, told: SHIP.size },
      ...{ asked: true, some: true },
    });
    return;
  }
  expect(wasAcknowledged).toBe(false);
  expect(now).toEqual({
    ...{ state: 'in check', items: SHIP.size, signatures: 0, told: 0, asked: false, some: false },
  });
  await release(prefix);
}

/** Jobs go on by themselves, and leave each file once. */
async function expectFiles(prefix: string): Promise<void> {
  const { rows } = await real.call<FindAnswer>('GET', `/api/items?limit=1000&words=${prefix}`);
  const numbers = rows.map(({ number }) => number).filter((number) => number.startsWith(prefix));
  expect(numbers).toHaveLength(SHIP.size);
  for (const number of numbers) {
    let files: IssuedFileRow[];
    do {
      files = await real.call<IssuedFileRow[]>('GET', `/api/issued?item=${number}`);
      await new Promise((done) => setTimeout(done, 50));
    } while (files.some(({ state }) => state === 'waiting'));
    const kinds = files.map(({ kind }) => kind);
    expect(new Set(kinds).size).toBe(kinds.length);
    expect(files.map(({ state }) => state)).toEqual(files.map(() => 'made'));
    if (number === prefix + TOP) expect(kinds).toHaveLength(5);
  }
  expect((await real.verify()).faults).toEqual([]);
}

it(
  'a release that is cut off is there as a whole or not at all, and leaves every issued file once',
  { timeout: 120_000 * KILLS },
  async () => {
    for (let round = 0; round < KILLS; round++) {
      const prefix = `K${round}-`;
      await sentForChecking(prefix);
      let wasAcknowledged = false;
      const work = release(prefix).then(
        () => (wasAcknowledged = true),
        () => undefined,
      );
      const within = WITHIN_MS[round % WITHIN_MS.length] ?? 0;
      await new Promise((done) => setTimeout(done, Math.random() * within));
      if (round % 2 === 0) {
        real.killServer();
        await real.restartServer();
      } else {
        real.killDatabase();
        await real.restartDatabase();
        await new Promise((done) => setTimeout(done, 300));
      }
      await work;
      await expectAllOrNothing(prefix, wasAcknowledged);
      await expectFiles(prefix);
    }
  },
);
