/** Many people at the same moment: nobody waits for ever, and whoever takes custody does not wait for whoever writes. */
import type { CustodyAnswer, ItemView } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readExchangeSet } from '../../../packages/formats/src/testing/exchange-files.js';
import { DATABASE_LIMITS, POOL_SIZE } from './database/data-source.js';
import { Freshness } from './feed/freshness.js';
import { LinkIndexHost } from './link-index/link-index-host.js';
import { Refused, TestStore } from './testing/test-store.js';

let store: TestStore;
let numbers: string[];

beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  const { rows } = await store.json<{ rows: { number: string }[] }>('GET', '/api/items?words=&limit=100');
  numbers = rows.map(({ number }) => number);
});
afterAll(() => store.close());

/** Longest that any connection has waited for a lock while something went on, in milliseconds; looked at all the time. */
async function longestLockWait<T>(work: Promise<T>): Promise<{ result: T; longestMs: number }> {
  const owner = await store.owner();
  let isOver = false;
  let longestMs = 0;
  const ended = work.finally(() => (isOver = true));
  ended.catch(() => undefined);
  while (!isOver) {
    const [row]: { ms: number | null }[] = await owner.query(
      `SELECT max(extract(epoch FROM clock_timestamp() - query_start) * 1000)::float8 AS ms FROM pg_stat_activity
       WHERE datname = current_database() AND wait_event_type = 'Lock'`,
    );
    longestMs = Math.max(longestMs, row?.ms ?? 0);
    await new Promise((done) => setTimeout(done, 20));
  }
  return { result: await ended, longestMs };
}

it('more derivations than there are connections, asked for at once, all come to their end', async () => {
  const asked = Array.from({ length: POOL_SIZE + 8 }, (_, at) =>
    store.json<{ variant: string }>('POST', '/api/derive', {
      item: 'TAIL_ASM',
      copy: 'all',
      prefix: `M${at}-`,
      place: `/many/${at}`,
    }),
  );
  const made = await Promise.all(asked);
  expect(new Set(made.map(({ variant }) => variant)).size).toBe(asked.length);
});

it('200 mixed requests at once have no error, and none waits for a lock until it is refused', async () => {
  const item = (at: number): string => encodeURIComponent(numbers[at % numbers.length] ?? '');
  const one = async (at: number): Promise<unknown> => {
    const number = numbers[at % numbers.length] ?? '';
    switch (at % 10) {
      case 0:
        return store.json('GET', `/api/items?words=${item(at)}`);
      case 1:
        return store.json('GET', '/api/find/counts?words=');
      case 2:
        return store.json<ItemView>('GET', `/api/item?item=${item(at)}`);
      case 3:
        return store.made('TAIL_ASM');
      case 4:
        return store.used(numbers[at % numbers.length] ?? '');
      case 5:
        return store.json('GET', `/api/compare?from=TAIL_ASM&to=${item(at)}`);
      case 6:
        return store.json<CustodyAnswer>('POST', '/api/holds', { items: [number], reason: 'x' });
      case 7:
        return store.json<CustodyAnswer>('POST', '/api/holds/let-go', { items: [number] });
      case 8:
        return store.json('POST', '/api/derive', {
          item: 'TAIL_ASM',
          copy: 'all',
          prefix: `X${at}-`,
          place: `/mixed/${at}`,
        });
      default:
        return store.json('POST', '/api/holds', { items: numbers, reason: 'all' });
    }
  };
  const { result, longestMs } = await longestLockWait(
    Promise.all(Array.from({ length: 200 }, (_, at) => one(at))),
  );
  expect(result).toHaveLength(200);
  // How short the waits are is measured by the bench, on a machine that does nothing else.
  expect(longestMs).toBeLessThan(DATABASE_LIMITS.lockMs);
});

it('check-out, let go and release do not wait for whoever writes into the store', async () => {
  const checker = { Authorization: `Bearer ${await store.tokenFor('ben', 'checker')}` };
  await store.json('POST', '/api/holds/let-go', { items: numbers });
  const owner = await store.owner();
  await owner.transaction(async (manager) => {
    // As an intake of many minutes holds it.
    await manager.query(`SELECT pg_advisory_xact_lock(hashtext('stem-trace store'))`);
    const taken = await store.json<CustodyAnswer>('POST', '/api/holds', { items: ['TAIL_ASM'], reason: 'x' });
    expect(taken.done).toHaveLength(1);
    await store.json('POST', '/api/holds/let-go', { items: ['TAIL_ASM'] });
    await store.json('POST', '/api/steps', {
      items: ['TAIL_ASM'],
      step: 'ask for check',
      reason: '',
      below: true,
    });
    const released = await store.call(
      'POST',
      '/api/steps',
      { items: ['TAIL_ASM'], step: 'release', reason: '', below: true },
      checker,
    );
    expect(released.status).toBe(200);
  });
});

it('what somebody is changing is refused by name after a moment, and the rest is had', async () => {
  const [first = '', second = ''] = numbers.filter((number) => number !== 'TAIL_ASM');
  const owner = await store.owner();
  await owner.transaction(async (manager) => {
    await manager.query('SELECT id FROM item WHERE number = $1 FOR NO KEY UPDATE', [first]);
    const begun = performance.now();
    const answer = await store.json<CustodyAnswer>('POST', '/api/holds', {
      items: [first, second],
      reason: 'x',
    });
    expect(performance.now() - begun).toBeLessThan(5000);
    expect(answer.done.map(({ number }) => number)).toEqual([second]);
    expect(answer.refused).toEqual([
      { number: first, reason: 'somebody is changing it at this moment; try again' },
    ]);
  });
});

it('what was written before others but committed after them reaches the structure in memory', async () => {
  await store.server.app.get(LinkIndexHost).ready();
  const owner = await store.owner();
  const users = async (): Promise<string[]> =>
    (
      await store.json<{ rows: { number: string }[] }>('GET', '/api/used?item=TAIL_TURBINE&lens=released')
    ).rows.map(({ number }) => number);
  expect(await users()).toEqual(['TAIL_ASM']);
  await owner.transaction(async (manager) => {
    await manager.query(
      `UPDATE revision SET state = 'draft' WHERE item_id = (SELECT id FROM item WHERE number = 'TAIL_ASM')`,
    );
    await store.call('POST', '/api/items/move', { items: ['TAIL_TURBINE'], place: '/elsewhere' });
    expect(await users()).toEqual(['TAIL_ASM']);
  });
  // Of what another connection wrote this server hears a moment later (0022).
  await store.server.app.get(Freshness).settle();
  expect(await users()).toEqual([]);
});

it('a transaction that asks for a second connection fails at once instead of waiting', async () => {
  await expect(store.database.transaction(() => store.database.query('SELECT 1'))).rejects.toThrow(
    /second connection/,
  );
});

it('a pool at its limit is said to be busy, and serves again when there is room', async () => {
  const runners = Array.from({ length: POOL_SIZE }, () => store.database.createQueryRunner());
  await Promise.all(runners.map((runner) => runner.query('SELECT 1')));
  const refused = await store.call('GET', '/api/item?item=TAIL_ASM').catch((error: unknown) => error);
  await Promise.all(runners.map((runner) => runner.release()));
  expect(refused).toBeInstanceOf(Refused);
  expect((refused as Refused).problem).toMatchObject({ code: 'BUSY', status: 503 });
  expect((await store.json<ItemView>('GET', '/api/item?item=TAIL_ASM')).number).toBe('TAIL_ASM');
});
