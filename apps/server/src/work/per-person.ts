import { Semaphore } from 'async-mutex';
import { ProblemError } from '../problems/problem.js';

/** Orders of one person that may wait at a time; a screen sends a handful. */
const MOST_WAITING = 100;

/**
 * Lets each person have one order under way at a time, so that heavy work of one person never takes all threads or processes. Orders
 * of the same person wait for one another; those of others pass them.
 */
export class PerPerson {
  private readonly lines = new Map<string, { readonly line: Semaphore; waiting: number }>();

  /**
   * @param signal ends the wait, not the work
   * @throws ProblemError BUSY if too many orders of the person wait; the reason of the signal if it is aborted before the work begins
   */
  async run<T>(personId: string, work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
    const own = this.lines.get(personId) ?? { line: new Semaphore(1), waiting: 0 };
    if (own.waiting >= MOST_WAITING)
      throw new ProblemError(
        'BUSY',
        `${MOST_WAITING} of your requests are waiting already. Nothing was changed; try again once they are answered.`,
      );
    this.lines.set(personId, own);
    own.waiting++;
    try {
      return await own.line.runExclusive(() => {
        signal?.throwIfAborted();
        return work();
      });
    } finally {
      own.waiting--;
      if (own.waiting === 0) this.lines.delete(personId);
    }
  }
}
