/** A thread that works out what grows with trees, sheets or files; it has a few connections and the services that it needs. */
import 'reflect-metadata';
import { workerData } from 'node:worker_threads';
import { move } from 'piscina';
import { composeWork, doWork } from './compose.js';
import type { WorkOptions, WorkOrder, WorkRefused } from '../work/work-host.js';

const work = composeWork(workerData as WorkOptions);

export default async function run(order: WorkOrder): Promise<WorkRefused | ReturnType<typeof move>> {
  const done = await doWork(await work, order);
  return done instanceof Uint8Array ? move(done) : done;
}
