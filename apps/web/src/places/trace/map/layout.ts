/** Lays a map out in layers from users to what they use, by elk in a worker of its own. */
import ElkConstructor, { type ElkNode } from 'elkjs/lib/elk-api.js';
import elkWorker from 'elkjs/lib/elk-worker.min.js?url';
import type { MapGraph } from './map-graph.js';

export const NODE = { widthPx: 176, heightPx: 46 } as const;
export const PAPER = { widthPx: 128, heightPx: 30 } as const;

export interface Placed {
  readonly x: number;
  readonly y: number;
}

let elk: InstanceType<typeof ElkConstructor> | undefined;

/** Where each node goes, by id, in pixels. */
export async function layOut({ nodes, edges }: MapGraph): Promise<ReadonlyMap<string, Placed>> {
  elk ??= new ElkConstructor({ workerUrl: elkWorker, workerFactory: (url = elkWorker) => new Worker(url) });
  const graph: ElkNode = {
    id: 'map',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.spacing.nodeNode': '14',
      'elk.layered.spacing.nodeNodeBetweenLayers': '70',
      // Large maps are laid out well enough, but soon.
      'elk.layered.thoroughness': nodes.length > 400 ? '1' : '7',
      'elk.layered.nodePlacement.strategy': nodes.length > 400 ? 'SIMPLE' : 'BRANDES_KOEPF',
    },
    children: nodes.map(({ id, role }) => {
      const { widthPx, heightPx } = role === 'paper' ? PAPER : NODE;
      return { id, width: widthPx, height: heightPx };
    }),
    edges: edges.map(({ id, from, to }) => ({ id, sources: [from], targets: [to] })),
  };
  const laid = await elk.layout(graph);
  return new Map((laid.children ?? []).map(({ id, x = 0, y = 0 }) => [id, { x, y }]));
}
