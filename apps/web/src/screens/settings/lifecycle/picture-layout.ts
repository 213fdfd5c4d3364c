/** Where states and the arrows of steps stand in the picture of a lifecycle: lanes from left to right, laid out by elk. */
import { LANES, type Diagram, type Lane } from '@stem-trace/core';
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

export const STATE_SIZE = { width: 132, height: 34 } as const;
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
      'elk.spacing.nodeNode': '36',
      'elk.spacing.edgeNode': '16',
      'elk.spacing.edgeEdge': '14',
      'elk.layered.spacing.nodeNodeBetweenLayers': '46',
      'elk.layered.spacing.edgeNodeBetweenLayers': '20',
      'elk.edgeLabels.placement': 'CENTER',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
    },
    children: states.map(({ name, lane }) => ({
      id: name,
      ...STATE_SIZE,
      layoutOptions: { 'elk.partitioning.partition': String(LANES.indexOf(lane)) },
    })),
    edges: steps.flatMap(({ name, from, to }) =>
      from
        .filter((each) => known.has(each) && known.has(to))
        .map((each) => ({
          id: JSON.stringify([name, each]),
          sources: [each],
          targets: [to],
          labels: [{ text: name, width: name.length * 6.4 + 8, height: LABEL_HEIGHT }],
        })),
    ),
  };
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
  const [step = ''] = JSON.parse(id) as string[];
  const corners = [section.startPoint, ...(section.bendPoints ?? []), section.endPoint];
  const way = corners
    .map(({ x, y }, at) => `${at === 0 ? 'M' : 'L'}${x.toFixed(1)} ${(y + HEAD_PX).toFixed(1)}`)
    .join('');
  const { x = 0, y = 0, width = 0, height = 0 } = labels[0] ?? {};
  return [{ key: id, step, way, label: { x: x + width / 2, y: y + height / 2 + HEAD_PX } }];
}
