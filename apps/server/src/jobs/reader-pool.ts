import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { FileReading, Renaming } from '@stem-trace/core';
import type { CensusText } from '@stem-trace/formats';
import { Piscina } from 'piscina';
import { ProcessPool, RanWild, type ProcessLimits } from './process-pool.js';

interface ReadProblem {
  readonly kind: 'problem';
  readonly line: number;
  readonly reason: string;
}

interface PassedOver {
  readonly kind: 'passedOver';
  readonly reason: string;
}

export type ReadOutcome =
  | {
      readonly kind: 'read';
      readonly reading: FileReading;
      /** Every text of what would be handed out, found by other means than the reading; of a file whose texts can change. */
      readonly texts?: readonly CensusText[];
    }
  | ReadProblem
  | PassedOver;

/** As an outcome, with the reading as JSON. */
export type FileReport = { readonly kind: 'read'; readonly reading: string } | ReadProblem | PassedOver;

export interface ReadTask {
  /** Where the bytes lie. */
  readonly file: string;
  /** What the file is called. */
  readonly path: string;
  /** Names that it is to be given first, where what would be handed out is to be read; see `rewriteFile`. */
  readonly handedOut?: { readonly storedFileName: string; readonly renaming: Renaming };
}

const LIMITS: ProcessLimits = { timeMs: 120_000, memoryMb: 3072 };

/** Reads files that came from somewhere in processes of their own, so that none of them can hold up or end the server. */
export class ReaderPool {
  private readonly pool: ProcessPool<ReadTask, FileReport>;

  constructor(private readonly limits: ProcessLimits = LIMITS) {
    this.pool = new ProcessPool({ script: 'read-file.process', processes: availableParallelism(), limits });
  }

  /** What runs wild is a problem of that file. */
  async read(task: ReadTask): Promise<FileReport> {
    try {
      return await this.pool.run(task);
    } catch (error) {
      if (error instanceof RanWild) return { kind: 'problem', line: 0, reason: this.sayLimit(error) };
      throw error;
    }
  }

  async close(): Promise<void> {
    await this.pool.close();
  }

  private sayLimit({ limit }: RanWild): string {
    return limit === 'time'
      ? `reading it took longer than ${Math.round(this.limits.timeMs / 1000)} s and was ended; the file may be damaged`
      : `reading it took more than ${this.limits.memoryMb} MB of memory and was ended; the file may be damaged`;
  }
}

// Threads are started from built code, also when this module itself runs from its source under test.
const WORKER = fileURLToPath(new URL('./read-file.worker.js', import.meta.url)).replace(
  '/src/jobs/',
  '/dist/jobs/',
);

/** Reads files that were read before, on threads, for whoever wants readings rather than text: the proof. */
export class ReaderThreads {
  private readonly pool = new Piscina<ReadTask, ReadOutcome>({
    filename: WORKER,
    // The workers run built code, whatever conditions and loaders this process was started with.
    execArgv: [],
    minThreads: 0,
    maxThreads: availableParallelism(),
    idleTimeout: 5000,
  });

  async read(task: ReadTask): Promise<ReadOutcome> {
    return this.pool.run(task);
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
