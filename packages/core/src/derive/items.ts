import { addTo, known } from '../collections.js';
import type { Source } from '../model/reading.js';
import type { OriginNode } from './types.js';

/** An item of the origin's tree, whichever versions of it stand there. */
export interface OriginItem {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly source: Source;
  readonly idInFile: string;
  readonly isTop: boolean;
  readonly isPaper: boolean;
  readonly depicts: Set<string>;
  readonly parents: Set<string>;
  readonly children: Set<string>;
  readonly carriers: Set<string>;
  readonly carried: Set<string>;
}

/** Items in the order of their first version. `O(nodes + uses)` */
function groupByItem(nodes: readonly OriginNode[]): Map<string, OriginItem> {
  const items = new Map<string, OriginItem>();
  const itemOf = new Map(nodes.map((node) => [node.versionId, node.itemId]));
  for (const [index, node] of nodes.entries()) {
    if (items.has(node.itemId)) continue;
    const { itemId, number, name, fileName, source, idInFile, isPaper = false } = node;
    items.set(itemId, {
      isPaper,
      itemId,
      number,
      name,
      fileName,
      source,
      idInFile,
      isTop: index === 0,
      depicts: new Set(),
      parents: new Set(),
      children: new Set(),
      carriers: new Set(),
      carried: new Set(),
    });
  }
  for (const node of nodes) {
    for (const shown of node.depicts ?? []) items.get(node.itemId)?.depicts.add(shown);
    for (const child of node.children) {
      const childItem = items.get(itemOf.get(child) ?? '');
      childItem?.parents.add(node.itemId);
      if (childItem) items.get(node.itemId)?.children.add(childItem.itemId);
    }
    const carrier = node.carrierVersion === undefined ? undefined : itemOf.get(node.carrierVersion);
    if (carrier === undefined) continue;
    items.get(node.itemId)?.carriers.add(carrier);
    items.get(carrier)?.carried.add(node.itemId);
  }
  return items;
}

/** Products that live in one file: they go together, for a file can only be copied whole. */
export interface OriginUnit {
  readonly root: OriginNode;
  readonly nodes: readonly OriginNode[];
  /** Versions that others of the unit use. */
  readonly usedWithin: ReadonlySet<string>;
  /** Versions that are in the file though nothing in it uses them. */
  readonly besides: readonly string[];
}

/** What planning needs to know of an origin's tree, whatever is decided. */
export interface OriginTree {
  readonly items: ReadonlyMap<string, OriginItem>;
  readonly byVersion: ReadonlyMap<string, OriginNode>;
  /** Versions that others use. */
  readonly used: ReadonlySet<string>;
  /** By version. */
  readonly units: ReadonlyMap<string, OriginUnit>;
}

const TREES = new WeakMap<readonly OriginNode[], OriginTree>();

/** `O(nodes + uses)` for nodes that are new, and at once when they are planned from again. */
export function originTree(nodes: readonly OriginNode[]): OriginTree {
  const before = TREES.get(nodes);
  if (before) return before;
  const byVersion = new Map(nodes.map((node) => [node.versionId, node]));
  const inUnit = new Map<OriginNode, OriginNode[]>();
  for (const node of nodes) addTo(inUnit, carrierOf(node, byVersion), node);
  const units = new Map<string, OriginUnit>();
  for (const [root, inside] of inUnit) {
    const usedWithin = new Set(inside.flatMap(({ children }) => children));
    const besides = inside.flatMap(({ versionId }) => (usedWithin.has(versionId) ? [] : versionId));
    const unit = { root, nodes: inside, usedWithin, besides };
    for (const { versionId } of inside) units.set(versionId, unit);
  }
  const tree = {
    items: groupByItem(nodes),
    byVersion,
    used: new Set(nodes.flatMap(({ children }) => children)),
    units,
  };
  TREES.set(nodes, tree);
  return tree;
}

/** The unit that a version of the tree belongs to. */
export function unitOf({ units }: OriginTree, { versionId }: OriginNode): OriginUnit {
  return known(units, versionId);
}

/** What has the file that a product lives in, itself where it has one. */
function carrierOf(node: OriginNode, byVersion: ReadonlyMap<string, OriginNode>): OriginNode {
  let carrier = node;
  for (let next: OriginNode | undefined = node; next; next = byVersion.get(next.carrierVersion ?? ''))
    carrier = next;
  return carrier;
}
