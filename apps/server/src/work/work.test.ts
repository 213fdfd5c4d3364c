/** Work on threads and in processes: what is asked there is answered, what runs wild is ended, and the server goes on. */
import { once } from 'node:events';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { Worker } from 'node:worker_threads';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CompareAnswer, FindAnswer, ItemView, NetAnswer, SceneAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { ShapesService } from '../meshes/shapes.service.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open(undefined, { inThreads: true });
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  await store.intake(new Map([['bomb.stp', bomb(34)]]), { place: '/bomb' });
  // A running server has its threads before anybody asks; to start one is not what is measured here.
  await Promise.all([store.made('TAIL_ASM'), store.used('TAIL_TURBINE')]);
});
afterAll(() => store.close());

/**
 * A file of a few kB with two products on each level, each of which uses both of the level below: 2^(levels - 1) ways lead
 * from the top to each of the last.
 */
function bomb(levels: number): Uint8Array {
  const products = Array.from({ length: 2 * levels - 1 }, (_, at) => {
    const own = 100 + at * 10;
    const level = Math.ceil(at / 2);
    const below = level === levels - 1 ? [] : [2 * level + 1, 2 * level + 2];
    const uses = below.map(
      (used, nth) =>
        `#${own + 5 + nth}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('u${nth}','','',#${own + 3},#${103 + used * 10},$);`,
    );
    return `#${own}=PRODUCT('B${at}','B${at}','',(#2));
#${own + 1}=PRODUCT_DEFINITION_FORMATION('','',#${own});
#${own + 3}=PRODUCT_DEFINITION('design','',#${own + 1},#3);
${uses.join('\n')}`;
  });
  return new TextEncoder().encode(`ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('bomb.stp','',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));
ENDSEC;
DATA;
#1=APPLICATION_CONTEXT('');
#2=PRODUCT_CONTEXT('',#1,'mechanical');
#3=PRODUCT_DEFINITION_CONTEXT('part definition',#1,'design');
${products.join('\n')}
ENDSEC;
END-ISO-10303-21;
`);
}

/** Says how long a thread that does nothing was kept waiting: by other programs on the machine, and by nothing else. */
const IDLE = `
  const { parentPort } = require('node:worker_threads');
  const { monitorEventLoopDelay } = require('node:perf_hooks');
  const delay = monitorEventLoopDelay({ resolution: 10 });
  delay.enable();
  parentPort.on('message', () => parentPort.postMessage(delay.max / 1e6));
  parentPort.postMessage('ready');`;

/**
 * Longest that the server's own thread did not come to anything else while something was asked, in milliseconds, less what
 * an idle thread had to wait in the same time because the machine was busy with other things.
 */
async function longestBlock<T>(work: () => Promise<T>): Promise<{ result: T; blockedMs: number }> {
  const idle = new Worker(IDLE, { eval: true });
  await once(idle, 'message');
  const delay = monitorEventLoopDelay({ resolution: 10 });
  delay.enable();
  const result = await work();
  delay.disable();
  idle.postMessage('say');
  const [waitedMs] = (await once(idle, 'message')) as [number];
  await idle.terminate();
  return { result, blockedMs: Math.max(0, delay.max / 1e6 - waitedMs) };
}

/** Laying out such a structure, or reading a file, takes seconds; on a machine that does much else, collecting garbage takes this. */
const BUSY_MS = 500;

describe('a structure with 2^33 ways through it', () => {
  it.each([
    ['/api/made?item=B0&all=true', /17,179,869,182 rows/],
    ['/api/used?item=B66&all=true', /more than 500,000 rows/],
    ['/api/compare?from=B0&to=B1', /rows when it is laid out/],
    ['/api/compare?from=B1&to=B0', /rows/],
  ])('%s is refused in words, and nobody else waits for it', async (path, says) => {
    const { result, blockedMs } = await longestBlock(async () => {
      const asked = store.call('GET', path).catch((error: unknown) => error);
      const begun = performance.now();
      await store.json<ItemView>('GET', '/api/item?item=TAIL_ASM');
      return { waitedMs: performance.now() - begun, refused: await asked };
    });
    expect(result.refused).toBeInstanceOf(Refused);
    expect((result.refused as Refused).problem).toMatchObject({ status: 413 });
    expect((result.refused as Refused).message).toMatch(says);
    expect(result.waitedMs).toBeLessThan(3000);
    expect(blockedMs).toBeLessThan(BUSY_MS);
  });

  it('has a net of its versions, each once, and a scene with nothing in it', async () => {
    const net = await store.json<NetAnswer>('GET', '/api/net?item=B0&side=made');
    expect(net.nodes).toHaveLength(67);
    const scene = await store.json<SceneAnswer>('GET', '/api/scene?item=B0');
    expect(scene.meshes).toHaveLength(1);
  });

  it('can be derived from, all of it lives in one file', async () => {
    const { made } = await store.json<{ made: unknown[] }>('POST', '/api/derive', {
      item: 'B0',
      copy: 'all',
      prefix: 'C-',
      place: '/bomb/copy',
    });
    expect(made).toHaveLength(67);
    await expect(store.call('POST', '/api/derive/preview', { item: 'B0', copy: 'all' })).rejects.toThrow(
      /rows/,
    );
  });
});

describe('a server under load', () => {
  it('is never busy for half a second with one thing', async () => {
    const { blockedMs } = await longestBlock(() =>
      Promise.all(
        Array.from({ length: 12 }, async (_, at) => {
          switch (at % 6) {
            case 0:
              return store.derive({ item: 'TAIL_ASM', copy: 'all', prefix: `L${at}-`, place: `/load/${at}` });
            case 1:
              return store.fetch('TAIL_ASM');
            case 2:
              return store.intake(readExchangeSet('s1-c5-214'), {
                place: `/load/in${at}`,
                prefix: `I${at}-`,
              });
            case 3:
              return store.json<CompareAnswer>('GET', '/api/compare?from=TAIL_ASM&to=TAIL_TURBINE');
            case 4:
              return store.json<FindAnswer>('GET', '/api/items?words=tail');
            default:
              return store.call('GET', '/api/find/table?words=&format=xlsx').then((r) => r.arrayBuffer());
          }
        }),
      ),
    );
    expect(blockedMs).toBeLessThan(BUSY_MS);
  });
});

describe('whoever has gone', () => {
  it('is not worked for any longer, and the next is answered', async () => {
    const gone = new AbortController();
    const asked = fetch(`${store.server.address}/api/used?item=B66&all=true`, {
      headers: { Authorization: `Bearer ${store.token}` },
      signal: gone.signal,
    }).catch((error: unknown) => error);
    gone.abort();
    expect(await asked).toBeInstanceOf(Error);
    expect((await store.made('TAIL_ASM')).rows.length).toBeGreaterThan(0);
  });
});

describe('a file over which a reader runs wild', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'stem-trace-wild-'));
    const filling = '/* filling */\n'.repeat(2_000_000);
    await writeFile(
      join(folder, 'a.stp'),
      new TextDecoder().decode(bomb(34)).replace('DATA;\n', () => `DATA;\n${filling}`),
    );
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));

  const report = async (limits: { timeMs: number; memoryMb: number }): Promise<unknown> => {
    const readers = new ReaderPool(limits);
    try {
      return await readers.read({ file: join(folder, 'a.stp'), path: 'a.stp' });
    } finally {
      await readers.close();
    }
  };

  it('is ended at its time, and the file has the problem', async () => {
    expect(await report({ timeMs: 5, memoryMb: 1000 })).toEqual({
      kind: 'problem',
      line: 0,
      reason: expect.stringMatching(/longer than .* and was ended/) as string,
    });
  });

  it('is ended at its memory, and the file has the problem', async () => {
    expect(await report({ timeMs: 60_000, memoryMb: 45 })).toEqual({
      kind: 'problem',
      line: 0,
      reason: expect.stringMatching(/more than 45 MB of memory and was ended/) as string,
    });
  });

  it('is read where it keeps to both', async () => {
    expect(await report({ timeMs: 60_000, memoryMb: 1000 })).toMatchObject({ kind: 'read' });
  });

  it('does not keep the shapes of other files from being worked out', async () => {
    const tessellators = new TessellatePool({ timeMs: 5, memoryMb: 4096 });
    const other = await TestStore.open(undefined, {
      pools: { readers: store.server.app.get(ReaderPool), tessellators },
    });
    try {
      await other.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
      await other.server.app.get(ShapesService).catchUp();
      const rows: { failures: number; all: number }[] = await other.database.query(
        'SELECT count(failure)::int AS failures, count(*)::int AS all FROM shape',
      );
      expect(rows[0]?.all).toBeGreaterThan(1);
      expect(rows[0]?.failures).toBe(rows[0]?.all);
    } finally {
      await other.close();
      await tessellators.close();
    }
  });
});

describe('the end of a server', () => {
  it('comes within 20 s though its threads are busy, and what they wrote is not there', async () => {
    const other = await TestStore.open(undefined, { inThreads: true });
    await other.intake(new Map([['bomb.stp', bomb(34)]]), { place: '/bomb' });
    const asked = Promise.all([
      other.call('GET', '/api/used?item=B66&all=true').catch(() => undefined),
      other.call('GET', '/api/made?item=B0&all=true').catch(() => undefined),
      other
        .call('POST', '/api/derive', { item: 'B0', copy: 'all', prefix: 'D-', place: '/d' })
        .catch(() => undefined),
    ]);
    await new Promise((done) => setTimeout(done, 300));
    const begun = performance.now();
    await other.close();
    expect(performance.now() - begun).toBeLessThan(20_000);
    await asked;
  });
});
