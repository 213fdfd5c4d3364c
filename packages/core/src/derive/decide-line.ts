/** Decisions of a person about lines of a tree, of which the latest always counts. */
import type { Decision } from './types.js';

/** A line of the origin's tree, the top first, each followed by what is below it. */
export interface TreeSpot {
  readonly level: number;
  readonly number: string;
}

export interface Decided {
  readonly decisions: ReadonlyMap<string, Decision>;
  /** Items about which something else had been decided, which cannot be kept beside this. */
  readonly takenBack: readonly string[];
}

/**
 * Decides about items, wherever they stand in the tree. What is copied, swapped or left out cannot be within something that is
 * shared, so that it takes back the shares of all that it stands in, and a share takes back what was decided of all that stand in
 * it.
 * `O(lines of the tree)`, however many are decided at once.
 */
export function decideLines(
  tree: readonly TreeSpot[],
  decisions: ReadonlyMap<string, Decision>,
  { numbers, decision }: { readonly numbers: ReadonlySet<string>; readonly decision: Decision },
): Decided {
  const isAgainst = (other: Decision | undefined): boolean =>
    other !== undefined && (decision === 'share' ? other !== 'share' : other === 'share');
  const near = decision === 'share' ? below(tree, numbers) : above(tree, numbers);
  const takenBack = [...near].filter((other) => isAgainst(decisions.get(other)) && !numbers.has(other));
  const next = new Map(decisions);
  for (const other of takenBack) next.delete(other);
  for (const number of numbers) next.set(number, decision);
  return { decisions: next, takenBack };
}

/** Numbers of all lines that some items stand in. */
function above(tree: readonly TreeSpot[], numbers: ReadonlySet<string>): Set<string> {
  const found = new Set<string>();
  const path: string[] = [];
  for (const spot of tree) {
    path.length = spot.level;
    if (numbers.has(spot.number)) for (const upper of path) found.add(upper);
    path.push(spot.number);
  }
  return found;
}

/** Numbers of all lines that stand in some items. */
function below(tree: readonly TreeSpot[], numbers: ReadonlySet<string>): Set<string> {
  const found = new Set<string>();
  let within = Infinity;
  for (const spot of tree) {
    if (spot.level > within) found.add(spot.number);
    else within = numbers.has(spot.number) ? spot.level : Infinity;
  }
  return found;
}
