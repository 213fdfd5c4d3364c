import { fileURLToPath } from 'node:url';
import type { Renaming } from '@stem-trace/core';
import { Piscina } from 'piscina';

export interface HandOutTask {
  /** Where the stored bytes lie. */
  readonly file: string;
  readonly storedFileName: string;
  readonly renaming: Renaming;
}

export interface HandedOut {
  readonly bytes: Uint8Array;
  readonly sha256: string;
  readonly isChanged: boolean;
}

const WORKER = fileURLToPath(new URL('./hand-out.worker.js', import.meta.url)).replace(
  '/src/jobs/',
  '/dist/jobs/',
);

/** Gives stored files the names that they are handed out with, on threads. */
export class HandOutPool {
  private readonly pool = new Piscina<HandOutTask, HandedOut>({
    filename: WORKER,
    execArgv: [],
    minThreads: 0,
    maxThreads: 2,
    idleTimeout: 10_000,
  });

  async handOut(task: HandOutTask): Promise<HandedOut> {
    return this.pool.run(task);
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
