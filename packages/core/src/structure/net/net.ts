/**
 * What hangs together around an item, each version once, with the links between them: the outline, the map and the
 * chains are worked out from it where they are shown.
 */
import type { LinkFacts } from '../../model/link.js';
import type { ItemKind } from '../../model/reading.js';

export interface NetNode {
  readonly number: string;
  readonly name: string;
  /** Absent or null for a gap and for what may not be seen. */
  readonly kind?: ItemKind | null;
  /** Null for a gap and for what may not be seen. */
  readonly state: string | null;
  /** Nothing is there: the reference leads nowhere under the lens. */
  readonly isGap: boolean;
  /** Of a gap: whether the item is there, only not under the lens. */
  readonly isInStore?: boolean;
  /** Something is there that the asker may not see. */
  readonly isHidden: boolean;
  /** Of one of it, in kg; absent where nobody says. */
  readonly massKg?: number;
  /** Of one of it, in the currency of the store. */
  readonly cost?: number;
}

/** A link between places of a net. */
export interface NetLink extends Pick<LinkFacts, 'quantity' | 'configurations'> {
  /** Places of the user and of the used one among the nodes. */
  readonly from: number;
  readonly to: number;
  /** Versions that the recorded one is behind the newest. */
  readonly behind: number;
}

/** A net with ways through it. The links of one user keep their order. */
export class Net<N extends NetNode = NetNode> {
  private readonly down: (readonly NetLink[])[];
  private readonly up: (readonly NetLink[])[];

  /** Links that would close a circle are left out. `O(nodes + links)` */
  constructor(
    readonly nodes: readonly N[],
    links: readonly NetLink[],
  ) {
    const down = nodes.map((): NetLink[] => []);
    for (const link of links) down[link.from]?.push(link);
    const closing = closingLinks(down);
    this.down = closing.size === 0 ? down : down.map((list) => list.filter((link) => !closing.has(link)));
    const up = nodes.map((): NetLink[] => []);
    for (const list of this.down) for (const link of list) up[link.to]?.push(link);
    this.up = up;
  }

  below(node: number): readonly NetLink[] {
    return this.down[node] ?? [];
  }

  above(node: number): readonly NetLink[] {
    return this.up[node] ?? [];
  }

  /** Nodes, each after all that it is made of. */
  inwards(): number[] {
    const order: number[] = [];
    const isDone = new Uint8Array(this.nodes.length);
    for (let start = 0; start < this.nodes.length; start++) {
      const stack: { readonly node: number; next: number }[] = isDone[start]
        ? []
        : [{ node: start, next: 0 }];
      for (let top = stack.at(-1); top; top = stack.at(-1)) {
        const link = this.below(top.node)[top.next++];
        if (link) {
          if (!isDone[link.to]) stack.push({ node: link.to, next: 0 });
        } else {
          if (!isDone[top.node]) order.push(top.node);
          isDone[top.node] = 1;
          stack.pop();
        }
      }
    }
    return order;
  }
}

function closingLinks(down: readonly (readonly NetLink[])[]): ReadonlySet<NetLink> {
  const closing = new Set<NetLink>();
  const state = new Uint8Array(down.length);
  for (let start = 0; start < down.length; start++) {
    if (state[start] !== 0) continue;
    state[start] = 1;
    const stack: { readonly node: number; next: number }[] = [{ node: start, next: 0 }];
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const link = down[top.node]?.[top.next++];
      if (!link) {
        state[top.node] = 2;
        stack.pop();
      } else if (state[link.to] === 1) closing.add(link);
      else if (state[link.to] === 0) {
        state[link.to] = 1;
        stack.push({ node: link.to, next: 0 });
      }
    }
  }
  return closing;
}
