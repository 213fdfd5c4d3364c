/**
 * Links between versions, for asking both ways. Holds whatever part of the store a question needs; who fills it
 * decides how much that is. Cost of every accessor: `O(answer)`.
 */
import type { LinkLimits } from '../model/lens.js';
import type { LinkFacts } from '../model/link.js';
import type { VersionNode } from '../model/version.js';

/** A link between versions and items of the store, by their ids. */
export interface LinkEdge extends Omit<LinkFacts, 'relation'>, LinkLimits {
  readonly id: string;
  readonly parentVersion: string;
  /** Absent where the reference is a gap. */
  readonly targetItem?: string;
  /** The version seen at check-in; absent where the reference is a gap. */
  readonly targetVersion?: string;
  /** What the file calls the target; all that is known of a gap. */
  readonly targetText: string;
  readonly locator?: string;
  /** Among the links of its version. */
  readonly position?: number;
}

export class StructureGraph {
  private readonly byId = new Map<string, VersionNode>();
  private readonly byItem = new Map<string, VersionNode[]>();
  private readonly down = new Map<string, LinkEdge[]>();
  private readonly up = new Map<string, LinkEdge[]>();

  private readonly known = new Set<string>();

  constructor(versions: Iterable<VersionNode>, links: Iterable<LinkEdge>) {
    this.add(versions, links);
  }

  /** Adds what is not in it yet. `O(added)`, with the histories of the items that got versions sorted anew. */
  add(versions: Iterable<VersionNode>, links: Iterable<LinkEdge>): void {
    const histories = new Set<VersionNode[]>();
    for (const version of versions) {
      if (this.byId.has(version.id)) continue;
      this.byId.set(version.id, version);
      histories.add(append(this.byItem, version.itemId, version));
    }
    for (const list of histories) if (list.length > 1) list.sort((a, b) => a.ordinal - b.ordinal);
    for (const link of links) {
      if (this.known.has(link.id)) continue;
      this.known.add(link.id);
      append(this.down, link.parentVersion, link);
      if (link.targetItem !== undefined) append(this.up, link.targetItem, link);
    }
  }

  version(id: string): VersionNode | undefined {
    return this.byId.get(id);
  }

  versions(): Iterable<VersionNode> {
    return this.byId.values();
  }

  /** Versions of an item, oldest first. */
  versionsOf(itemId: string): readonly VersionNode[] {
    return this.byItem.get(itemId) ?? [];
  }

  newestOf(itemId: string): VersionNode | undefined {
    return this.byItem.get(itemId)?.at(-1);
  }

  /** Links of a version to what it is made of. */
  linksOf(versionId: string): readonly LinkEdge[] {
    return this.down.get(versionId) ?? [];
  }

  /** Links of any version to an item. */
  usesOf(itemId: string): readonly LinkEdge[] {
    return this.up.get(itemId) ?? [];
  }
}

function append<V>(map: Map<string, V[]>, key: string, value: V): V[] {
  const list = map.get(key) ?? [];
  if (list.push(value) === 1) map.set(key, list);
  return list;
}
