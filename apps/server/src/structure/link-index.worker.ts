/** The structure index, on a thread of its own: loads, keeps itself current, and answers one question after another. */
import { parentPort, workerData } from 'node:worker_threads';
import { explodeTotals, topTotals, whereUsedTotals, type LinkIndex, type Totals } from '@stem-trace/core';
import { IndexFeed } from './index-feed.js';
import type { IndexAnswer, IndexQuestion, IndexReady } from './link-index-host.js';

const port = parentPort;
if (!port) throw new Error('this file runs as a worker');

const feed = await IndexFeed.open((workerData as { databaseUrl: string }).databaseUrl);
port.postMessage({ kind: 'ready', size: feed.links.size } satisfies IndexReady);

let turn: Promise<void> = Promise.resolve();
port.on('message', (question: IndexQuestion) => {
  turn = turn.then(() => answer(question));
});

async function answer({ id, position, ask }: IndexQuestion): Promise<void> {
  try {
    await feed.reach(position);
    const totals = totalsOf(feed.links, ask);
    const done: IndexAnswer = { kind: 'answer', id, position: feed.position, totals };
    port?.postMessage(done, [
      totals.versions.buffer,
      totals.levels.buffer,
      totals.totals.buffer,
      totals.isEnd.buffer,
    ] as ArrayBuffer[]);
  } catch (error) {
    port?.postMessage({ kind: 'failure', id, says: error instanceof Error ? error.message : String(error) });
  }
}

function totalsOf(index: LinkIndex, { what, of, lens, levels }: IndexQuestion['ask']): Totals {
  switch (what) {
    case 'used':
      return whereUsedTotals(index, of, lens, levels);
    case 'tops':
      return topTotals(index, of, lens);
    case 'made':
      return explodeTotals(index, of, lens, levels);
  }
}
