/** Work in the background: once, whichever of two servers does it, and never lost with one of them. */
import { randomUUID } from 'node:crypto';
import type { JobView, ProofAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { Feed } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { TestStore } from '../testing/test-store.js';
import type { GeometrySource, Job, Lane } from './job.js';
import { JobProgress } from './job-progress.js';
import { JobQueue } from './job-queue.js';

let store: TestStore;

beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1_pe_214'));
  // The store's own server leaves this kind to those that the tests make.
  store.server.app.get(JobQueue).handle('mesh', { atOnce: 0, work: () => Promise.resolve() });
});
afterAll(() => store.close());

const SOURCE: GeometrySource = { sha256: 'x', productRef: 0, names: [] };
const ORDER = { input: SOURCE, about: 'X', personId: null };

/** A server's queue that does jobs of one kind in a way of its own, beside the server of the store. */
async function queueThat(
  lane: Partial<Lane<'mesh'>>,
): Promise<{ queue: JobQueue; end: () => Promise<void> }> {
  const feed = new Feed(store.databaseUrl);
  const queue = new JobQueue(store.databaseUrl, store.database, feed);
  queue.handle('mesh', { atOnce: 1, work: () => Promise.resolve(), ...lane });
  await feed.onModuleInit();
  await queue.onApplicationBootstrap();
  return {
    queue,
    end: async () => {
      await queue.onModuleDestroy();
      await feed.onModuleDestroy();
    },
  };
}

describe('a job', () => {
  it('is done once by two servers, however often it is asked for at once', async () => {
    const done: string[] = [];
    // One that came to an end is done anew for whoever asks later, so that none ends before all have asked.
    let allAsked = (): void => undefined;
    const asking = new Promise<void>((resolve) => (allAsked = resolve));
    const work = async ({ id }: Job<'mesh'>): Promise<string> => {
      done.push(id);
      await asking;
      return id;
    };
    const servers = await Promise.all([queueThat({ work, atOnce: 2 }), queueThat({ work, atOnce: 2 })]);
    const ids = Array.from({ length: 20 }, () => randomUUID());
    await Promise.all(ids.flatMap((id) => servers.map(({ queue }) => queue.send('mesh', id, ORDER))));
    allAsked();
    const outcomes = ids.flatMap((id) => servers.map(({ queue }) => queue.outcome('mesh', id)));
    expect(await Promise.all(outcomes)).toEqual(ids.flatMap((id) => [id, id]));
    expect(done.sort()).toEqual([...ids].sort());
    await Promise.all(servers.map(({ end }) => end()));
  });

  it('asked for by two at the very same moment is one', async () => {
    const id = randomUUID();
    const queue = store.server.app.get(JobQueue);
    await Promise.all(Array.from({ length: 12 }, () => queue.send('mesh', id, ORDER)));
    const work = vi.fn(() => Promise.resolve('once'));
    const servers = await Promise.all([queueThat({ work }), queueThat({ work })]);
    expect(await queue.outcome('mesh', id)).toBe('once');
    expect(work).toHaveBeenCalledTimes(1);
    await Promise.all(servers.map(({ end }) => end()));
  });

  it('whose server ended in the midst is begun anew by another, at once', async () => {
    const id = randomUUID();
    const first = await queueThat({ work: () => new Promise(() => undefined) });
    await first.queue.send('mesh', id, ORDER);
    await vi.waitFor(async () => expect((await first.queue.find('mesh', id))?.state).toBe('active'));
    const second = await queueThat({ work: () => Promise.resolve('by the second') });
    await new Promise((done) => setTimeout(done, 300));
    expect((await first.queue.find('mesh', id))?.state).toBe('active');
    await first.end();
    const third = await queueThat({ work: () => Promise.resolve('by another') });
    expect(await third.queue.outcome('mesh', id)).toMatch(/^by/);
    await Promise.all([second.end(), third.end()]);
  });

  it('ends at its next step when that is asked for, and can be done once more', async () => {
    const id = randomUUID();
    const ended = vi.fn(() => Promise.resolve());
    const { queue, end } = await queueThat({
      cancelled: ended,
      work: async (job) => {
        const progress = new JobProgress(store.database, job);
        for (let step = 1; step < 1000; step++) {
          await progress.goOn(step, 1000);
          await new Promise((done) => setTimeout(done, 10));
        }
      },
    });
    await queue.send('mesh', id, ORDER);
    const outcome = queue.outcome('mesh', id);
    outcome.catch(() => undefined);
    const look = async (): Promise<JobView | undefined> =>
      (await jobs('administrator')).find((job) => job.id === id);
    await vi.waitFor(async () => expect((await look())?.progress.done).toBeGreaterThan(0));
    expect(await look()).toMatchObject({ state: 'running', about: 'X', by: null, tries: 1 });
    await post('administrator', '/api/jobs/cancel', { kind: 'mesh', id });
    await expect(outcome).rejects.toMatchObject({ code: 'JOB_CANCELLED' });
    expect(ended).toHaveBeenCalledWith(id);
    expect(await look()).toMatchObject({ state: 'cancelled' });
    queue.handle('mesh', { atOnce: 1, work: () => Promise.resolve('done after all') });
    await post('administrator', '/api/jobs/retry', { kind: 'mesh', id });
    expect(await queue.outcome('mesh', id)).toBe('done after all');
    await end();
  });

  it('that waits is not begun when its end is asked for', async () => {
    const id = randomUUID();
    const queue = store.server.app.get(JobQueue);
    await queue.send('mesh', id, ORDER);
    await queue.cancel('mesh', id);
    const work = vi.fn(() => Promise.resolve());
    const { end } = await queueThat({ work });
    await expect(queue.outcome('mesh', id)).rejects.toMatchObject({ code: 'JOB_CANCELLED' });
    expect(work).not.toHaveBeenCalled();
    await end();
  });

  it('that fails tells whoever waits, once, in the words of the failure or as our fault', async () => {
    const failed = vi.fn(() => Promise.resolve());
    const work = vi.fn(({ input }: Job<'mesh'>): Promise<void> => {
      if (input.sha256 === 'wild') throw new ProblemError('TOO_COSTLY', 'Too much.', ['a', 'b']);
      throw new Error('secret');
    });
    const { queue, end } = await queueThat({ work, failed });
    const [told, ours] = [randomUUID(), randomUUID()];
    await queue.send('mesh', told, { ...ORDER, input: { ...SOURCE, sha256: 'wild' } });
    await expect(queue.outcome('mesh', told)).rejects.toMatchObject({
      code: 'TOO_COSTLY',
      message: 'Too much.',
      details: ['a', 'b'],
    });
    await queue.send('mesh', ours, ORDER);
    await expect(queue.outcome('mesh', ours)).rejects.toMatchObject({ code: 'INTERNAL' });
    expect(work).toHaveBeenCalledTimes(2);
    expect(failed).toHaveBeenCalledWith(ours, expect.not.stringMatching(/secret/));
    expect((await jobs('administrator')).find(({ id }) => id === told)?.failure).toBe('Too much.');
    await end();
  });

  it('is nobody else’s to see or to end', async () => {
    const { variant } = await store.derive({ item: 'TAIL_ASM', copy: 'all', prefix: 'Q-', place: '/q' });
    const proof = `/api/derive/proof`;
    const mine = await store.json<ProofAnswer>('POST', proof, { item: variant });
    expect(mine.proof).toMatchObject({ dangling: 0, leaking: 0 });
    expect(mine.job).toMatchObject({ kind: 'proof', state: 'done', by: 'ada', about: `Proof of ${variant}` });
    const own = await store.json<JobView[]>('GET', '/api/jobs');
    expect(own.map(({ id }) => id)).toContain(mine.job.id);
    expect((await jobs('checker')).map(({ id }) => id)).not.toContain(mine.job.id);
    expect((await jobs('administrator')).map(({ id }) => id)).toContain(mine.job.id);
    for (const deed of ['cancel', 'retry'])
      await expect(
        post('checker', `/api/jobs/${deed}`, { kind: 'proof', id: mine.job.id }),
      ).rejects.toMatchObject({ status: 404, problem: { code: 'JOB_UNKNOWN' } });
  });
});

async function jobs(role: 'checker' | 'administrator'): Promise<JobView[]> {
  const headers = { Authorization: `Bearer ${await store.tokenFor(`q-${role}`, role)}` };
  return (await (await store.call('GET', '/api/jobs', undefined, headers)).json()) as JobView[];
}

async function post(role: 'checker' | 'administrator', path: string, body: unknown): Promise<void> {
  const headers = { Authorization: `Bearer ${await store.tokenFor(`q-${role}`, role)}` };
  await store.call('POST', path, body, headers);
}
