/** What the map shows: nodes around the focus, up to as many as can be drawn, without what was folded. */
import type { NetNodeRow, PaperRow } from '@stem-trace/contract';
import type { OpenNet } from '../../../api/net.js';

export const MOST_MAP_NODES = 2000;

export interface MapNode {
  readonly id: string;
  readonly item: Pick<
    NetNodeRow,
    'number' | 'name' | 'state' | 'version' | 'isGap' | 'isHidden' | 'isInStore'
  >;
  readonly role: 'focus' | 'item' | 'paper';
  readonly isFolded: boolean;
  /** Whether it has something to fold, or folded away. */
  readonly canFold: boolean;
  /** What it opens, where that is not its own structure. */
  readonly opens?: string;
}

export interface MapEdge {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  readonly quantity: number;
  readonly isBehind: boolean;
  readonly isPaper: boolean;
  /** Why it is there, where it is no use of one in another. */
  readonly says?: string;
}

export interface MapGraph {
  readonly nodes: readonly MapNode[];
  readonly edges: readonly MapEdge[];
  /** Nodes that were left out because there are too many. */
  readonly leftOut: number;
}

export interface MapOptions {
  /** Ids of nodes whose further nodes are not shown, unless something else leads there. */
  readonly folded: ReadonlySet<string>;
  readonly papers: boolean;
}

/** Joins what uses the focus with what it is made of. Nearest nodes come first where there are too many. */
export function mapGraph(used: OpenNet, made: OpenNet, { folded, papers }: MapOptions): MapGraph {
  const nodes = new Map<string, MapNode>();
  const edges = new Map<string, MapEdge>();
  let leftOut = 0;
  for (const side of ['made', 'used'] as const) {
    const { net } = side === 'made' ? made : used;
    const ids = net.nodes.map((node, at) => idOf(node, at, side));
    const reached = new Set([0]);
    // The focus is on both sides.
    const most = MOST_MAP_NODES - Math.max(0, nodes.size - 1);
    const queue = [0];
    for (let at = queue.shift(); at !== undefined; at = queue.shift()) {
      const node = net.nodes[at];
      const id = ids[at] ?? '';
      if (!node) continue;
      const links = side === 'made' ? net.below(at) : net.above(at);
      const isFolded = folded.has(id);
      nodes.set(id, {
        id,
        item: node,
        role: at === 0 ? 'focus' : 'item',
        isFolded: isFolded || (nodes.get(id)?.isFolded ?? false),
        canFold: at !== 0 && (links.length > 0 || (nodes.get(id)?.canFold ?? false)),
      });
      if (isFolded) continue;
      for (const link of links) {
        const next = side === 'made' ? link.to : link.from;
        if (!reached.has(next)) {
          if (reached.size >= most) {
            leftOut++;
            continue;
          }
          reached.add(next);
          queue.push(next);
        }
        const [from, to] = [ids[link.from] ?? '', ids[link.to] ?? ''];
        edges.set(`${from} ${to}`, {
          id: `${from} ${to}`,
          from,
          to,
          quantity: (edges.get(`${from} ${to}`)?.quantity ?? 0) + link.quantity,
          isBehind: link.behind > 0,
          isPaper: false,
        });
      }
    }
    if (papers) addPapers(side === 'made' ? made : used, ids, nodes, edges);
  }
  // A link to a node that was left out leads nowhere.
  const shown = [...edges.values()].filter(({ from, to }) => nodes.has(from) && nodes.has(to));
  return { nodes: [...nodes.values()], edges: shown, leftOut };
}

function addPapers(
  { papers }: { readonly papers: readonly PaperRow[] },
  ids: readonly string[],
  nodes: Map<string, MapNode>,
  edges: Map<string, MapEdge>,
): void {
  for (const { number, name, state, of } of papers) {
    const owner = ids[of] ?? '';
    if (!nodes.has(owner) || nodes.size >= MOST_MAP_NODES) continue;
    const id = `paper ${number}`;
    nodes.set(id, {
      id,
      item: { number, name, state, version: null, isGap: false, isHidden: false },
      role: 'paper',
      isFolded: false,
      canFold: false,
    });
    edges.set(`${owner} ${id}`, {
      id: `${owner} ${id}`,
      from: owner,
      to: id,
      quantity: 1,
      isBehind: false,
      isPaper: true,
    });
  }
}

function idOf({ number, version, isGap, isHidden }: NetNodeRow, at: number, side: string): string {
  return isGap || isHidden ? `${side} ${at}` : `${number}@${version}`;
}
