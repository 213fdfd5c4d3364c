import { ProcessPool, RanWild, type ProcessLimits } from './process-pool.js';

export interface DocumentTask {
  /** Path of the bytes. */
  readonly file: string;
  readonly format: 'workbook' | 'text document';
}

/** A `DocumentAnswer` as JSON, or why there is none. */
export type DocumentReport =
  { readonly kind: 'read'; readonly answer: string } | { readonly kind: 'problem'; readonly reason: string };

const LIMITS: ProcessLimits = { timeMs: 20_000, memoryMb: 1000 };
const PROCESSES = 2;

/** Turns office documents into tables and HTML, in processes of their own that are ended at their limits. */
export class DocumentPool {
  private readonly pool: ProcessPool<DocumentTask, DocumentReport>;

  constructor(private readonly limits: ProcessLimits = LIMITS) {
    this.pool = new ProcessPool({ script: 'show-document.process', processes: PROCESSES, limits });
  }

  async show(task: DocumentTask): Promise<DocumentReport> {
    try {
      return await this.pool.run(task);
    } catch (error) {
      if (!(error instanceof RanWild)) throw error;
      const { timeMs, memoryMb } = this.limits;
      const most =
        error.limit === 'time' ? `longer than ${timeMs / 1000} s` : `more than ${memoryMb} MB of memory`;
      return { kind: 'problem', reason: `reading it took ${most} and was ended; download the file instead` };
    }
  }

  async close(): Promise<void> {
    await this.pool.close();
  }
}
