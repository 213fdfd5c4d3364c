import type { MessagePort } from 'node:worker_threads';
import type { IndexAnswers, IndexAsk, IndexQuestionKind } from '@stem-trace/core';
import { IndexSource } from '../link-index/index-source.js';
import type { IndexCall } from './work-host.js';

interface IndexReply {
  readonly id: number;
  readonly found: IndexAnswers[IndexQuestionKind] | undefined;
}

/** The structure index, asked from a thread: questions go to the server's main thread, which has it kept. */
export class RemoteIndex extends IndexSource {
  private port: MessagePort | undefined;
  private readonly waiting = new Map<number, (reply: IndexReply) => void>();
  private lastId = 0;

  /** For one task. */
  use(port: MessagePort): void {
    this.port = port;
    port.on('message', (reply: IndexReply) => {
      this.waiting.get(reply.id)?.(reply);
      this.waiting.delete(reply.id);
    });
  }

  release(): void {
    this.port?.close();
    this.port = undefined;
    this.waiting.clear();
  }

  async ask<K extends IndexQuestionKind>(ask: IndexAsk<K>): Promise<IndexAnswers[K] | undefined> {
    const { port } = this;
    if (!port) return undefined;
    const id = ++this.lastId;
    const replied = new Promise<IndexReply>((done) => this.waiting.set(id, done));
    port.postMessage({ id, ask } satisfies IndexCall);
    return (await replied).found as IndexAnswers[K] | undefined;
  }
}
