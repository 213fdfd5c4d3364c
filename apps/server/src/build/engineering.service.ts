import {
  engineeringRows,
  sayAmount,
  parentsOf,
  type BuildBill,
  type EngineeringRow,
  type Newer,
} from '@stem-trace/core';
import type { LensText } from '@stem-trace/contract';
import { RightsService } from '../access/rights.service.js';
import type { BomTreeService, StoreLine } from '../bom/bom-tree.service.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';

/** What engineering says now of an item, for bills that are taken from it. */
export class EngineeringService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
  ) {}

  /**
   * All rows of an item under a lens.
   *
   * @throws ProblemError NOT_ALLOWED where the asker may not see all of them: a bill of half of it would look like a whole one;
   *   INPUT_INVALID for what is made of nothing
   */
  async rows(item: string, lens: LensText, person: Person): Promise<Newer> {
    const root = await this.catalogue.resolveUnder(item, lens, { person });
    const tree = await this.trees.tree(root, { lens, rights: await this.rights.of(person) });
    const hidden = hiddenIn(tree);
    if (hidden > 0)
      throw new ProblemError(
        'NOT_ALLOWED',
        `${root.number} is made of ${hidden} rows that are not visible to you, so that no bill can be taken from it. Ask for access to them.`,
      );
    const rows = engineeringRows(tree);
    if (rows.length === 0)
      throw new ProblemError(
        'INPUT_INVALID',
        `${root.number} ${root.label} is made of nothing. Choose an assembly.`,
      );
    return { engineering: baseOf(root, lens), rows };
  }

  /** As `rows`, of what a bill is for; undefined where the asker may not see all of it. */
  async newer({ engineering: { itemId, lens } }: BuildBill, person: Person): Promise<Newer | undefined> {
    const newest = await this.catalogue.newest(itemId);
    try {
      return await this.rows(newest.number, lens as LensText, person);
    } catch (error) {
      // Engineering may be empty by now, or its lens may pick nothing any more.
      if (error instanceof ProblemError) return undefined;
      throw error;
    }
  }
}

function baseOf(root: DescribedVersion, lens: string): Newer['engineering'] {
  return { itemId: root.itemId, number: root.number, versionId: root.id, version: root.label, lens };
}

function hiddenIn(tree: StoreLine): number {
  let count = 0;
  const stack: StoreLine[] = [...tree.children];
  for (let line = stack.pop(); line; line = stack.pop()) {
    if (line.isHidden) count++;
    stack.push(...line.children);
  }
  return count;
}

/** How many rows say something else than those that a bill was taken from. `O(rows)` */
export function rowsBehind(base: readonly EngineeringRow[], now: readonly EngineeringRow[]): number {
  const saidBy = (rows: readonly EngineeringRow[]): Map<string, number> => {
    const parents = parentsOf(rows);
    const said = new Map<string, number>();
    for (const [at, { itemId, number, version, amount, find, designators, level }] of rows.entries()) {
      const within = rows[parents[at] ?? -1];
      const text = JSON.stringify([
        ...[level, within?.itemId ?? within?.number, itemId ?? number, version],
        ...[sayAmount(amount), find, designators],
      ]);
      said.set(text, (said.get(text) ?? 0) + 1);
    }
    return said;
  };
  const [before, after] = [saidBy(base), saidBy(now)];
  let [gone, come] = [0, 0];
  for (const [text, count] of before) gone += Math.max(0, count - (after.get(text) ?? 0));
  for (const [text, count] of after) come += Math.max(0, count - (before.get(text) ?? 0));
  return Math.max(gone, come);
}
