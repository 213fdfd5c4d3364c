import type { Net, NetLink } from './net.js';

export interface Chain {
  /** From the user at its beginning to the item at its end. */
  readonly links: readonly NetLink[];
  /** Of the last in one of the first. */
  readonly quantity: number;
  /**
   * Names of the configurations in which all its links are; absent where that is every one, empty where no single one
   * holds them all.
   */
  readonly configurations?: readonly string[];
}

export interface Chains {
  readonly chains: readonly Chain[];
  /** Chains that there are, listed or not. */
  readonly count: number;
  /** Over all of them. */
  readonly quantity: number;
}

export interface ChainCounts {
  /** Ways from each node down to the one asked about, and its quantity over all of them. */
  readonly counts: Float64Array;
  readonly quantities: Float64Array;
}

/** How many chains lead from each node down to one, without walking them. `O(nodes + links)` */
export function chainCounts(net: Net, to: number): ChainCounts {
  const counts = new Float64Array(net.nodes.length);
  const quantities = new Float64Array(net.nodes.length);
  counts[to] = 1;
  quantities[to] = 1;
  for (const node of net.inwards()) {
    if (node === to) continue;
    for (const link of net.below(node)) {
      counts[node] = (counts[node] ?? 0) + (counts[link.to] ?? 0);
      quantities[node] = (quantities[node] ?? 0) + (quantities[link.to] ?? 0) * link.quantity;
    }
  }
  return { counts, quantities };
}

/**
 * Every way from one node down to another, the shortest first among those listed. `O(links + length of what is listed)`
 *
 * @param known of `chainCounts`, where it is there already
 */
export function chainsBetween(
  net: Net,
  from: number,
  to: number,
  most = 1000,
  { counts, quantities }: ChainCounts = chainCounts(net, to),
): Chains {
  if (from === to || counts[from] === 0) return { chains: [], count: 0, quantity: 0 };
  const chains: Chain[] = [];
  // Breadth first, and only along what leads there, so that each step is a step of some chain.
  let ends: { readonly node: number; readonly links: readonly NetLink[]; readonly quantity: number }[] = [
    { node: from, links: [], quantity: 1 },
  ];
  while (ends.length > 0 && chains.length < most) {
    const next: typeof ends = [];
    for (const end of ends) {
      for (const link of net.below(end.node)) {
        if ((counts[link.to] ?? 0) === 0) continue;
        const longer = {
          node: link.to,
          links: [...end.links, link],
          quantity: end.quantity * link.quantity,
        };
        if (link.to !== to) {
          // As many beginnings as chains are wanted are enough.
          if (next.length < most) next.push(longer);
        } else if (chains.length < most) chains.push(chainOf(longer.links, longer.quantity));
      }
    }
    ends = next;
  }
  return { chains, count: counts[from] ?? 0, quantity: quantities[from] ?? 0 };
}

function chainOf(links: readonly NetLink[], quantity: number): Chain {
  const limits = links.flatMap(({ configurations }) => (configurations ? [configurations] : []));
  const [first, ...others] = limits;
  if (!first) return { links, quantity };
  const configurations = first.filter((name) => others.every((names) => names.includes(name)));
  return { links, quantity, configurations };
}

/** Nodes that nothing uses and from which the given one can be reached. */
export function productsOf(net: Net, node: number): number[] {
  const seen = new Set([node]);
  const stack = [node];
  const products: number[] = [];
  for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
    const users = net.above(at);
    if (users.length === 0 && at !== node) products.push(at);
    for (const { from } of users) {
      if (seen.has(from)) continue;
      seen.add(from);
      stack.push(from);
    }
  }
  return products.sort((a, b) => a - b);
}
