import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Pauses } from './pauses.js';

describe('work that gives way', () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  async function waited(askEveryMs: number, askUntilMs: number): Promise<number> {
    let nowMs = 0;
    const pauses = new Pauses(() => nowMs);
    pauses.noteAsked();
    let endedMs: number | undefined;
    void pauses.wait({ quietMs: 1500, mostMs: 15_000 }).then(() => (endedMs = nowMs));
    while (endedMs === undefined && nowMs < 60_000) {
      nowMs += 50;
      if (nowMs <= askUntilMs && nowMs % askEveryMs === 0) pauses.noteAsked();
      await vi.advanceTimersByTimeAsync(50);
    }
    return endedMs ?? NaN;
  }

  it('goes on a while after the last that was asked', async () => {
    expect(await waited(1000, 4000)).toBeGreaterThanOrEqual(5500);
    expect(await waited(1000, 4000)).toBeLessThan(6000);
  });

  it('goes on now and then even where people ask all the time', async () => {
    expect(await waited(500, 60_000)).toBeGreaterThanOrEqual(15_000);
    expect(await waited(500, 60_000)).toBeLessThan(16_000);
  });

  it('goes on at once where nobody has asked yet', async () => {
    await expect(new Pauses(() => 0).wait({ quietMs: 1500, mostMs: 15_000 })).resolves.toBeUndefined();
  });
});
