import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { IndexAnswers, IndexAsk, IndexQuestionKind, LinkIndex } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { number, readRow } from '../database/read-rows.js';
import { IndexSource } from './index-source.js';

export interface IndexQuestion {
  readonly id: number;
  /** Feed position that the answer must have reached. */
  readonly position: number;
  readonly ask: IndexAsk;
}

export interface IndexAnswer {
  readonly kind: 'answer';
  readonly id: number;
  readonly position: number;
  readonly found: IndexAnswers[IndexQuestionKind];
}

export interface IndexReady {
  readonly kind: 'ready';
  readonly size: LinkIndex['size'];
}

export interface IndexFailure {
  readonly kind: 'failure';
  /** 0 where it was not about a question. */
  readonly id: number;
  readonly says: string;
  /** Whether the index is of no use any more. */
  readonly isBroken: boolean;
}

const WORKER = fileURLToPath(new URL('./link-index.worker.js', import.meta.url)).replace(
  '/src/link-index/',
  '/dist/link-index/',
);
const AGAIN_MS = 2000;

interface Waiting {
  readonly done: (answer: IndexAnswer) => void;
  readonly fail: (error: Error) => void;
}

/** Asks the structure index in its worker. Until that has loaded, or after it broke, questions are answered from SQL. */
@Injectable()
export class LinkIndexHost extends IndexSource implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('structure');
  private readonly waiting = new Map<number, Waiting>();
  private worker: Worker | undefined;
  private isReady = false;
  private isEnded = false;
  private lastId = 0;

  constructor(
    private readonly databaseUrl: string,
    private readonly database: DataSource,
  ) {
    super();
  }

  onApplicationBootstrap(): void {
    this.start();
  }

  async onModuleDestroy(): Promise<void> {
    this.isEnded = true;
    await this.worker?.terminate();
  }

  /**
   * Everything that was committed before the question is in the answer: the position of the feed is read first, and
   * the index reads on until there.
   *
   * @returns undefined while the index is loading
   */
  async ask<K extends IndexQuestionKind>(ask: IndexAsk<K>): Promise<IndexAnswers[K] | undefined> {
    const { worker } = this;
    if (!this.isReady || !worker) return undefined;
    const { position } = await readRow(
      this.database,
      { position: number },
      'SELECT coalesce(max(position), 0)::float8 AS position FROM structure_feed',
    );
    // It may have ended meanwhile; whoever asked it then would wait for ever.
    if (!this.isReady || this.worker !== worker) return undefined;
    const id = ++this.lastId;
    const answered = new Promise<IndexAnswer>((done, fail) => this.waiting.set(id, { done, fail }));
    worker.postMessage({ id, position, ask } satisfies IndexQuestion);
    try {
      return (await answered).found as IndexAnswers[K];
    } catch (error) {
      this.logger.warn(`the structure index did not answer: ${String(error)}`);
      return undefined;
    }
  }

  /** Waits until the index answers; for tests and measurements. */
  async ready(): Promise<void> {
    while (!this.isReady && !this.isEnded) await new Promise((done) => setTimeout(done, 20));
  }

  /** Ends its thread; another one loads everything anew. */
  async restart(): Promise<void> {
    this.isReady = false;
    await this.worker?.terminate();
  }

  private start(): void {
    const worker = new Worker(WORKER, { workerData: { databaseUrl: this.databaseUrl }, execArgv: [] });
    this.worker = worker;
    worker.unref();
    worker.on('message', (message: IndexReady | IndexAnswer | IndexFailure) => this.take(message));
    worker.on('error', (error) => this.logger.warn(error.message));
    worker.once('exit', () => {
      this.isReady = false;
      for (const { fail } of this.waiting.values()) fail(new Error('it ended'));
      this.waiting.clear();
      // The database may have gone and come back.
      if (!this.isEnded) setTimeout(() => this.isEnded || this.start(), AGAIN_MS).unref();
    });
  }

  private take(message: IndexReady | IndexAnswer | IndexFailure): void {
    if (message.kind === 'ready') {
      this.isReady = true;
      const { links, versions } = message.size;
      this.logger.log(`the structure index holds ${links} links of ${versions} versions`);
      return;
    }
    const waiting = this.waiting.get(message.id);
    this.waiting.delete(message.id);
    if (message.kind === 'answer') waiting?.done(message);
    else {
      waiting?.fail(new Error(message.says));
      if (message.isBroken) void this.worker?.terminate();
    }
  }
}
