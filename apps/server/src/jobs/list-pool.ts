import { ProcessPool, RanWild, type ProcessLimits } from './process-pool.js';

export interface ListTask {
  /** Where the bytes lie. */
  readonly file: string;
  /** What the file is called. */
  readonly name: string;
}

/** A `ListReading` as JSON, or why there is none. */
export type ListReport =
  | { readonly kind: 'read'; readonly reading: string }
  | { readonly kind: 'problem'; readonly line: number; readonly reason: string };

const LIMITS: ProcessLimits = { timeMs: 30_000, memoryMb: 700 };

/** Reads lists that somebody sent, in a process of its own that is ended where it runs wild. */
export class ListPool {
  private readonly pool: ProcessPool<ListTask, ListReport>;

  constructor(private readonly limits: ProcessLimits = LIMITS) {
    this.pool = new ProcessPool({ script: 'read-list.process', processes: 1, limits });
  }

  async read(task: ListTask): Promise<ListReport> {
    try {
      return await this.pool.run(task);
    } catch (error) {
      if (!(error instanceof RanWild)) throw error;
      const { timeMs, memoryMb } = this.limits;
      const reason =
        error.limit === 'time'
          ? `reading it took longer than ${Math.round(timeMs / 1000)} s and was ended`
          : `reading it took more than ${memoryMb} MB of memory and was ended`;
      return { kind: 'problem', line: 0, reason: `${reason}; send it in parts, or as CSV` };
    }
  }

  async close(): Promise<void> {
    await this.pool.close();
  }
}
