import { StructureTooLarge } from './errors.js';
import { DEFAULT_MAX_ROWS, type TreeOptions } from './explode.js';
import type { LinkEdge, StructureGraph } from './graph.js';
import type { VersionNode } from '../model/version.js';
import { behindBy, pickVersion } from './lens.js';
import { isIn, keepsRecorded, type Lens } from '../model/lens.js';

export interface UsedRow {
  /** 1 for what uses the item directly. */
  readonly level: number;
  readonly link: LinkEdge;
  /** The parent's version that holds the link. */
  readonly version: VersionNode;
  /** Of the row below in this parent. */
  readonly quantity: number;
  /** Of the item asked about in this parent, along this chain. */
  readonly total: number;
  readonly behind: number;
  /** Index of the row that this one uses, -1 for the item asked about. */
  readonly childRow: number;
  /** Whether nothing uses this parent. */
  readonly top: boolean;
}

/**
 * What uses an item, as a tree upwards in depth-first order; the exact inverse of `explode` under the same
 * lens. Under *As recorded* a parent counts in the versions that some newest product still reaches; under the
 * others in the one version that the lens picks. `O(rows + links looked at)`.
 *
 * @throws StructureTooLarge beyond `maxRows`
 */
export function whereUsed(graph: StructureGraph, itemId: string, options: TreeOptions): UsedRow[] {
  const { lens, levels = Infinity, maxRows = DEFAULT_MAX_ROWS } = options;
  const upward = new Upward(graph, lens);
  const rows: UsedRow[] = [];
  const start = upward.parentsOfItem(itemId);
  const stack: { parents: readonly Parent[]; next: number; row: number; total: number; item: string }[] = [
    { parents: start, next: 0, row: -1, total: 1, item: itemId },
  ];
  const onPath = new Set<string>([itemId]);
  for (let frame = stack.at(-1); frame; frame = stack.at(-1)) {
    const parent = frame.parents[frame.next++];
    if (!parent) {
      onPath.delete(frame.item);
      stack.pop();
      continue;
    }
    const { link, version } = parent;
    const parents = onPath.has(version.itemId) ? [] : upward.parentsOf(version);
    const total = frame.total * link.quantity;
    rows.push({
      level: stack.length,
      link,
      version,
      quantity: link.quantity,
      total,
      behind: behindBy(graph, link),
      childRow: frame.row,
      top: parents.length === 0,
    });
    if (rows.length > maxRows) throw new StructureTooLarge(maxRows);
    if (parents.length > 0 && stack.length < levels) {
      onPath.add(version.itemId);
      stack.push({ parents, next: 0, row: rows.length - 1, total, item: version.itemId });
    }
  }
  return rows;
}

/** Top-level products that use an item, each with the quantity in one product, summed over all chains. */
export function topsOf(rows: readonly UsedRow[]): { readonly row: UsedRow; readonly total: number }[] {
  const tops = new Map<string, { row: UsedRow; total: number }>();
  for (const row of rows) {
    if (!row.top) continue;
    const known = tops.get(row.version.id);
    if (known) known.total += row.total;
    else tops.set(row.version.id, { row, total: row.total });
  }
  return [...tops.values()];
}

interface Parent {
  readonly link: LinkEdge;
  readonly version: VersionNode;
}

class Upward {
  private readonly live = new Map<string, boolean>();

  constructor(
    private readonly graph: StructureGraph,
    private readonly lens: Lens,
  ) {}

  parentsOfItem(itemId: string): Parent[] {
    return this.parents(itemId, undefined);
  }

  parentsOf(version: VersionNode): Parent[] {
    return this.parents(version.itemId, version.id);
  }

  private parents(itemId: string, versionId: string | undefined): Parent[] {
    return this.graph.usesOf(itemId).flatMap((link) => {
      const version = this.graph.version(link.parentVersion);
      if (!version || !isIn(link, this.lens)) return [];
      if (!this.leadsTo(link, versionId) || !this.counts(version)) return [];
      return [{ link, version }];
    });
  }

  /** Whether a link, followed downwards, arrives at the given version. Any version will do where none is given. */
  private leadsTo(link: LinkEdge, versionId: string | undefined): boolean {
    const fixed = keepsRecorded(this.lens, link.carried);
    return versionId === undefined || !fixed || link.targetVersion === versionId;
  }

  private counts(version: VersionNode): boolean {
    if (this.lens.kind !== 'recorded') {
      return (
        pickVersion(this.graph, version.itemId, this.lens)?.id === version.id ||
        this.isCarriedByPicked(version)
      );
    }
    return this.isLive(version, new Set());
  }

  /** A carried version counts through the carrier that holds it, whatever newer one there may be elsewhere. */
  private isCarriedByPicked(version: VersionNode): boolean {
    return this.graph.usesOf(version.itemId).some((link) => {
      if (!link.carried || link.targetVersion !== version.id || !isIn(link, this.lens)) return false;
      const parent = this.graph.version(link.parentVersion);
      return parent !== undefined && parent.itemId !== version.itemId && this.counts(parent);
    });
  }

  /** Under *As recorded*: whether the version is the newest of its item, or some live version records it. */
  private isLive(version: VersionNode, asking: Set<string>): boolean {
    const known = this.live.get(version.id);
    if (known !== undefined) return known;
    if (asking.has(version.id)) return false;
    asking.add(version.id);
    const answer =
      this.graph.newestOf(version.itemId)?.id === version.id ||
      this.graph.usesOf(version.itemId).some((link) => {
        const isRecorded = link.targetVersion === version.id && isIn(link, this.lens);
        const parent = isRecorded ? this.graph.version(link.parentVersion) : undefined;
        return parent !== undefined && this.isLive(parent, asking);
      });
    this.live.set(version.id, answer);
    return answer;
  }
}
