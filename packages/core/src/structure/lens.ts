/** How a graph is followed under a lens. */
import { isIn, keepsRecorded, leavesOut, passesOver, type Lens } from '../model/lens.js';
import type { VersionNode } from '../model/version.js';
import type { LinkEdge, StructureGraph } from './graph.js';

/** Links of a version that count under a lens. */
export function linksUnder(graph: StructureGraph, versionId: string, lens: Lens): readonly LinkEdge[] {
  const links = graph.linksOf(versionId);
  return leavesOut(lens) ? links.filter((link) => isIn(link, lens)) : links;
}

/** The version of an item that a lens picks without looking at a link; `recorded` picks the newest. */
export function pickVersion(graph: StructureGraph, itemId: string, lens: Lens): VersionNode | undefined {
  return graph
    .versionsOf(itemId)
    .findLast(
      ({ id, releasedAtMs, createdAtMs, effectivity }) =>
        !passesOver(lens, releasedAtMs, createdAtMs, id, effectivity),
    );
}

/** The version that a link leads to under a lens; undefined is a gap. */
export function follow(graph: StructureGraph, link: LinkEdge, lens: Lens): VersionNode | undefined {
  if (link.targetItem === undefined) return undefined;
  if (keepsRecorded(lens, link.carried) && link.targetVersion !== undefined)
    return graph.version(link.targetVersion);
  return pickVersion(graph, link.targetItem, lens);
}

/** How many versions a link's recorded version lies behind the newest; 0 where it is the newest or a gap. */
export function behindBy(graph: StructureGraph, link: LinkEdge): number {
  if (link.targetItem === undefined || link.targetVersion === undefined || link.carried) return 0;
  const recorded = graph.version(link.targetVersion);
  const newest = graph.newestOf(link.targetItem);
  return recorded && newest ? newest.ordinal - recorded.ordinal : 0;
}
