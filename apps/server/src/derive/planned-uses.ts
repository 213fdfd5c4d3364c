import {
  known,
  type Becomes,
  type ChangedVersion,
  type MadeVersion,
  type OriginNode,
} from '@stem-trace/core';
import type { DescribedVersion } from '../store/catalogue.service.js';
import type { Prepared } from './planner.service.js';
import { sayVersion } from './variant-files.js';

/** What the copies of a plan are made of, written out for each of their uses, also where nothing was decided about them. */
export class PlannedUses {
  private readonly nodes: ReadonlyMap<string, OriginNode>;
  private readonly made: ReadonlySet<string>;
  private readonly changed: ReadonlyMap<string, ChangedVersion>;

  constructor(private readonly prepared: Pick<Prepared, 'plan' | 'nodes' | 'versions'>) {
    const { plan, nodes } = prepared;
    this.nodes = new Map(nodes.map((node) => [node.versionId, node]));
    this.made = new Set(plan.made.map(sayVersion));
    this.changed = new Map(plan.changed.map((changed) => [sayVersion(changed), changed]));
  }

  of(made: MadeVersion): ChangedVersion {
    const changed = this.changed.get(sayVersion(made));
    if (changed) return changed;
    const node = known(this.nodes, made.versionId);
    const uses = node.children.map((child, at): Becomes[] => {
      const key = this.nodes.get(child)?.itemId ?? '';
      const becomes: Becomes = this.made.has(sayVersion({ key, versionId: child }))
        ? { kind: 'copy', key }
        : { kind: 'share' };
      return Array.from({ length: node.occurrences?.[at] ?? 1 }, () => becomes);
    });
    return { ...made, uses, added: [] };
  }

  /** Versions that the uses lead to in the origin, in the order of `of(made).uses`. */
  childrenOf({ versionId }: MadeVersion): (DescribedVersion | undefined)[] {
    return known(this.nodes, versionId).children.map((child) => this.prepared.versions.get(child));
  }
}
