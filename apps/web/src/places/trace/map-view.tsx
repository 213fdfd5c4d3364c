import '@xyflow/react/dist/style.css';
import { useQuery } from '@tanstack/react-query';
import {
  Background,
  Controls,
  Handle,
  MiniMap,
  Position,
  ReactFlow,
  type Edge,
  type Node,
  type NodeProps,
  type ReactFlowInstance,
} from '@xyflow/react';
import { Download, Minus, Plus } from 'lucide-react';
import { memo, useEffect, useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { netQuery } from '../../api/net.js';
import { lookAddress, traceAddress, useChangeSearch, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { colour, font } from '../../ui/theme.js';
import { Tick } from '../../ui/tick.js';
import { layOut, NODE, PAPER, type Placed } from './map/layout.js';
import { mapGraph, MOST_MAP_NODES, type MapGraph, type MapNode } from './map/map-graph.js';
import { mapPng, mapSvg } from './map/map-picture.js';

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
  const used = useQuery({
    ...netQuery({ item: focus, lens, side: 'used', levels: Number(up), papers }),
  });
  const made = useQuery({
    ...netQuery({ item: focus, lens, side: 'made', levels: Number(down), papers }),
  });
  // Another cut of the structure is looked at anew; folding leaves the view where it is.
  const cut = [focus, lens, up, down, papers].join(' ');
  const wanted = useMemo(
    () =>
      used.data && made.data ? { cut, graph: mapGraph(used.data, made.data, { folded, papers }) } : undefined,
    [used.data, made.data, folded, papers, cut],
  );
  const graph = wanted?.graph;
  const laid = useLayout(wanted);
  const error = used.error ?? made.error ?? laid.error;
  const fold = (id: string): void =>
    setFolded((before) => {
      const next = new Set(before);
      if (next.has(id)) next.delete(id);
      else next.add(id);
      return next;
    });
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
        <Soft role="status">
          {graph ? `${graph.nodes.length.toLocaleString('en-GB')} items` : 'Reading the structure …'}
          {graph && graph.leftOut > 0
            ? `; ${graph.leftOut.toLocaleString('en-GB')} more links are left out beyond ${MOST_MAP_NODES.toLocaleString('en-GB')}`
            : ''}
        </Soft>
        <Spacer />
        {laid.shown ? <TakeAway {...laid.shown} name={focus} /> : null}
      </Line>
      {error ? <Trouble>{error.message}</Trouble> : null}
      {laid.shown ? (
        <Flow key={laid.shown.cut} {...laid.shown} onFold={fold} />
      ) : error ? null : (
        <Hint role="status">Laying the map out …</Hint>
      )}
    </>
  );
}

interface Shown {
  readonly cut: string;
  readonly graph: MapGraph;
  readonly placed: ReadonlyMap<string, Placed>;
}

function useLayout(wanted: Omit<Shown, 'placed'> | undefined): {
  readonly shown?: Shown;
  readonly error?: Error;
} {
  const [state, setState] = useState<{ shown?: Shown; error?: Error }>({});
  useEffect(() => {
    if (!wanted) return undefined;
    let isOld = false;
    layOut(wanted.graph)
      .then((placed) => {
        if (!isOld) setState({ shown: { ...wanted, placed } });
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

type PlateNode = Node<{ readonly of: MapNode; readonly onFold: (id: string) => void }, 'plate'>;

function Flow({
  graph,
  placed,
  onFold,
}: Shown & { readonly onFold: (id: string) => void }): React.JSX.Element {
  const navigate = useNavigate();
  const [lens] = useLens();
  const desk = useDesk();
  const nodes = useMemo(
    () =>
      graph.nodes.map((of): PlateNode => ({
        id: of.id,
        type: 'plate',
        position: placed.get(of.id) ?? { x: 0, y: 0 },
        data: { of, onFold },
        width: of.role === 'paper' ? PAPER.widthPx : NODE.widthPx,
        height: of.role === 'paper' ? PAPER.heightPx : NODE.heightPx,
        ariaLabel: `${of.item.number} ${of.item.name}, ${of.item.state ?? 'not in the store'}`,
        draggable: false,
        connectable: false,
      })),
    [graph, placed, onFold],
  );
  const edges = useMemo(
    () =>
      graph.edges.map(({ id, from, to, quantity, isBehind, isPaper }): Edge => ({
        id,
        source: from,
        target: to,
        // Labels of many edges would only cover each other.
        ...(isPaper || graph.edges.length > 400 ? {} : { label: `×${quantity}` }),
        style: {
          stroke: isBehind ? colour.copper : colour.lineStrong,
          ...(isPaper ? { strokeDasharray: '3 3' } : {}),
        },
        focusable: false,
      })),
    [graph],
  );
  const referenceOf = ({ item, role }: MapNode): string =>
    role === 'paper' || item.version === null ? item.number : `${item.number}@${item.version}`;
  const open = (of: MapNode): void => {
    if (of.item.isGap || of.item.isHidden || of.role === 'focus') return;
    void navigate(
      of.role === 'paper' ? lookAddress(of.item.number) : traceAddress(referenceOf(of), lens, 'map'),
    );
  };
  const { pointAt } = desk;
  const focus = graph.nodes.find(({ role }) => role === 'focus');
  const focusReference = focus ? referenceOf(focus) : '';
  useEffect(() => pointAt(focusReference), [pointAt, focusReference]);
  return (
    <Ground>
      <ReactFlow
        nodes={nodes}
        edges={edges}
        nodeTypes={NODE_TYPES}
        onInit={(flow) => void showFocus(flow, graph)}
        minZoom={0.05}
        maxZoom={1.6}
        onlyRenderVisibleElements
        nodesFocusable
        onNodeClick={(_, { data }) => {
          if (!data.of.item.isGap && !data.of.item.isHidden) pointAt(referenceOf(data.of));
        }}
        onNodeDoubleClick={(_, { data }) => open(data.of)}
        zoomOnDoubleClick={false}
        onKeyDown={(event) => {
          const id = (event.target as Element).closest('.react-flow__node')?.getAttribute('data-id');
          const node = graph.nodes.find((each) => each.id === id);
          if (!node) return;
          if (event.key === 'Enter') open(node);
          else if (event.key === 'f' && node.canFold) onFold(node.id);
          else if (event.key === ' ' && node.item.version !== null)
            desk.toggleInTray({ number: node.item.number, name: node.item.name });
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
        proOptions={{ hideAttribution: true }}
      >
        <Background color={colour.line} />
        <MiniMap pannable zoomable ariaLabel="Overview" nodeColor={miniColour} />
        <Controls showInteractive={false} />
      </ReactFlow>
    </Ground>
  );
}

/** All of a small map; of a large one what lies around the focus, so that it can be read. */
async function showFocus(flow: ReactFlowInstance<PlateNode, Edge>, graph: MapGraph): Promise<void> {
  await flow.fitView();
  if (flow.getZoom() >= READABLE) return;
  const focus = graph.nodes.find(({ role }) => role === 'focus');
  const node = focus && flow.getNode(focus.id);
  if (node) await flow.setCenter(node.position.x + NODE.widthPx, node.position.y, { zoom: READABLE });
}

const READABLE = 0.8;

function miniColour(node: PlateNode): string {
  return node.data.of.role === 'focus' ? colour.petrol : colour.lineStrong;
}

const PlateOnMap = memo(function PlateOnMap({
  data: { of, onFold },
}: NodeProps<PlateNode>): React.JSX.Element {
  const { item, role, isFolded, canFold } = of;
  return (
    <Plate data-role={role} data-gap={item.isGap || item.isHidden || undefined} title={item.name}>
      <Handle type="target" position={Position.Left} />
      <div>
        <StateGlyph state={item.state} />
        <Mono>{item.isHidden ? 'not visible' : item.number}</Mono>
        {item.isGap ? <AttentionMark>gap</AttentionMark> : null}
      </div>
      {role === 'paper' ? null : <Soft>{item.name}</Soft>}
      {canFold ? (
        <Fold
          type="button"
          tabIndex={-1}
          aria-label={isFolded ? `Unfold ${item.number}` : `Fold ${item.number}`}
          onClick={(event) => {
            event.stopPropagation();
            onFold(of.id);
          }}
        >
          {isFolded ? <Plus size={11} /> : <Minus size={11} />}
        </Fold>
      ) : null}
      <Handle type="source" position={Position.Right} />
    </Plate>
  );
});

const NODE_TYPES = { plate: PlateOnMap };

function TakeAway({ graph, placed, name }: Shown & { readonly name: string }): React.JSX.Element {
  const [trouble, setTrouble] = useState('');
  const take = async (kind: 'svg' | 'png'): Promise<void> => {
    try {
      const svg = mapSvg(graph, placed);
      const blob = kind === 'svg' ? new Blob([svg], { type: 'image/svg+xml' }) : await mapPng(svg);
      const link = document.createElement('a');
      link.href = URL.createObjectURL(blob);
      link.download = `map of ${name.replaceAll('/', '-')}.${kind}`;
      link.click();
      URL.revokeObjectURL(link.href);
      setTrouble('');
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      {trouble === '' ? null : <Soft role="alert">{trouble}</Soft>}
      <Button onPress={() => void take('svg')}>
        <Download size={15} aria-hidden /> SVG
      </Button>
      <Button onPress={() => void take('png')}>
        <Download size={15} aria-hidden /> PNG
      </Button>
    </>
  );
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
const Ground = styled.div`
  flex: 1;
  min-height: 0;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.surface};
  .react-flow__handle {
    opacity: 0;
    pointer-events: none;
  }
  .react-flow__edge-text {
    font-family: ${font.mono};
    font-size: 10px;
    fill: ${colour.petrol};
  }
  .react-flow__edge-textbg {
    fill: ${colour.surface};
  }
  .react-flow__minimap {
    background: ${colour.raised};
  }
  .react-flow__node:focus-visible {
    outline: 2px solid ${colour.petrol};
    outline-offset: 2px;
    border-radius: 4px;
  }
`;
const Plate = styled.div`
  height: 100%;
  box-sizing: border-box;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 1px;
  padding: 3px 8px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 3px;
  background: ${colour.raised};
  color: ${colour.ink};
  font-size: 12px;
  > div {
    display: flex;
    align-items: center;
    gap: 6px;
    white-space: nowrap;
    overflow: hidden;
  }
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 11px;
  }
  &[data-role='focus'] {
    border: 2px solid ${colour.petrol};
    background: ${colour.petrolSoft};
  }
  &[data-role='paper'] {
    border-style: dashed;
  }
  &[data-gap] {
    background: ${colour.copperSoft};
  }
`;
const Fold = styled.button`
  position: absolute;
  right: -9px;
  top: calc(50% - 8px);
  width: 17px;
  height: 17px;
  padding: 0;
  display: grid;
  place-items: center;
  border: 1px solid ${colour.lineStrong};
  border-radius: 50%;
  background: ${colour.raised};
  color: ${colour.ink};
`;
