/** Where states and the arrows of steps stand in the picture of a lifecycle: lanes from left to right, laid out by elk. */
import { LANES, type Diagram, type DiagramStep, type Lane } from '@stem-trace/core';
import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api.js';

export interface PlacedState {
  readonly name: string;
  readonly x: number;
  readonly y: number;
}

export interface PlacedArrow {
  readonly key: string;
  readonly step: string;
  /** SVG path. */
  readonly way: string;
  /** Whether it is what becomes of older revisions, rather than a step that is taken with them. */
  readonly isConsequence: boolean;
  /** Middle of its name. */
  readonly label: { readonly x: number; readonly y: number };
}

export interface PlacedLane {
  readonly lane: Lane;
  readonly x: number;
  readonly width: number;
}

export interface LifecyclePicture {
  readonly states: readonly PlacedState[];
  readonly arrows: readonly PlacedArrow[];
  readonly lanes: readonly PlacedLane[];
  readonly width: number;
  readonly height: number;
}

export const STATE_SIZE = { width: 136, height: 38 } as const;
const LABEL_HEIGHT = 16;
const LANE_GAP = 18;
/** Of the headings of lanes. */
export const HEAD_PX = 44;

/** What elk is given: each lane is a partition, so that lanes stand side by side whatever the steps are. */
export function lifecycleGraph({ states, steps }: Diagram): ElkNode {
  const known = new Set(states.map(({ name }) => name));
  return {
    id: 'lifecycle',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.partitioning.activate': 'true',
      'elk.edgeRouting': 'ORTHOGONAL',
      // What only becomes of older revisions belongs to the same picture.
      'elk.separateConnectedComponents': 'false',
      'elk.spacing.nodeNode': '36',
      'elk.spacing.edgeNode': '16',
      'elk.spacing.edgeEdge': '14',
      'elk.layered.spacing.nodeNodeBetweenLayers': '18',
      'elk.layered.spacing.edgeNodeBetweenLayers': '12',
      'elk.edgeLabels.placement': 'CENTER',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
    },
    children: states.map(({ name, lane }) => ({
      id: name,
      ...STATE_SIZE,
      layoutOptions: { 'elk.partitioning.partition': String(LANES.indexOf(lane)) },
    })),
    edges: steps.flatMap(waysOf).flatMap(({ name, from, to, isConsequence }) =>
      known.has(from) && known.has(to)
        ? {
            id: JSON.stringify([name, from, isConsequence]),
            sources: [from],
            targets: [to],
            labels: [{ text: name, width: name.length * 6 + 6, height: LABEL_HEIGHT }],
          }
        : [],
    ),
  };
}

interface Way {
  readonly name: string;
  readonly from: string;
  readonly to: string;
  readonly isConsequence: boolean;
}

/** Every way of a step: from each state it leads from, and from where it leads to what older ones become. */
function waysOf({ name, from, to, then }: DiagramStep): Way[] {
  return [
    ...from.map((each) => ({ name, from: each, to, isConsequence: false })),
    ...then.flatMap((each) =>
      each.kind === 'supersede' ? { name, from: to, to: each.to, isConsequence: true } : [],
    ),
  ];
}

/** Puts together what elk gave back. */
export function pictureOf(
  { states }: Diagram,
  { children = [], edges = [], width = 0, height = 0 }: ElkNode,
): LifecyclePicture {
  const placed = children.map(({ id, x = 0, y = 0 }) => ({ name: id, x, y: y + HEAD_PX }));
  const laneOf = new Map(states.map(({ name, lane }) => [name, lane]));
  const lanes = LANES.flatMap((lane): PlacedLane[] => {
    const own = placed.filter(({ name }) => laneOf.get(name) === lane);
    if (own.length === 0) return [];
    const left = Math.min(...own.map(({ x }) => x)) - LANE_GAP / 2;
    const right = Math.max(...own.map(({ x }) => x)) + STATE_SIZE.width + LANE_GAP / 2;
    return [{ lane, x: left, width: right - left }];
  });
  return {
    ...{ states: placed, lanes, width, height: height + HEAD_PX },
    arrows: edges.flatMap(arrowOf),
  };
}

function arrowOf({ id, sections = [], labels = [] }: ElkExtendedEdge): PlacedArrow[] {
  const [section] = sections;
  if (!section) return [];
  const [step, , isConsequence] = JSON.parse(id) as [string, string, boolean];
  const corners = [section.startPoint, ...(section.bendPoints ?? []), section.endPoint];
  const way = corners
    .map(({ x, y }, at) => `${at === 0 ? 'M' : 'L'}${x.toFixed(1)} ${(y + HEAD_PX).toFixed(1)}`)
    .join('');
  const { x = 0, y = 0, width = 0, height = 0 } = labels[0] ?? {};
  return [{ key: id, step, way, isConsequence, label: { x: x + width / 2, y: y + height / 2 + HEAD_PX } }];
}
