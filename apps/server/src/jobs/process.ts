/** What every process of a pool does: offers its one task, and is ended when it grows too large or its server is gone. */
import { Worker } from 'node:worker_threads';
import workerpool from 'workerpool';

/**
 * Looks from a thread of its own, which goes on while the task keeps the main one busy. A signal is the only way out that
 * needs nobody's help.
 */
const WATCH = `
  const { parentPort, workerData } = require('node:worker_threads');
  const look = () => {
    if (process.memoryUsage.rss() > workerData.mostBytes || process.ppid !== workerData.parent)
      process.kill(process.pid, 'SIGKILL');
  };
  setInterval(look, 50);
  look();
  parentPort.postMessage('watching');`;

export function offer<Task, Result>(run: (task: Task) => Promise<Result>): void {
  const mostBytes = Number(process.env.STEM_PROCESS_MEMORY_MB) * 1024 * 1024;
  const watch = new Worker(WATCH, { eval: true, workerData: { mostBytes, parent: process.ppid } });
  // No task before somebody watches.
  watch.once('message', () => {
    watch.unref();
    // Its server may have ended while this one began; then the watch ends it, too.
    if (process.connected) workerpool.worker({ run });
  });
}
