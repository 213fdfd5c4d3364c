/** The structure index, on a thread of its own: loads, keeps itself current, and answers one question after another. */
import { parentPort, workerData } from 'node:worker_threads';
import { askIndex } from '@stem-trace/core';
import { IndexFeed } from './index-feed.js';
import type { IndexAnswer, IndexFailure, IndexQuestion, IndexReady } from './link-index-host.js';

const port = parentPort;
if (!port) throw new Error('this file runs as a worker');

const feed = await IndexFeed.open((workerData as { databaseUrl: string }).databaseUrl);
let turn: Promise<void> = Promise.resolve();
// What others write is read ahead, so that the next question need not wait for it.
await feed.listen(() => {
  turn = turn.then(() => feed.reach(Infinity)).catch((error: unknown) => fail(0, error, true));
});
port.postMessage({ kind: 'ready', size: feed.links.size } satisfies IndexReady);

port.on('message', (question: IndexQuestion) => {
  turn = turn.then(() => answer(question));
});

async function answer({ id, position, ask }: IndexQuestion): Promise<void> {
  try {
    await feed.reach(position);
  } catch (error) {
    // It may stand between two positions now.
    return fail(id, error, true);
  }
  try {
    const found = askIndex(feed.links, ask, feed.order);
    const done: IndexAnswer = { kind: 'answer', id, position: feed.position, found };
    port?.postMessage(done, buffersOf(found));
  } catch (error) {
    fail(id, error, false);
  }
}

/** Memory that an answer gives away instead of being copied. */
function buffersOf(found: object): ArrayBuffer[] {
  return Object.values(found).flatMap((member: unknown) =>
    ArrayBuffer.isView(member) ? [member.buffer as ArrayBuffer] : [],
  );
}

function fail(id: number, error: unknown, isBroken: boolean): void {
  const says = error instanceof Error ? error.message : String(error);
  port?.postMessage({ kind: 'failure', id, says, isBroken } satisfies IndexFailure);
}
