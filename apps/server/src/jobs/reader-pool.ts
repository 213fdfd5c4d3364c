import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { FileReading, Renaming } from '@stem-trace/core';
import type { CensusText } from '@stem-trace/formats';
import { Piscina } from 'piscina';

export type ReadOutcome =
  | {
      readonly kind: 'read';
      readonly reading: FileReading;
      /** Every text of what would be handed out, found by other means than the reading; of a file whose texts can change. */
      readonly texts?: readonly CensusText[];
    }
  | { readonly kind: 'problem'; readonly line: number; readonly reason: string }
  | { readonly kind: 'passedOver'; readonly reason: string };

export interface ReadTask {
  /** Where the bytes lie. */
  readonly file: string;
  /** What the file is called. */
  readonly path: string;
  /** Names that it is to be given first, where what would be handed out is to be read; see `rewriteFile`. */
  readonly handedOut?: { readonly storedFileName: string; readonly renaming: Renaming };
}

// Workers are started from built code, also when this module itself runs from its source under test.
const WORKER = fileURLToPath(new URL('./read-file.worker.js', import.meta.url)).replace(
  '/src/jobs/',
  '/dist/jobs/',
);

/** Reads design files on worker threads, so that a large one does not hold up everybody's requests. */
export class ReaderPool {
  private readonly pool = new Piscina<ReadTask, ReadOutcome>({
    filename: WORKER,
    // The workers run built code, whatever conditions and loaders this process was started with.
    execArgv: [],
    minThreads: 1,
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
