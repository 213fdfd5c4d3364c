/** A thread that works out what grows with trees, sheets or files; it has a few connections and the services that it needs. */
import 'reflect-metadata';
import { workerData } from 'node:worker_threads';
import { move } from 'piscina';
import { composeWork, doWork, type ComposedWork } from './compose.js';
import type { WorkOptions, WorkOrder, WorkRefused } from '../work/work-host.js';

let composed: Promise<ComposedWork> | undefined;

/** Once for all orders; where it failed, for the database was away, the next order tries anew. */
function compose(): Promise<ComposedWork> {
  composed ??= composeWork(workerData as WorkOptions).catch((error: unknown) => {
    composed = undefined;
    throw error;
  });
  return composed;
}

// Begun before anybody asks; whoever does is told if it failed.
compose().catch(() => undefined);

export default async function run(order: WorkOrder): Promise<WorkRefused | ReturnType<typeof move>> {
  const done = await doWork(compose, order);
  return done instanceof Uint8Array ? move(done) : done;
}
