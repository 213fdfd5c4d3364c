import { countTreeRows } from './count-rows.js';
import { StructureTooLarge } from './errors.js';
import type { LinkEdge, StructureGraph } from './graph.js';
import type { VersionNode } from '../model/version.js';
import { behindBy, follow, linksUnder } from './lens.js';
import type { Lens } from '../model/lens.js';

export interface ExplodedRow {
  /** 1 for what the root is directly made of. */
  readonly level: number;
  readonly link: LinkEdge;
  /** Absent where the lens finds nothing: a gap. */
  readonly version?: VersionNode;
  /** Per parent. */
  readonly quantity: number;
  /** In the root. */
  readonly total: number;
  /** Versions that the recorded one is behind the newest. */
  readonly behind: number;
  /** Index of the parent's row, -1 for the root. */
  readonly parentRow: number;
}

export interface TreeOptions {
  readonly lens: Lens;
  /** Levels to open, 1 and up; all where absent. */
  readonly levels?: number;
  /** Most rows, beyond which the question is refused rather than answered in part. */
  readonly maxRows?: number;
}

export const DEFAULT_MAX_ROWS = 500_000;

/**
 * What a version is made of, as a tree in depth-first order: an item used in two places has a row in each.
 * A version that would contain itself is not opened again. `O(rows)`.
 *
 * @throws StructureTooLarge beyond `maxRows`
 */
export function explode(graph: StructureGraph, rootVersion: string, options: TreeOptions): ExplodedRow[] {
  const { lens, levels = Infinity, maxRows = DEFAULT_MAX_ROWS } = options;
  const rows: ExplodedRow[] = [];
  const onPath = new Set<string>([rootVersion]);
  const stack: Frame[] = [
    { version: rootVersion, row: -1, total: 1, links: linksUnder(graph, rootVersion, lens), next: 0 },
  ];
  for (let top = stack.at(-1); top; top = stack.at(-1)) {
    const link = top.links[top.next++];
    if (!link) {
      onPath.delete(top.version);
      stack.pop();
      continue;
    }
    const version = follow(graph, link, lens);
    const total = top.total * link.quantity;
    rows.push({
      level: stack.length,
      link,
      ...(version ? { version } : {}),
      quantity: link.quantity,
      total,
      behind: behindBy(graph, link),
      parentRow: top.row,
    });
    if (rows.length > maxRows)
      throw new StructureTooLarge(
        maxRows,
        levels === Infinity ? countTreeRows(graph, rootVersion, lens) : undefined,
      );
    if (version && stack.length < levels && !onPath.has(version.id)) {
      onPath.add(version.id);
      stack.push({
        version: version.id,
        row: rows.length - 1,
        total,
        links: linksUnder(graph, version.id, lens),
        next: 0,
      });
    }
  }
  return rows;
}

interface Frame {
  readonly version: string;
  readonly row: number;
  readonly total: number;
  readonly links: readonly LinkEdge[];
  next: number;
}
