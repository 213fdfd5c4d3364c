import { fileURLToPath } from 'node:url';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import type { Problem } from '@stem-trace/contract';
import type { IndexAsk } from '@stem-trace/core';
import { Mutex } from 'async-mutex';
import { Piscina } from 'piscina';
import type { Person } from '../database/entities/person.js';
import { Freshness } from '../feed/freshness.js';
import { ProblemError } from '../problems/problem.js';
import { JsonBytes } from '../serve/json-bytes.js';
import { PerPerson } from './per-person.js';
import { IndexSource } from '../link-index/index-source.js';
import { TIME_LIMITS_MS, WRITING, type WorkAnswer, type WorkInput, type WorkKind } from './tasks.js';

export interface WorkOrder {
  readonly kind: WorkKind;
  readonly input: unknown;
  readonly person: Person;
  /** Where questions to the structure index go. */
  readonly index: MessagePort;
}

/** The answer as the bytes of JSON, which are handed over and not copied, or why there is none. */
export type WorkDone = Uint8Array<ArrayBuffer> | WorkRefused;

export interface WorkRefused {
  readonly problem: Pick<Problem, 'code' | 'detail' | 'details' | 'at'>;
}

/** A question of a thread to the structure index, which is kept once for all of them. */
export interface IndexCall {
  readonly id: number;
  readonly ask: IndexAsk;
}

export interface WorkOptions {
  readonly databaseUrl: string;
  readonly blobFolder: string;
  /** Whether there is no role of its own for the server in the database. */
  readonly isOwner?: boolean;
  /** Whether threads are there before anybody asks. */
  readonly isWarm?: boolean;
}

/**
 * What a thread does, done here: for tests, of which very many start a server, where a thread would take longer to start
 * than all that it does.
 */
export type InlineThread = () => Promise<{
  readonly work: (order: WorkOrder) => Promise<WorkDone>;
  readonly close: () => Promise<void>;
}>;

/** Somewhere where work is done, one order at a time. */
interface WorkPlace {
  run(order: WorkOrder, options: { transferList: MessagePort[]; signal: AbortSignal }): Promise<WorkDone>;
  destroy(): Promise<void>;
}

const THREADS = 2;
const DEFAULT_LIMIT_MS = 300_000;
/** Whoever has gone lets a thread come to its end for so long: to end it costs more than most answers. */
const AFTERTHOUGHT_MS = 3000;
const MEMORY_MB = 3072;
const WORKER = fileURLToPath(new URL('../threads/work.worker.js', import.meta.url)).replace(
  '/src/threads/',
  '/dist/threads/',
);

/** Has work done on threads with connections of their own, so that this one goes on answering. */
@Injectable()
export class WorkHost implements OnApplicationBootstrap {
  private readonly logger = new Logger('work');
  private readonly reading: WorkPlace;
  private readonly writing: WorkPlace;
  private readonly readingOf = new PerPerson();
  private readonly writingOf = new PerPerson();

  constructor(
    { isWarm = false, ...workerData }: WorkOptions,
    private readonly index: IndexSource,
    private readonly freshness: Freshness,
    inline?: InlineThread,
  ) {
    if (inline) {
      this.reading = new InlineWork(inline);
      this.writing = new InlineWork(inline);
      return;
    }
    const common = {
      filename: WORKER,
      execArgv: [],
      workerData,
      minThreads: isWarm ? 1 : 0,
      // A thread that waits must go on with its connections: it is told of their ends, and ends idle ones itself.
      atomics: 'disabled' as const,
      idleTimeout: isWarm ? 600_000 : 10_000,
      resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
    };
    this.reading = new Piscina({ ...common, maxThreads: THREADS });
    this.writing = new Piscina({ ...common, maxThreads: 1 });
  }

  onApplicationBootstrap(): void {
    for (const pool of [this.reading, this.writing])
      if (pool instanceof Piscina) pool.on('error', (error: Error) => this.logger.warn(error.message));
  }

  /**
   * @param signal of whoever asked: what nobody waits for any more is not begun, or ended a while later
   * @throws ProblemError as the task does; TOO_COSTLY beyond its limits of time or memory
   */
  async json<K extends WorkKind>(
    kind: K,
    input: WorkInput<K>,
    person: Person,
    signal?: AbortSignal,
  ): Promise<JsonBytes> {
    const isWriting = WRITING.has(kind);
    const limit = isWriting ? this.writingOf : this.readingOf;
    return limit.run(
      person.id,
      () => this.runNow(kind, input, person, signal),
      isWriting ? undefined : signal,
    );
  }

  /** In the turn of the person: their limit of time begins here. */
  private async runNow<K extends WorkKind>(
    kind: K,
    input: WorkInput<K>,
    person: Person,
    signal?: AbortSignal,
  ): Promise<JsonBytes> {
    const isWriting = WRITING.has(kind);
    const { port1, port2 } = new MessageChannel();
    port1.on('message', ({ id, ask }: IndexCall) => void this.answerIndex(port1, id, ask));
    const ending = limited(TIME_LIMITS_MS[kind] ?? DEFAULT_LIMIT_MS, isWriting ? undefined : signal);
    try {
      const order: WorkOrder = { kind, input, person: { ...person, passwordHash: '' }, index: port2 };
      const done = await (isWriting ? this.writing : this.reading).run(order, {
        transferList: [port2],
        signal: ending.signal,
      });
      // What was written there must be seen here from now on.
      if (isWriting) await this.freshness.settle();
      if (done instanceof Uint8Array) return new JsonBytes(done);
      const { code, detail, details, at } = done.problem;
      throw new ProblemError(code, detail, details, at);
    } catch (error) {
      if (ending.signal.aborted || isOutOfMemory(error)) throw tooCostly();
      throw error;
    } finally {
      ending.stop();
      port1.close();
    }
  }

  /** As `json`, for whoever wants to go on with the answer. */
  async ask<K extends WorkKind>(kind: K, input: WorkInput<K>, person: Person): Promise<WorkAnswer<K>> {
    const { bytes } = await this.json(kind, input, person);
    return JSON.parse(new TextDecoder().decode(bytes)) as WorkAnswer<K>;
  }

  /** Ends the threads, whatever they are at: what they write is a transaction, which is then not there. */
  async close(): Promise<void> {
    await Promise.all([this.reading.destroy(), this.writing.destroy()]);
  }

  private async answerIndex(port: MessagePort, id: number, ask: IndexAsk): Promise<void> {
    const found = await this.index.ask(ask).catch(() => undefined);
    const buffers = found
      ? Object.values(found).flatMap((member: unknown) =>
          ArrayBuffer.isView(member) ? [member.buffer as ArrayBuffer] : [],
        )
      : [];
    port.postMessage({ id, found }, buffers);
  }
}

function limited(
  timeMs: number,
  asker: AbortSignal | undefined,
): { readonly signal: AbortSignal; readonly stop: () => void } {
  const ending = new AbortController();
  const timers = [setTimeout(() => ending.abort(), timeMs)];
  const gone = (): void => void timers.push(setTimeout(() => ending.abort(), AFTERTHOUGHT_MS));
  if (asker?.aborted) gone();
  else asker?.addEventListener('abort', gone, { once: true });
  return {
    signal: ending.signal,
    stop: () => {
      asker?.removeEventListener('abort', gone);
      timers.forEach(clearTimeout);
    },
  };
}

function isOutOfMemory(error: unknown): boolean {
  return error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY';
}

function tooCostly(): ProblemError {
  return new ProblemError(
    'TOO_COSTLY',
    'This takes more time or memory than the store allows for one question. Nothing was changed; ask for less at once.',
  );
}

/** One order after another, in this thread. */
class InlineWork implements WorkPlace {
  private opened: ReturnType<InlineThread> | undefined;
  private readonly line = new Mutex();

  constructor(private readonly inline: InlineThread) {}

  async run(order: WorkOrder): Promise<WorkDone> {
    this.opened ??= this.inline();
    const { work } = await this.opened;
    return this.line.runExclusive(() => work({ ...order, input: structuredClone(order.input) }));
  }

  async destroy(): Promise<void> {
    await (await this.opened)?.close();
  }
}
