/** What a change touches, drawn: what it names and makes, and what hangs on that. */
import type { ChangeMapAnswer } from '@stem-trace/contract';
import { isChange } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { changeMapQuery } from '../../../api/changes.js';
import { changeAddress, lookAddress, traceAddress } from '../../../frame/addresses.js';
import { Hint, Soft, Trouble } from '../../../ui/controls.js';
import { layOut } from '../../trace/map/layout.js';
import { MapFlow } from '../../trace/map/map-flow.js';
import type { MapGraph } from '../../trace/map/map-graph.js';

export function ChangeMap({ change }: { readonly change: string }): React.JSX.Element {
  const { data, error } = useQuery(changeMapQuery(change));
  const graph = useMemo(() => (data ? graphOf(data) : undefined), [data]);
  const drawing = useQuery({
    queryKey: ['change map drawing', graph],
    queryFn: () => (graph ? layOut(graph) : Promise.reject(new Error('nothing to lay out'))),
    enabled: graph !== undefined,
    staleTime: Infinity,
  });
  const wrong = error ?? drawing.error;
  if (wrong) return <Trouble>{wrong.message}</Trouble>;
  if (!drawing.data || !data) return <Hint role="status">Laying the map out …</Hint>;
  return (
    <>
      <Soft role="status">
        {data.nodes.length} touched{data.more > 0 ? `; ${data.more} more are left out` : ''}
        {data.hidden > 0 ? `; ${data.hidden} not visible to you` : ''}. Lines say why something is there.
      </Soft>
      <MapFlow drawing={drawing.data} onFold={() => undefined} />
    </>
  );
}

/** The change in the middle: what asked for it to the left, what it makes and touches to the right. */
export function graphOf({ nodes, edges }: ChangeMapAnswer): MapGraph {
  return {
    leftOut: 0,
    nodes: nodes.map(({ key, number, name, state, kind, role }) => ({
      id: key,
      item: { number, name, state, version: null, isGap: false, isHidden: false },
      role: role === 'change' ? 'focus' : role === 'document' || isChange(kind) ? 'paper' : 'item',
      ...{ isFolded: false, canFold: false },
      opens: isChange(kind)
        ? changeAddress(number)
        : role === 'document'
          ? lookAddress(number)
          : traceAddress(number),
    })),
    edges: joined(edges).map(({ from, to, says }) => ({
      id: `${from} ${to}`,
      ...(says === 'answers' || says === 'answered by' ? { from: to, to: from } : { from, to }),
      ...{ quantity: 1, isBehind: false, isPaper: says === 'shown on' || says === 'described in', says },
    })),
  };
}

/** One line for all reasons between the same two. */
function joined(edges: ChangeMapAnswer['edges']): ChangeMapAnswer['edges'] {
  const by = new Map<string, { from: string; to: string; says: string }>();
  for (const { from, to, says } of edges) {
    const key = `${from} ${to}`;
    const known = by.get(key);
    by.set(key, { from, to, says: known && known.says !== says ? `${known.says}, ${says}` : says });
  }
  return [...by.values()];
}
