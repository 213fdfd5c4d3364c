/** Changes that are under way stand beside the item in the middle, as satellites. */
import type { ChangeRow } from '@stem-trace/contract';
import { isFinished } from '@stem-trace/core';
import { changeAddress } from '../../../frame/addresses.js';
import type { MapGraph } from './map-graph.js';

const MOST = 8;

export function withChanges(graph: MapGraph, changes: readonly ChangeRow[] = []): MapGraph {
  const focus = graph.nodes.find(({ role }) => role === 'focus');
  const open = changes.filter(({ lane }) => !isFinished(lane)).slice(0, MOST);
  if (!focus || open.length === 0) return graph;
  return {
    ...graph,
    nodes: [
      ...graph.nodes,
      ...open.map(({ number, name, state }) => ({
        id: `change ${number}`,
        item: { number, name, state, version: null, isGap: false, isHidden: false },
        ...({ role: 'paper', isFolded: false, canFold: false } as const),
        opens: changeAddress(number),
      })),
    ],
    edges: [
      ...graph.edges,
      ...open.map(({ number }) => ({
        id: `${focus.id} change ${number}`,
        ...{ from: focus.id, to: `change ${number}`, quantity: 1, isBehind: false, isPaper: true },
      })),
    ],
  };
}
