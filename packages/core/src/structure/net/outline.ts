/** An indented tree of a net, of which only what is open is laid out. */
import type { Net, NetLink } from './net.js';

export interface OutlineRow {
  /** The way to it: places of links among those of their users, joined by points. Empty for the root. */
  readonly path: string;
  readonly node: number;
  /** 1 for the root. */
  readonly level: number;
  /** Absent for the root. */
  readonly link?: NetLink;
  /** In one root. */
  readonly total: number;
  readonly hasMore: boolean;
  readonly isOpen: boolean;
}

/** Most rows that are laid out at once. */
export const MAX_OUTLINE_ROWS = 200_000;

/** Places of the links of one user, in the order in which they are laid out. */
export type OrderLinks = (links: readonly NetLink[]) => readonly number[];

const AS_THEY_COME: OrderLinks = (links) => [...links.keys()];

/**
 * Rows of a tree in which the given paths are open; the root is always open. `O(rows)`
 *
 * @param order of what stands beside each other; paths stay what they are, so that what is open stays open
 */
export function outlineRows(
  net: Net,
  root: number,
  open: ReadonlySet<string>,
  order: OrderLinks = AS_THEY_COME,
): OutlineRow[] {
  const rows: OutlineRow[] = [];
  const push = (row: Omit<OutlineRow, 'hasMore' | 'isOpen'>): boolean => {
    const hasMore = net.below(row.node).length > 0;
    const isOpen = hasMore && (row.path === '' || open.has(row.path));
    rows.push({ ...row, hasMore, isOpen });
    return isOpen;
  };
  push({ path: '', node: root, level: 1, total: 1 });
  const entered = (node: number, path: string, total: number): Entered => ({
    ...{ node, path, total, next: 0 },
    order: order(net.below(node)),
  });
  const stack = [entered(root, '', 1)];
  for (let top = stack.at(-1); top; top = stack.at(-1)) {
    const at = top.order[top.next++];
    const link = at === undefined ? undefined : net.below(top.node)[at];
    if (!link || rows.length >= MAX_OUTLINE_ROWS) {
      stack.pop();
      continue;
    }
    const path = top.path === '' ? String(at) : `${top.path}.${at}`;
    const total = top.total * link.quantity;
    if (push({ path, node: link.to, level: stack.length + 1, link, total }))
      stack.push(entered(link.to, path, total));
  }
  return rows;
}

/** A node whose rows are being laid out. */
interface Entered {
  readonly node: number;
  readonly path: string;
  readonly total: number;
  readonly order: readonly number[];
  next: number;
}

/** Paths to be open so that so many levels show: 1 shows the root alone. */
export function openToLevel(net: Net, root: number, levels: number): Set<string> {
  return pathsWhere(net, root, (_, level) => level < levels);
}

/** Paths to be open so that every node that fits can be seen. `O(rows of the whole tree)`, up to the most that there may be */
export function openToNodes(net: Net, root: number, fits: (node: number) => boolean): Set<string> {
  // A branch is opened where anything that fits lies below.
  const holds = new Uint8Array(net.nodes.length);
  for (const node of net.inwards())
    holds[node] = net.below(node).some(({ to }) => holds[to] === 1 || fits(to)) ? 1 : 0;
  return pathsWhere(net, root, (node) => holds[node] === 1);
}

function pathsWhere(net: Net, root: number, isOpen: (node: number, level: number) => boolean): Set<string> {
  const open = new Set<string>();
  const stack = [{ node: root, path: '', level: 1 }];
  for (let top = stack.pop(); top && open.size < MAX_OUTLINE_ROWS; top = stack.pop()) {
    const { node, path, level } = top;
    const links = net.below(node);
    if (links.length === 0 || !isOpen(node, level)) continue;
    if (path !== '') open.add(path);
    links.forEach(({ to }, at) =>
      stack.push({ node: to, path: path === '' ? String(at) : `${path}.${at}`, level: level + 1 }),
    );
  }
  return open;
}
