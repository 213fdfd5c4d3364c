/** Questions to the link index. Answers are sets with totals, not trees: a part in a million places is one row each. */
import type { Lens } from '../../model/lens.js';
import { Column } from './columns.js';
import { eachLinkBelow, MarkSet, Upward } from './follow.js';
import { NONE, type LinkIndex } from './link-index.js';

export interface Totals {
  /** Ids of versions. */
  readonly versions: Float64Array;
  /** Shortest way to the one asked about, 1 for direct neighbours. */
  readonly levels: Uint16Array;
  /** Quantity over all ways. */
  readonly totals: Float64Array;
  /** Whether nothing lies beyond: upwards a product, downwards something made of nothing. */
  readonly isEnd: Uint8Array;
}

/**
 * Every version that uses an item, under a lens, with the quantity of the item in it over all ways. The same as
 * `whereUsed` summed by version. `O(links reached)`; an edge that would close a circle is left out.
 */
export function whereUsedTotals(index: LinkIndex, itemId: number, lens: Lens, levels = Infinity): Totals {
  const item = index.item(itemId);
  if (item === NONE) return none();
  const upward = new Upward(index, lens);
  return collect({
    count: index.versionIds.length,
    levels,
    eachFromStart: (call) => upward.eachParent(item, NONE, call),
    eachNext: (version, call) => upward.eachParent(index.itemOfVersion(version), version, call),
    idOf: (version) => index.versionIds.at(version),
  });
}

/** A set of versions with how far away they are. */
export interface Reached {
  /** Ids of versions. */
  readonly versions: Float64Array;
  /** Shortest way to the one asked about, 1 for direct neighbours. */
  readonly levels: Uint16Array;
}

/**
 * Every version that uses an item, under a lens, at any level: `whereUsedTotals` without quantities, which cost most of
 * its time. `O(links reached)`
 */
export function whereUsedSet(index: LinkIndex, itemId: number, lens: Lens): Reached {
  const item = index.item(itemId);
  if (item === NONE) return { versions: new Float64Array(0), levels: new Uint16Array(0) };
  const upward = new Upward(index, lens);
  const mark = new MarkSet(index.versionIds.length);
  upward.markParents(item, NONE, mark);
  const levels: number[] = [];
  // Breadth first, a level at a time: all that are reached until now lie at most so far away.
  for (let at = 0; at < mark.count;) {
    levels.push(mark.count);
    for (const end = mark.count; at < end; at++) {
      const version = mark.reached[at] ?? 0;
      upward.markParents(index.itemOfVersion(version), version, mark);
    }
  }
  const found: Reached = { versions: new Float64Array(mark.count), levels: new Uint16Array(mark.count) };
  for (let at = 0; at < mark.count; at++) found.versions[at] = index.versionIds.at(mark.reached[at] ?? 0);
  levels.forEach((end, level) => found.levels.fill(level + 1, levels[level - 1] ?? 0, end));
  return found;
}

/** Every version that a version is made of, under a lens, with its quantity over all ways. `O(links reached)` */
export function explodeTotals(index: LinkIndex, versionId: number, lens: Lens, levels = Infinity): Totals {
  const root = index.version(versionId);
  if (root === NONE) return none();
  const eachChild = (version: number, call: (next: number, quantity: number) => void): void =>
    eachLinkBelow(index, version, lens, (child, link) => {
      if (child !== NONE) call(child, index.quantityOf(link));
    });
  return collect({
    count: index.versionIds.length,
    levels,
    eachFromStart: (call) => eachChild(root, call),
    eachNext: eachChild,
    idOf: (version) => index.versionIds.at(version),
  });
}

/** Products that use an item, each with the quantity in one product. */
export function topTotals(index: LinkIndex, itemId: number, lens: Lens): Totals {
  const all = whereUsedTotals(index, itemId, lens);
  const tops: number[] = [];
  all.isEnd.forEach((end, at) => {
    if (end === 1) tops.push(at);
  });
  return {
    versions: Float64Array.from(tops, (at) => all.versions[at] ?? 0),
    levels: Uint16Array.from(tops, (at) => all.levels[at] ?? 0),
    totals: Float64Array.from(tops, (at) => all.totals[at] ?? 0),
    isEnd: new Uint8Array(tops.length).fill(1),
  };
}

interface Walk {
  /** Versions that there are. */
  readonly count: number;
  readonly levels: number;
  readonly eachFromStart: (call: (next: number, quantity: number) => void) => void;
  readonly eachNext: (version: number, call: (next: number, quantity: number) => void) => void;
  readonly idOf: (version: number) => number;
}

/**
 * Walks once breadth first for the levels, then in an order where everything comes after what leads to it, adding up
 * quantities on the way. Links are kept while they are walked, so that each is looked up once.
 */
function collect({ count, levels, eachFromStart, eachNext, idOf }: Walk): Totals {
  const slotOf = new Int32Array(count).fill(NONE);
  const reached = Column.ints(256);
  const level = Column.ints(256);
  const edgeTo = Column.ints(1024);
  const edgeQuantity = Column.floats(1024);
  const edgeStart = Column.ints(256);
  let depth = 1;
  const take = (next: number, quantity: number): void => {
    let slot = slotOf[next] ?? NONE;
    if (slot === NONE) {
      slot = reached.push(next);
      slotOf[next] = slot;
      level.push(depth);
    }
    edgeTo.push(slot);
    edgeQuantity.push(quantity);
  };
  let beyond = 0;
  const notice = (): void => {
    beyond++;
  };
  eachFromStart(take);
  const startEdges = edgeTo.length;
  const isEnd = Column.bytes(256);
  for (let slot = 0; slot < reached.length; slot++) {
    edgeStart.push(edgeTo.length);
    depth = level.at(slot) + 1;
    beyond = 0;
    // Beyond the levels asked for it only matters whether there is anything.
    eachNext(reached.at(slot), depth <= levels ? take : notice);
    isEnd.push(edgeStart.at(slot) === edgeTo.length && beyond === 0 ? 1 : 0);
  }
  edgeStart.push(edgeTo.length);
  const nodes = reached.length;
  const edges = {
    nodes,
    startEdges,
    edgeStart: edgeStart.data,
    edgeTo: edgeTo.data,
    edgeQuantity: edgeQuantity.data,
  };
  const versions = new Float64Array(nodes);
  for (let slot = 0; slot < nodes; slot++) versions[slot] = idOf(reached.at(slot));
  return {
    versions,
    levels: Uint16Array.from(level.data.subarray(0, nodes)),
    totals: levels === 1 ? addUpOnce(edges) : addUp(edges),
    isEnd: isEnd.data.slice(0, nodes),
  };
}

interface Edges {
  readonly nodes: number;
  readonly startEdges: number;
  readonly edgeStart: Int32Array;
  readonly edgeTo: Int32Array;
  readonly edgeQuantity: Float64Array;
}

/** Quantities of direct neighbours. */
function addUpOnce({ nodes, startEdges, edgeTo, edgeQuantity }: Edges): Float64Array {
  const totals = new Float64Array(nodes);
  for (let edge = 0; edge < startEdges; edge++) {
    const node = edgeTo[edge] ?? 0;
    totals[node] = (totals[node] ?? 0) + (edgeQuantity[edge] ?? 0);
  }
  return totals;
}

/** Quantities over all ways: a node passes its own on when all that lead to it have passed theirs. */
function addUp(edges: Edges): Float64Array {
  const { nodes, startEdges, edgeStart, edgeTo, edgeQuantity } = edges;
  const totals = addUpOnce(edges);
  const waitsFor = new Int32Array(nodes);
  const edgeEnd = edgeStart[nodes] ?? 0;
  for (let edge = startEdges; edge < edgeEnd; edge++) {
    const node = edgeTo[edge] ?? 0;
    waitsFor[node] = (waitsFor[node] ?? 0) + 1;
  }
  const ready = new Int32Array(nodes);
  let count = 0;
  for (let node = 0; node < nodes; node++) if (waitsFor[node] === 0) ready[count++] = node;
  for (let at = 0; at < count; at++) {
    const node = ready[at] ?? 0;
    const own = totals[node] ?? 0;
    const end = edgeStart[node + 1] ?? 0;
    for (let edge = edgeStart[node] ?? 0; edge < end; edge++) {
      const next = edgeTo[edge] ?? 0;
      totals[next] = (totals[next] ?? 0) + own * (edgeQuantity[edge] ?? 0);
      const left = (waitsFor[next] ?? 0) - 1;
      waitsFor[next] = left;
      if (left === 0) ready[count++] = next;
    }
  }
  // What is left stands in a circle, which check-in refuses but old data may hold.
  return count === nodes ? totals : addUpWithoutCircles(edges);
}

/** As `addUp`, depth first, so that the links which close a circle are known and left out. */
function addUpWithoutCircles(edges: Edges): Float64Array {
  const { nodes, startEdges, edgeStart, edgeTo, edgeQuantity } = edges;
  const totals = addUpOnce(edges);
  const order: number[] = [];
  const state = new Uint8Array(nodes);
  const skipped = new Set<number>();
  const stack: { node: number; at: number }[] = [];
  const enter = (node: number): void => {
    state[node] = 1;
    stack.push({ node, at: edgeStart[node] ?? 0 });
  };
  for (let edge = 0; edge < startEdges; edge++) {
    const root = edgeTo[edge] ?? 0;
    if (state[root] === 0) enter(root);
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      if (top.at >= (edgeStart[top.node + 1] ?? 0)) {
        state[top.node] = 2;
        order.push(top.node);
        stack.pop();
        continue;
      }
      const edgeAt = top.at++;
      const next = edgeTo[edgeAt] ?? 0;
      if (state[next] === 0) enter(next);
      else if (state[next] === 1) skipped.add(edgeAt);
    }
  }
  for (let at = order.length - 1; at >= 0; at--) {
    const node = order[at] ?? 0;
    const own = totals[node] ?? 0;
    for (let edge = edgeStart[node] ?? 0; edge < (edgeStart[node + 1] ?? 0); edge++) {
      if (skipped.has(edge)) continue;
      const next = edgeTo[edge] ?? 0;
      totals[next] = (totals[next] ?? 0) + own * (edgeQuantity[edge] ?? 0);
    }
  }
  return totals;
}

/** Arrays of its own each time: an answer's memory is given away with it. */
function none(): Totals {
  return {
    versions: new Float64Array(0),
    levels: new Uint16Array(0),
    totals: new Float64Array(0),
    isEnd: new Uint8Array(0),
  };
}
