import '@xyflow/react/dist/style.css';
import {
  Background,
  Controls,
  getViewportForBounds,
  MiniMap,
  Position,
  ReactFlow,
  type CoordinateExtent,
  type Edge,
  type NodeHandle,
  type ReactFlowInstance,
  type ReactFlowProps,
  type Viewport,
} from '@xyflow/react';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type RefObject } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { lookAddress, traceAddress, useLens } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { colour, font } from '../../../ui/theme.js';
import { plateAt, type Box, type DrawnLine, type Drawing } from './drawing.js';
import type { MapNode } from './map-graph.js';
import { FAR, MapFar, Overview, Seen, type FarNode } from './map-afar.js';
import { MapFrame, MapPlate, type FrameNode, type PlateNode } from './map-plate.js';
import { partIn, seenBy, serves, widened } from './sight.js';

export interface MapFlowProps {
  readonly drawing: Drawing;
  readonly onFold: (id: string) => void;
}

/** A map that was laid out, to move over, to fold and to go on from. */
export function MapFlow({ drawing, onFold }: MapFlowProps): React.JSX.Element {
  const ground = useRef<HTMLDivElement>(null);
  const { shown, isFar, look } = useShown(drawing, onFold, ground);
  const opening = useOpening(drawing, ground, look);
  const seen = useMemo(() => ({ drawing, isFar }), [drawing, isFar]);
  const acts = useMapActs(drawing, onFold);
  return (
    <Seen value={seen}>
      <Ground ref={ground}>
        {opening ? (
          <ReactFlow
            {...shown}
            {...acts}
            onMove={(_, viewport) => look(viewport)}
            nodeTypes={NODE_TYPES}
            defaultViewport={opening}
            translateExtent={extentOf(drawing.bounds)}
            minZoom={ZOOM.least}
            maxZoom={ZOOM.most}
            onlyRenderVisibleElements
            nodesFocusable
            zoomOnDoubleClick={false}
            proOptions={{ hideAttribution: true }}
          >
            <Background color={colour.line} />
            <MiniMap pannable zoomable ariaLabel="Overview" nodeComponent={Overview} style={OVERVIEW_SIZE} />
            <Controls showInteractive={false} />
          </ReactFlow>
        ) : null}
      </Ground>
    </Seen>
  );
}

/** What is in sight at first; a later drawing of the same map does not move it. */
function useOpening(
  drawing: Drawing,
  ground: RefObject<HTMLDivElement | null>,
  look: (view: Viewport) => void,
): Viewport | undefined {
  const [opening, setOpening] = useState<Viewport>();
  const first = useRef(drawing);
  useLayoutEffect(() => {
    const { clientWidth, clientHeight } = ground.current ?? { clientWidth: 0, clientHeight: 0 };
    const view = openingView(first.current, { widthPx: clientWidth, heightPx: clientHeight });
    setOpening(view);
    look(view);
  }, [ground, look]);
  return opening;
}

type MapActs = Required<
  Pick<ReactFlowProps<AnyNode>, 'onInit' | 'onNodeClick' | 'onNodeDoubleClick' | 'onKeyDown'>
>;

/** What clicks and keys do on a plate. */
function useMapActs(drawing: Drawing, onFold: (id: string) => void): MapActs {
  const navigate = useNavigate();
  const [lens] = useLens();
  const { pointAt, toggleInTray } = useDesk();
  const byId = useMemo(() => new Map(drawing.plates.map(({ node }) => [node.id, node])), [drawing]);
  const flow = useRef<ReactFlowInstance<AnyNode>>(null);
  const focus = drawing.plates.find(({ node }) => node.role === 'focus');
  const focusReference = focus ? referenceOf(focus.node) : '';
  useEffect(() => pointAt(focusReference), [pointAt, focusReference]);
  /** The item that was clicked, on its plate or on the drawing of all. */
  const clicked = (event: React.MouseEvent, { id }: AnyNode): MapNode | undefined => {
    const known = byId.get(id);
    if (known || !flow.current) return known;
    const { x, y } = flow.current.screenToFlowPosition({ x: event.clientX, y: event.clientY });
    return plateAt(drawing, x, y)?.node;
  };
  const open = (of: MapNode): void => {
    if (of.item.isGap || of.item.isHidden || of.role === 'focus') return;
    void navigate(
      of.opens ??
        (of.role === 'paper' ? lookAddress(of.item.number) : traceAddress(referenceOf(of), lens, 'map')),
    );
  };
  return {
    onInit: (instance) => {
      flow.current = instance;
    },
    onNodeClick: (event, of) => {
      const node = clicked(event, of);
      if (node && !node.item.isGap && !node.item.isHidden) pointAt(referenceOf(node));
    },
    onNodeDoubleClick: (event, of) => {
      const node = clicked(event, of);
      if (node) open(node);
    },
    onKeyDown: (event) => {
      const id = (event.target as Element).closest('.react-flow__node')?.getAttribute('data-id');
      const node = byId.get(id ?? '');
      if (!node) return;
      if (event.key === 'Enter') open(node);
      else if (event.key === 'f' && node.canFold) onFold(node.id);
      else if (event.key === ' ' && node.item.version !== null)
        toggleInTray({ number: node.item.number, name: node.item.name });
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  };
}

type AnyNode = PlateNode | FrameNode | FarNode;

const NODE_TYPES = { plate: MapPlate, frame: MapFrame, far: MapFar };
const ZOOM = { least: 0.02, far: 0.5, readable: 0.8, most: 1.6 } as const;
/** Small, for it lies over the map. */
const OVERVIEW_SIZE = { width: 150, height: 106 } as const;
const INERT = { focusable: false, selectable: false } as const;

/**
 * What the canvas is given: the plates and lines near what is in sight. Seen from afar there would be too many to make,
 * and none could be read, so one drawing of all stands for them.
 */
function useShown(
  drawing: Drawing,
  onFold: MapFlowProps['onFold'],
  ground: RefObject<HTMLDivElement | null>,
): {
  readonly shown: { readonly nodes: AnyNode[]; readonly edges: Edge[] };
  readonly isFar: boolean;
  /** To be told where the canvas looks. */
  readonly look: (viewport: Viewport) => void;
} {
  /** Undefined from afar. */
  const [sight, setSight] = useState<Box>();
  const look = useCallback(
    (viewport: Viewport) => {
      const { clientWidth, clientHeight } = ground.current ?? { clientWidth: 0, clientHeight: 0 };
      const now = seenBy(viewport, { widthPx: clientWidth, heightPx: clientHeight });
      setSight((before) => {
        if (viewport.zoom < ZOOM.far) return undefined;
        return before && serves(before, now) ? before : widened(now);
      });
    },
    [ground],
  );
  const nodes = useMemo(() => nodesOf(drawing, onFold), [drawing, onFold]);
  const shown = useMemo(() => {
    const far: FarNode = { ...placed(drawing.bounds), ...INERT, id: FAR, type: 'far', data: {} };
    if (!sight) return { nodes: [far], edges: [] };
    const { ids, lines } = partIn(drawing, sight);
    return { nodes: [far, ...nodes.filter(({ id }) => ids.has(id))], edges: lines.map(edgeOf) };
  }, [drawing, nodes, sight]);
  return { shown, isFar: sight === undefined, look };
}

function nodesOf({ plates, frames }: Drawing, onFold: MapFlowProps['onFold']): AnyNode[] {
  return [
    ...frames.map((frame): FrameNode => ({
      ...placed(frame),
      ...INERT,
      id: frame.id,
      type: 'frame',
      data: {},
    })),
    ...plates.map(({ node, link, ...box }): PlateNode => ({
      ...placed(box),
      id: node.id,
      type: 'plate',
      data: { of: node, link, onFold },
      ariaLabel: `${node.item.number} ${node.item.name}, ${node.item.state ?? 'not in the store'}`,
    })),
  ];
}

function placed({ x, y, widthPx, heightPx }: Box) {
  return {
    position: { x, y },
    width: widthPx,
    height: heightPx,
    // Said here, they need not be measured, and nodes out of sight need not be made at all.
    handles: [
      { type: 'target', position: Position.Left, x: 0, y: heightPx / 2, width: 1, height: 1 },
      { type: 'source', position: Position.Right, x: widthPx - 1, y: heightPx / 2, width: 1, height: 1 },
    ] satisfies NodeHandle[],
    draggable: false,
    connectable: false,
  };
}

function edgeOf({ id, from, to, label, isBehind, isPaper }: DrawnLine): Edge {
  return {
    id,
    source: from,
    target: to,
    ...(label === '' ? {} : { label }),
    style: {
      stroke: isBehind ? colour.copper : colour.lineStrong,
      ...(isPaper ? { strokeDasharray: '3 3' } : {}),
    },
    focusable: false,
  };
}

function referenceOf({ item, role }: MapNode): string {
  return role === 'paper' || item.version === null ? item.number : `${item.number}@${item.version}`;
}

/** All of a small map; of a large one what lies around the focus, so that it can be read. */
function openingView(
  { plates, bounds }: Drawing,
  { widthPx, heightPx }: { readonly widthPx: number; readonly heightPx: number },
): Viewport {
  const all = getViewportForBounds(
    { x: bounds.x, y: bounds.y, width: bounds.widthPx, height: bounds.heightPx },
    widthPx,
    heightPx,
    ZOOM.least,
    ZOOM.most,
    0.1,
  );
  const focus = plates.find(({ node }) => node.role === 'focus');
  if (all.zoom >= ZOOM.readable || !focus) return all;
  const zoom = ZOOM.readable;
  return {
    x: widthPx / 2 - (focus.x + focus.widthPx) * zoom,
    y: heightPx / 2 - (focus.y + focus.heightPx / 2) * zoom,
    zoom,
  };
}

/** How far the map may be moved: never out of sight. */
function extentOf({ x, y, widthPx, heightPx }: Box): CoordinateExtent {
  const aroundPx = 600;
  return [
    [x - aroundPx, y - aroundPx],
    [x + widthPx + aroundPx, y + heightPx + aroundPx],
  ];
}

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
    border: 1px solid ${colour.line};
  }
  .react-flow__node:focus-visible {
    outline: 2px solid ${colour.petrol};
    outline-offset: 2px;
    border-radius: 4px;
  }
`;
