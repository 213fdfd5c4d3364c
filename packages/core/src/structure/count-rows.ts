import type { StructureGraph } from './graph.js';
import { follow, linksUnder } from './lens.js';
import type { Lens } from '../model/lens.js';

/**
 * How many rows a tree below a version would have, without making them: each version is looked at once, however many ways
 * lead to it. A version that contains itself is counted where it is met again, and not opened. `O(links)`.
 *
 * @returns Infinity where the number is beyond what a double holds
 */
export function countTreeRows(graph: StructureGraph, root: string, lens: Lens): number {
  const known = new Map<string, number>();
  const onPath = new Set<string>([root]);
  const stack = [{ version: root, links: linksUnder(graph, root, lens), next: 0, rows: 0 }];
  for (let top = stack.at(-1); top; top = stack.at(-1)) {
    const link = top.links[top.next];
    if (!link) {
      known.set(top.version, top.rows);
      onPath.delete(top.version);
      stack.pop();
      continue;
    }
    const child = follow(graph, link, lens)?.id;
    const below = child === undefined || onPath.has(child) ? 0 : known.get(child);
    if (below === undefined && child !== undefined) {
      // It is counted first; this link comes up again then.
      onPath.add(child);
      stack.push({ version: child, links: linksUnder(graph, child, lens), next: 0, rows: 0 });
      continue;
    }
    top.rows += 1 + (below ?? 0);
    top.next++;
  }
  return known.get(root) ?? 0;
}
