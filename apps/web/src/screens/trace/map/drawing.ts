/** A map as it is drawn: plates, frames around blocks of them, and lines, all with their places. */
import type { ElkNode } from 'elkjs/lib/elk-api.js';
import { BLOCK_EDGE_PX, type Block, type Blocked, type Size } from './blocks.js';
import type { MapEdge, MapNode } from './map-graph.js';

const NODE: Size = { widthPx: 176, heightPx: 46 };
const PAPER: Size = { widthPx: 128, heightPx: 30 };

export interface Box extends Size {
  readonly x: number;
  readonly y: number;
}

export interface DrawnPlate extends Box {
  readonly node: MapNode;
  /** Of the one link of a plate in a block, said on the plate itself; the lines say the others. */
  readonly link?: MapEdge;
}

export interface Frame extends Box {
  readonly id: string;
  readonly count: number;
}

export interface DrawnLine {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  /** `×4`, or empty. */
  readonly label: string;
  readonly isBehind: boolean;
  readonly isPaper: boolean;
}

export interface Drawing {
  readonly plates: readonly DrawnPlate[];
  readonly frames: readonly Frame[];
  readonly lines: readonly DrawnLine[];
  /** Around all of it. */
  readonly bounds: Box;
}

/** Boxes as one shape, in the syntax of SVG paths. */
export function outlineOf(boxes: readonly Box[]): string {
  return boxes
    .map(({ x, y, widthPx, heightPx }) => `M${x} ${y}h${widthPx}v${heightPx}h${-widthPx}z`)
    .join('');
}

export function sizeOf({ role }: Pick<MapNode, 'role'>): Size {
  return role === 'paper' ? PAPER : NODE;
}

/** More nodes are laid out well enough, but soon. */
const LARGE = 400;

/** What elk is given: nodes that are in no block, and the blocks. */
export function elkGraph({ alone, blocks, lines }: Blocked): ElkNode {
  const isLarge = alone.length + blocks.length > LARGE;
  return {
    id: 'map',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.spacing.nodeNode': '14',
      'elk.layered.spacing.nodeNodeBetweenLayers': '70',
      // Lines are curves of our own; ways for them at right angles would take most of the time.
      'elk.edgeRouting': 'POLYLINE',
      'elk.layered.thoroughness': isLarge ? '1' : '7',
      'elk.layered.nodePlacement.strategy': isLarge ? 'SIMPLE' : 'BRANDES_KOEPF',
    },
    children: [...alone.map((node) => ({ id: node.id, ...sizeOf(node) })), ...blocks].map(
      ({ id, widthPx, heightPx }) => ({ id, width: widthPx, height: heightPx }),
    ),
    edges: lines.map(({ id, from, to }) => ({ id, sources: [from], targets: [to] })),
  };
}

/** More lines say no quantities: they would only cover each other. */
const MOST_LABELS = 400;

/** Puts together what elk gave back. */
export function drawingOf({ alone, blocks, lines }: Blocked, { children = [] }: ElkNode): Drawing {
  const corners = new Map(children.map(({ id, x = 0, y = 0 }) => [id, { x, y }]));
  const corner = (id: string): { readonly x: number; readonly y: number } =>
    corners.get(id) ?? { x: 0, y: 0 };
  const frames = blocks.map(({ id, widthPx, heightPx, members }) => ({
    id,
    ...corner(id),
    widthPx,
    heightPx,
    count: members.length,
  }));
  const plates = [
    ...alone.map((node) => ({ node, ...corner(node.id), ...sizeOf(node) })),
    ...blocks.flatMap((block) => inBlock(block, corner(block.id))),
  ];
  const isBlock = new Set(blocks.map(({ id }) => id));
  return {
    plates,
    frames,
    lines: lines.map(({ id, from, to, quantity, isBehind, isPaper, says }) => ({
      id,
      from,
      to,
      label:
        says !== undefined && lines.length <= MOST_LABELS
          ? says
          : isPaper || isBlock.has(from) || isBlock.has(to) || lines.length > MOST_LABELS
            ? ''
            : `×${quantity}`,
      isBehind,
      isPaper,
    })),
    bounds: around([...plates, ...frames]),
  };
}

/** Plates and frames by id. */
export function boxesOf({ plates, frames }: Drawing): Map<string, Box> {
  const boxes = new Map<string, Box>();
  for (const plate of plates) boxes.set(plate.node.id, plate);
  for (const frame of frames) boxes.set(frame.id, frame);
  return boxes;
}

/** The curve of a line, from the right edge of one box to the left edge of another, in the syntax of SVG paths. */
export function wayBetween(from: Box, to: Box): string {
  const [x1, y1] = [from.x + from.widthPx, from.y + from.heightPx / 2];
  const [x2, y2] = [to.x, to.y + to.heightPx / 2];
  const middle = (x1 + x2) / 2;
  return `M${x1} ${y1}C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}`;
}

/** The plate at a point of the map. O(plates). */
export function plateAt({ plates }: Drawing, x: number, y: number): DrawnPlate | undefined {
  return plates.find(
    (plate) => x >= plate.x && x <= plate.x + plate.widthPx && y >= plate.y && y <= plate.y + plate.heightPx,
  );
}

function inBlock(
  { members, columns, step }: Block,
  { x, y }: { readonly x: number; readonly y: number },
): DrawnPlate[] {
  return members.map(({ node, link }, at) => ({
    node,
    link,
    x: x + BLOCK_EDGE_PX + (at % columns) * step.widthPx,
    y: y + BLOCK_EDGE_PX + Math.floor(at / columns) * step.heightPx,
    ...sizeOf(node),
  }));
}

function around(boxes: readonly Box[]): Box {
  const [left, top] = [least(boxes.map(({ x }) => x)), least(boxes.map(({ y }) => y))];
  const right = -least(boxes.map(({ x, widthPx }) => -x - widthPx));
  const bottom = -least(boxes.map(({ y, heightPx }) => -y - heightPx));
  return { x: left, y: top, widthPx: right - left, heightPx: bottom - top };
}

function least(values: readonly number[]): number {
  return values.reduce((a, b) => Math.min(a, b), Infinity);
}
