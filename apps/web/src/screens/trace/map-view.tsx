import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { changesQuery } from '../../api/changes.js';
import { netQuery } from '../../api/net.js';
import { useChangeSearch, useLens } from '../../frame/addresses.js';
import { Choice, Hint, Soft, Trouble } from '../../ui/controls.js';
import { Tick } from '../../ui/tick.js';
import type { Drawing } from './map/drawing.js';
import { layOut } from './map/layout.js';
import { withChanges } from './map/with-changes.js';
import { MapFlow } from './map/map-flow.js';
import { mapGraph, MOST_MAP_NODES, type MapGraph } from './map/map-graph.js';
import { TakeAway } from './map/take-away.js';

const LEVELS = [
  { key: '1', text: '1' },
  { key: '2', text: '2' },
  { key: '3', text: '3' },
  { key: '0', text: 'all' },
] as const;
type LevelKey = (typeof LEVELS)[number]['key'];

/** Structure around the focus as a drawing of plates and lines; users to the left, what is used to the right. */
export function MapView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [search] = useSearchParams();
  const [lens] = useLens();
  const level = (name: string): LevelKey => LEVELS.find(({ key }) => key === search.get(name))?.key ?? '2';
  const [up, down] = [level('up'), level('down')];
  const papers = search.get('papers') === 'yes';
  const change = useChangeSearch();
  const set = (name: string, value: string): void => change({ [name]: value });
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const used = useQuery(netQuery({ item: focus, lens, side: 'used', levels: Number(up), papers }));
  const made = useQuery(netQuery({ item: focus, lens, side: 'made', levels: Number(down), papers }));
  const changes = useQuery(changesQuery(focus.split('@')[0])).data;
  // Another cut of the structure is looked at anew; folding leaves the view where it is.
  const cut = [focus, lens, up, down, papers].join(' ');
  const wanted = useMemo(
    () =>
      used.data && made.data
        ? { cut, graph: withChanges(mapGraph(used.data, made.data, { folded, papers }), changes) }
        : undefined,
    [used.data, made.data, folded, papers, cut, changes],
  );
  const graph = wanted?.graph;
  const laid = useLayout(wanted);
  const error = used.error ?? made.error ?? laid.error;
  const fold = useCallback(
    (id: string): void =>
      setFolded((before) => {
        const next = new Set(before);
        if (next.has(id)) next.delete(id);
        else next.add(id);
        return next;
      }),
    [],
  );
  return (
    <>
      <Line>
        <Soft>Levels up</Soft>
        <Choice label="Levels up" options={LEVELS} value={up} onChange={(key) => set('up', key)} />
        <Soft>down</Soft>
        <Choice label="Levels down" options={LEVELS} value={down} onChange={(key) => set('down', key)} />
        <Tick isSelected={papers} onChange={(on) => set('papers', on ? 'yes' : '')}>
          Drawings and documents
        </Tick>
        <Soft role="status">{graph ? sayCut(graph) : 'Reading the structure …'}</Soft>
        <Spacer />
        {laid.shown ? <TakeAway drawing={laid.shown.drawing} name={focus} /> : null}
      </Line>
      {error ? <Trouble>{error.message}</Trouble> : null}
      {laid.shown ? (
        <MapFlow key={laid.shown.cut} drawing={laid.shown.drawing} onFold={fold} />
      ) : error ? null : (
        <Hint role="status">Laying the map out …</Hint>
      )}
    </>
  );
}

function sayCut({ nodes, leftOut }: MapGraph): string {
  const items = `${nodes.length.toLocaleString('en-GB')} items`;
  if (leftOut === 0) return items;
  return `${items}; ${leftOut.toLocaleString('en-GB')} more links are left out beyond ${MOST_MAP_NODES.toLocaleString('en-GB')}`;
}

interface Shown {
  readonly cut: string;
  readonly drawing: Drawing;
}

function useLayout(wanted: { readonly cut: string; readonly graph: MapGraph } | undefined): {
  readonly shown?: Shown;
  readonly error?: Error;
} {
  const [state, setState] = useState<{ shown?: Shown; error?: Error }>({});
  useEffect(() => {
    if (!wanted) return undefined;
    let isOld = false;
    layOut(wanted.graph)
      .then((drawing) => {
        if (!isOld) setState({ shown: { cut: wanted.cut, drawing } });
      })
      .catch((error: unknown) => {
        if (!isOld) setState({ error: error instanceof Error ? error : new Error(String(error)) });
      });
    return () => {
      isOld = true;
    };
  }, [wanted]);
  return state;
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 10px;
`;
const Spacer = styled.span`
  flex: 1;
`;
