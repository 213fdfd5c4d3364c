import type { LinkEdge, StructureGraph, VersionNode } from './graph.js';

/** How links are turned into a tree; see the glossary. */
export type Lens = (
  | { readonly kind: 'recorded' }
  | { readonly kind: 'newest' }
  | { readonly kind: 'released' }
  | { readonly kind: 'date'; readonly atMs: number }
) & {
  /** Leaves out links that belong to other configurations only; all of them count where absent. */
  readonly configuration?: string;
};

/** Whether a link counts under a lens: it belongs to every configuration, or to the one that is looked at. */
export function isIn({ configurations = [] }: Pick<LinkEdge, 'configurations'>, lens: Lens): boolean {
  return (
    lens.configuration === undefined ||
    configurations.length === 0 ||
    configurations.includes(lens.configuration)
  );
}

/** Links of a version that count under a lens. */
export function linksUnder(graph: StructureGraph, versionId: string, lens: Lens): readonly LinkEdge[] {
  const links = graph.linksOf(versionId);
  return lens.configuration === undefined ? links : links.filter((link) => isIn(link, lens));
}

export const RECORDED: Lens = { kind: 'recorded' };

/** The version of an item that a lens picks without looking at a link; `recorded` picks the newest. */
export function pickVersion(graph: StructureGraph, itemId: string, lens: Lens): VersionNode | undefined {
  switch (lens.kind) {
    case 'recorded':
    case 'newest':
      return graph.newestOf(itemId);
    case 'released':
      return graph.versionsOf(itemId).findLast((version) => version.released);
    case 'date':
      return graph.versionsOf(itemId).findLast((version) => version.createdAtMs <= lens.atMs);
  }
}

/** The version that a link leads to under a lens; undefined is a gap. */
export function follow(graph: StructureGraph, link: LinkEdge, lens: Lens): VersionNode | undefined {
  if (link.targetItem === undefined) return undefined;
  if ((lens.kind === 'recorded' || link.carried) && link.targetVersion !== undefined)
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
