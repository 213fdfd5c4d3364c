import type { SceneNodeView } from '@stem-trace/contract';

/** Uses with all that lies in them; a use comes after what it lies in. `O(nodes)` */
export function withInside(
  nodes: readonly SceneNodeView[],
  chosen: ReadonlySet<number>,
): ReadonlySet<number> {
  if (chosen.size === 0) return chosen;
  const inside = new Set(chosen);
  nodes.forEach(({ parent }, at) => (inside.has(parent) ? inside.add(at) : undefined));
  return inside;
}

/** Depth of each use, the item itself being 1. */
export function levelsOf(nodes: readonly SceneNodeView[]): number[] {
  const levels: number[] = [];
  for (const { parent } of nodes) levels.push((levels[parent] ?? 0) + 1);
  return levels;
}

/** Those of which nothing that they lie in is closed. */
export function inSight(nodes: readonly SceneNodeView[], closed: ReadonlySet<number>): number[] {
  const shut = new Set<number>();
  return nodes.flatMap(({ parent }, at) => {
    if (shut.has(parent) || closed.has(parent)) {
      shut.add(at);
      return [];
    }
    return at;
  });
}
