import { isPaper, known, Net, ownValue, sumOf, valueAt, type RolledSum } from '@stem-trace/core';
import type { LoadedRollUp, RolledKey, RollUpNode } from './load.js';

/** What an item adds up to, as it is kept beside it. */
export interface ItemSums {
  readonly item: string;
  /** Absent where it is made of nothing: what it says itself is all there is. */
  readonly rolled?: Readonly<Record<RolledKey, RolledSum>>;
  /** Places of all that it is made of. */
  readonly places: readonly string[];
  readonly properties: RollUpNode['properties'];
}

/** A version, or a gap, among what hangs together. */
interface Spot {
  readonly number: string;
  readonly name: string;
  readonly state: null;
  readonly kind: 'document' | 'part';
  readonly isGap: boolean;
  readonly isHidden: boolean;
  readonly node?: RollUpNode;
}

/** Sums of the items that are wanted, each from what lies directly below it. `O(nodes + links)` */
export function sumUp({ wanted, nodes, links, properties }: LoadedRollUp): ItemSums[] {
  const net = netOf(nodes, links);
  const sums: Record<RolledKey, RolledSum>[] = [];
  const below: ReadonlySet<string>[] = [];
  const done = new Map<string, ItemSums>();
  for (const at of net.inwards()) {
    const spot = valueAt(net.nodes, at);
    const { node } = spot;
    const lines = net.below(at);
    const isBuilt = lines.some(({ to }) => !isPaper(net.nodes[to]));
    sums[at] =
      node?.known ??
      (Object.fromEntries(
        properties.map((property) => [
          property.key,
          sumOf(
            node && ownValue(node.properties, property),
            isPaper(spot),
            lines.map(({ to, quantity }) => ({
              sum: valueAt(sums, to)[property.key],
              quantity,
              isPaper: isPaper(net.nodes[to]),
            })),
          ),
        ]),
      ) as Record<RolledKey, RolledSum>);
    const places = new Set(node?.places);
    for (const { to } of lines) {
      const child = net.nodes[to]?.node;
      // What weighs nothing tells nothing.
      if (!child || child.isPaper) continue;
      places.add(child.place);
      for (const one of valueAt(below, to)) places.add(one);
    }
    below[at] = places;
    // Where somebody made a version while this was read, two seem to be the newest: whichever is kept, the item is noted again.
    if (node && !node.known && wanted.has(node.item) && node.isNewest)
      done.set(node.item, {
        item: node.item,
        ...(isBuilt ? { rolled: valueAt(sums, at) } : {}),
        places: [...places].sort(),
        properties: node.properties,
      });
  }
  return [...done.values()];
}

/** Gaps are places of their own, so that each counts as a line that says nothing. */
function netOf(nodes: LoadedRollUp['nodes'], links: LoadedRollUp['links']): Net<Spot> {
  const spots: Spot[] = [];
  const at = new Map<string, number>();
  const put = (number: string, isGap: boolean, node?: RollUpNode): number =>
    spots.push({
      number,
      name: '',
      state: null,
      kind: node?.isPaper ? 'document' : 'part',
      isGap,
      isHidden: false,
      ...(node ? { node } : {}),
    }) - 1;
  for (const [version, node] of nodes) at.set(version, put(version, false, node));
  return new Net(
    spots,
    links.map(({ parent, child, quantity }) => ({
      from: known(at, parent),
      to: child === null ? put('', true) : known(at, child),
      quantity,
      behind: 0,
    })),
  );
}
