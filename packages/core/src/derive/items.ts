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
export function groupByItem(nodes: readonly OriginNode[]): Map<string, OriginItem> {
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
