import type { FeedKind } from '@stem-trace/contract';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Feed } from '../feed/feed.js';
import type { JobQueue } from './job-queue.js';
import { StandingJob } from './standing-job.js';

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

/** A standing job whose question takes as long as somebody wants. */
function standing(
  isUnderWay = false,
  lookMs?: number,
): {
  readonly tell: (kind: FeedKind) => void;
  readonly open: (() => void)[];
  readonly sent: string[];
  readonly job: StandingJob<'likeness'>;
} {
  let tell: (kinds: readonly FeedKind[]) => void = () => undefined;
  const open: (() => void)[] = [];
  const sent: string[] = [];
  const feed = { listen: (told: typeof tell) => ((tell = told), () => undefined) };
  const queue = {
    handle: () => undefined,
    isUnderWay: () => Promise.resolve(isUnderWay),
    send: (_: string, id: string) => Promise.resolve(sent.push(id)),
  };
  const job = new StandingJob(
    {
      ...{ kind: 'likeness', id: 'one', about: 'x', after: 'items', restMs: 100 },
      ...(lookMs !== undefined && { lookMs }),
      isWanted: () => new Promise((resolve) => open.push(() => resolve(true))),
      work: () => Promise.resolve(),
    },
    queue as unknown as JobQueue,
    feed as unknown as Feed,
  );
  job.begin();
  return { tell: (kind) => tell([kind]), open, sent, job };
}

it('asks one question at a time, however long that takes and however much happens meanwhile', async () => {
  const { tell, open, sent, job } = standing();
  for (let times = 0; times < 50; times++) {
    tell('jobs');
    await vi.advanceTimersByTimeAsync(100);
  }
  expect(open).toHaveLength(1);
  open.pop()?.();
  await vi.advanceTimersByTimeAsync(0);
  expect(sent).toEqual(['one']);
  // What happened meanwhile is asked about once it is answered.
  await vi.advanceTimersByTimeAsync(200);
  expect(open).toHaveLength(1);
  job.end();
});

it('asks nothing while its job is under way, and nothing after its end', async () => {
  const under = standing(true);
  under.tell('items');
  await vi.advanceTimersByTimeAsync(1000);
  expect(under.open).toEqual([]);
  const ended = standing();
  ended.job.end();
  ended.tell('items');
  await vi.advanceTimersByTimeAsync(1000);
  expect(ended.open).toEqual([]);
});

it('looks by itself at what becomes due with time alone, until its end', async () => {
  const { open, sent, job } = standing(false, 5000);
  await vi.advanceTimersByTimeAsync(100);
  open.pop()?.();
  await vi.advanceTimersByTimeAsync(4000);
  expect({ sent: sent.length, asked: open.length }).toEqual({ sent: 1, asked: 0 });
  await vi.advanceTimersByTimeAsync(1100);
  expect(open).toHaveLength(1);
  open.pop()?.();
  await vi.advanceTimersByTimeAsync(0);
  job.end();
  await vi.advanceTimersByTimeAsync(20_000);
  expect({ sent: sent.length, asked: open.length }).toEqual({ sent: 2, asked: 0 });
});
