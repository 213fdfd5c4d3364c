/** Lays a map out in layers from users to what they use, by elk in a worker of its own. */
import ElkConstructor, { type ElkNode } from 'elkjs/lib/elk-api.js';
import elkWorker from 'elkjs/lib/elk-worker.min.js?url';
import { blocked } from './blocks.js';
import { drawingOf, elkGraph, sizeOf, type Drawing } from './drawing.js';
import type { MapGraph } from './map-graph.js';

let elk: InstanceType<typeof ElkConstructor> | undefined;

/** @throws Error where elk cannot lay it out. */
export async function layOut(graph: MapGraph): Promise<Drawing> {
  elk ??= new ElkConstructor({ workerUrl: elkWorker, workerFactory: (url = elkWorker) => new Worker(url) });
  const parts = blocked(graph, sizeOf);
  return drawingOf(parts, (await elk.layout(elkGraph(parts))) as ElkNode);
}
