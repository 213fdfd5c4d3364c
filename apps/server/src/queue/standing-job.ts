import { Logger } from '@nestjs/common';
import type { FeedKind, JobKind } from '@stem-trace/contract';
import type { Feed } from '../feed/feed.js';
import type { Job, JobInputs } from './job.js';
import type { JobQueue } from './job-queue.js';

/** Jobs that need to be told nothing. */
type Plain = {
  [K in JobKind]: JobInputs[K] extends Readonly<Record<string, never>> ? K : never;
}[JobKind];

export interface StandingOrder<K extends Plain> {
  readonly kind: K;
  /** Of the one job of its kind. */
  readonly id: string;
  readonly about: string;
  /** Changes after which it may be wanted; the end of jobs is always one. */
  readonly after: FeedKind;
  /** How long changes may gather. */
  readonly restMs: number;
  /** Where work becomes due with time alone, which no change tells: how often to look. */
  readonly lookMs?: number;
  readonly isWanted: () => Promise<boolean>;
  readonly work: (job: Job<K>) => Promise<unknown>;
}

/** A job that the store orders by itself whenever something is left to do; one server at a time does it. */
export class StandingJob<K extends Plain> {
  private readonly logger: Logger;
  private stopListening: (() => void) | undefined;
  private timer: NodeJS.Timeout | undefined;
  private look: NodeJS.Timeout | undefined;
  private isAsking = false;
  private isEnded = false;

  constructor(
    private readonly order: StandingOrder<K>,
    private readonly queue: JobQueue,
    private readonly feed: Feed,
  ) {
    this.logger = new Logger(order.kind);
    queue.handle(order.kind, { atOnce: 1, work: order.work });
  }

  begin(): void {
    this.stopListening = this.feed.listen((kinds) => {
      // What came in while the last of it was done is seen when that job has ended.
      if (kinds.includes(this.order.after) || kinds.includes('jobs')) this.soon();
    });
    const { lookMs } = this.order;
    if (lookMs !== undefined) this.look = setInterval(() => this.soon(), lookMs).unref();
    this.soon();
  }

  end(): void {
    this.isEnded = true;
    this.stopListening?.();
    clearInterval(this.look);
    clearTimeout(this.timer);
  }

  private soon(): void {
    if (this.timer !== undefined || this.isEnded) return;
    this.timer = setTimeout(() => {
      this.timer = undefined;
      void this.askOnce();
    }, this.order.restMs);
    this.timer.unref();
  }

  /** In a large store the question may take longer than the rest between two of them; asked over each other, they would take every connection. */
  private async askOnce(): Promise<void> {
    if (this.isAsking) {
      this.soon();
      return;
    }
    this.isAsking = true;
    try {
      await this.ask();
    } catch (error) {
      if (!this.isEnded) this.logger.warn(String(error));
    } finally {
      this.isAsking = false;
    }
  }

  private async ask(): Promise<void> {
    const { kind, id, about, isWanted } = this.order;
    // The end of the job that is under way leads back here.
    if ((await this.queue.isUnderWay(kind, id)) || !(await isWanted())) return;
    // Each of these kinds is told nothing.
    await this.queue.send(kind, id, { input: {} as JobInputs[K], about, personId: null });
  }
}
