import { IDENTITY_PLACEMENT, type Placement } from '../intake/reading.js';
import { StructureTooLarge } from '../structure/errors.js';
import type { StructureGraph } from '../structure/graph.js';
import { follow, linksUnder, type Lens } from '../structure/lens.js';
import { multiply } from './placement.js';

/** What a scene needs to know of a version. */
export interface SceneNode {
  readonly isPart: boolean;
  /** Version whose file holds its geometry; its own id where it has a file. */
  readonly file: string;
}

/** A file's geometry, and everywhere it stands in the root's frame. */
export interface SceneFile {
  readonly file: string;
  readonly at: readonly Placement[];
}

const MAX_INSTANCES = 20_000;

/**
 * Where the geometry of every file of a tree stands, under any lens, so that an assembly can be shown that was never saved as
 * a whole. What lives in a file is drawn with it, once for each place of the file. `O(placed occurrences)`.
 *
 * @param nodeOf a version of the tree
 * @throws StructureTooLarge beyond 20,000 placed files
 */
export function sceneOf(
  graph: StructureGraph,
  root: string,
  { lens, nodeOf }: { readonly lens: Lens; readonly nodeOf: (version: string) => SceneNode | undefined },
): SceneFile[] {
  const placed = new Map<string, Placement[]>();
  let instances = 0;
  const place = (file: string, at: Placement): void => {
    if (++instances > MAX_INSTANCES) throw new StructureTooLarge(MAX_INSTANCES);
    const list = placed.get(file);
    if (list) list.push(at);
    else placed.set(file, [at]);
  };
  const visit = (version: string, at: Placement, path: ReadonlySet<string>): boolean => {
    const node = nodeOf(version);
    if (!node || path.has(version)) return false;
    const deeper = new Set(path).add(version);
    let holdsCarriedPart = node.isPart;
    for (const link of linksUnder(graph, version, lens)) {
      const child = follow(graph, link, lens);
      if (!child) continue;
      for (const { placement } of link.occurrences) {
        const inside = visit(child.id, multiply(at, placement), deeper);
        holdsCarriedPart ||= link.carried && inside;
      }
    }
    // Only the file's own root places it; what lives in it says upwards that there is geometry.
    if (node.file === version && holdsCarriedPart) place(version, at);
    return node.file !== version && holdsCarriedPart;
  };
  visit(root, IDENTITY_PLACEMENT, new Set());
  return [...placed].map(([file, at]) => ({ file, at }));
}
