/**
 * Nodes that hang at one other alone are put into a block of several columns, so that an assembly with hundreds of
 * parts is no tower of them. A block takes part in the layout as one node, with one line to it.
 */
import type { MapEdge, MapGraph, MapNode } from './map-graph.js';

export interface Size {
  readonly widthPx: number;
  readonly heightPx: number;
}

export interface Member {
  readonly node: MapNode;
  /** The one link it has. */
  readonly link: MapEdge;
}

export interface Block extends Size {
  readonly id: string;
  /** Row by row. */
  readonly members: readonly Member[];
  readonly columns: number;
  /** From one member to the next, across and down. */
  readonly step: Size;
}

/** A map whose blocks are put together: `lines` lead to and from blocks instead of their members. */
export interface Blocked {
  readonly alone: readonly MapNode[];
  readonly blocks: readonly Block[];
  readonly lines: readonly MapEdge[];
}

/** Fewer stand below each other; in a large map, where height is dear, less than a handful do. */
const LEAST = { small: 16, large: 4 } as const;
const LARGE = 400;
const GAP_PX = 14;
/** Between the frame of a block and its members. */
export const BLOCK_EDGE_PX = 10;

/** Puts blocks together. O(nodes + edges). */
export function blocked({ nodes, edges }: MapGraph, sizeOf: (node: MapNode) => Size): Blocked {
  const links = new Map<string, MapEdge[]>();
  const note = (id: string, edge: MapEdge): void => {
    const known = links.get(id);
    if (known) known.push(edge);
    else links.set(id, [edge]);
  };
  for (const edge of edges) {
    note(edge.from, edge);
    note(edge.to, edge);
  }
  const groups = new Map<string, Member[]>();
  for (const node of nodes) {
    const [link, other] = links.get(node.id) ?? [];
    if (!link || other || node.role === 'focus') continue;
    const owner = link.from === node.id ? `of ${link.to}` : `by ${link.from}`;
    const key = `${node.role} used ${owner}`;
    const group = groups.get(key);
    if (group) group.push({ node, link });
    else groups.set(key, [{ node, link }]);
  }
  const least = nodes.length > LARGE ? LEAST.large : LEAST.small;
  const blocks = [...groups.values()]
    .filter(({ length }) => length >= least)
    .map((members, at) => block(`block ${at}`, members, sizeOf));
  const blockOf = new Map(
    blocks.flatMap(({ id, members }) => members.map(({ node }) => [node.id, id] as const)),
  );
  const lines = new Map<string, MapEdge>();
  for (const edge of edges) {
    const [from, to] = [blockOf.get(edge.from) ?? edge.from, blockOf.get(edge.to) ?? edge.to];
    const id = `${from} ${to}`;
    const isBehind = edge.isBehind || (lines.get(id)?.isBehind ?? false);
    lines.set(id, { ...edge, id, from, to, isBehind });
  }
  return { alone: nodes.filter(({ id }) => !blockOf.has(id)), blocks, lines: [...lines.values()] };
}

function block(id: string, members: readonly Member[], sizeOf: (node: MapNode) => Size): Block {
  const { widthPx, heightPx } = members.map(({ node }) => sizeOf(node))[0] ?? { widthPx: 0, heightPx: 0 };
  const step = { widthPx: widthPx + GAP_PX, heightPx: heightPx + GAP_PX };
  // About as high as it is wide.
  const columns = Math.ceil(Math.sqrt((members.length * step.heightPx) / step.widthPx));
  return {
    id,
    members,
    columns,
    step,
    widthPx: columns * step.widthPx - GAP_PX + 2 * BLOCK_EDGE_PX,
    heightPx: Math.ceil(members.length / columns) * step.heightPx - GAP_PX + 2 * BLOCK_EDGE_PX,
  };
}
