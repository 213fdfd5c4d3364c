/** Three sides: what two BOMs changed of one that both come from. */
import { compareTrees } from './compare.js';
import { isSameText, type CompareOptions, type DifferenceRow, type LineSide } from './difference.js';
import { addTo } from '../collections.js';
import { isSameAmount } from './amount.js';
import { itemKeyOf, type BomLine } from './line.js';

/**
 * Who changed a row. `one`, `other`: just that side. `alike`: both, in the same way. `apart`: both, in different things, so that
 * both can be had. `contradict`: both, and not both can be had.
 */
export type Verdict = 'same' | 'one' | 'other' | 'alike' | 'apart' | 'contradict';

export interface ThreeRow {
  readonly verdict: Verdict;
  /** In the common origin; absent for what was added. */
  readonly base?: LineSide;
  /** Absent where it was removed, or never was. */
  readonly one?: LineSide;
  readonly other?: LineSide;
  readonly toOne?: DifferenceRow;
  readonly toOther?: DifferenceRow;
}

/** Compares two BOMs by way of their origin. Seen from the other side, `one` and `other` change places and nothing else. `O(lines)` */
export function compareThree(
  base: BomLine,
  one: BomLine,
  other: BomLine,
  options: CompareOptions = {},
): ThreeRow[] {
  const [left, right] = [compareTrees(base, one, options), compareTrees(base, other, options)];
  const ofOther = new Map(right.flatMap((row) => (row.before ? [[row.before.way, row] as const] : [])));
  const added = new Map<string, DifferenceRow[]>();
  for (const row of right) if (row.sign === 'added') addTo(added, keyOfAdded(row), row);
  const rows: ThreeRow[] = [];
  for (const toOne of left) {
    if (toOne.before) rows.push(ofBase(toOne, ofOther.get(toOne.before.way), options));
    else rows.push(ofAdded(toOne, added.get(keyOfAdded(toOne))?.shift(), options));
  }
  for (const toOther of [...added.values()].flat())
    rows.push({ verdict: 'other', ...(toOther.after ? { other: toOther.after } : {}), toOther });
  return rows;
}

/** What was added in the same place is the same, where it is of the same item. */
function keyOfAdded({ after }: DifferenceRow): string {
  return after ? `${after.chain.slice(0, -1).join(' › ')}\n${itemKeyOf(after.line)}` : '';
}

function ofAdded(
  toOne: DifferenceRow,
  toOther: DifferenceRow | undefined,
  options: CompareOptions,
): ThreeRow {
  const [one, other] = [toOne.after, toOther?.after];
  if (!one || !other || !toOther) return { verdict: 'one', ...(one ? { one } : {}), toOne };
  const verdict = areAlike(one, other, options) ? 'alike' : 'contradict';
  return { verdict, one, other, toOne, toOther };
}

function ofBase(toOne: DifferenceRow, toOther: DifferenceRow | undefined, options: CompareOptions): ThreeRow {
  return {
    verdict: verdictOf(toOne, toOther, options),
    ...(toOne.before ? { base: toOne.before } : {}),
    ...(toOne.after ? { one: toOne.after } : {}),
    ...(toOther?.after ? { other: toOther.after } : {}),
    toOne,
    ...(toOther ? { toOther } : {}),
  };
}

function verdictOf(one: DifferenceRow, other: DifferenceRow | undefined, options: CompareOptions): Verdict {
  if (!other || other.sign === 'same') return one.sign === 'same' ? 'same' : 'one';
  if (one.sign === 'same') return 'other';
  if (!one.after || !other.after) return one.after || other.after ? 'contradict' : 'alike';
  if (areAlike(one.after, other.after, options)) return 'alike';
  const [left, right] = [changesOf(one), changesOf(other)];
  const both = [...left].filter((change) => right.has(change));
  return both.every((change) => isAlikeIn(change, one.after, other.after)) ? 'apart' : 'contradict';
}

/** What a row changed, each thing that can be had by itself. */
function changesOf({ differs, before, after }: DifferenceRow): Set<string> {
  const changes = new Set(differs.fields.map((field) => `field ${field}`));
  for (const aspect of [
    'quantity',
    'version',
    'placement',
    'find',
    'designators',
    'configurations',
    'parent',
  ] as const)
    if (differs[aspect]) changes.add(aspect);
  if (before && after && itemKeyOf(before.line) !== itemKeyOf(after.line)) changes.add('item').add('version');
  return changes;
}

function isAlikeIn(change: string, left: LineSide | undefined, right: LineSide | undefined): boolean {
  if (!left || !right) return false;
  const [one, other] = [left.line, right.line];
  switch (change) {
    case 'item':
      return itemKeyOf(one) === itemKeyOf(other);
    case 'quantity':
      return isSameAmount(one.amount, other.amount);
    case 'version':
      return one.version === other.version;
    case 'placement':
      return JSON.stringify(one.placements) === JSON.stringify(other.placements);
    case 'find':
      return one.find === other.find;
    case 'designators':
      return one.designators.join(' ') === other.designators.join(' ');
    case 'configurations':
      return one.configurations.join('\n') === other.configurations.join('\n');
    case 'parent':
      return left.chain.slice(0, -1).join('\n') === right.chain.slice(0, -1).join('\n');
    default: {
      const field = change.slice('field '.length);
      return isSameText(one.values[field], other.values[field]);
    }
  }
}

function areAlike(one: LineSide, other: LineSide, { columns = [] }: CompareOptions): boolean {
  return ['item', 'quantity', 'version', 'find', 'designators', 'configurations', 'parent']
    .concat(columns.map((column) => `field ${column}`))
    .every((change) => isAlikeIn(change, one, other));
}

export type VerdictCounts = Readonly<Record<Verdict, number>>;

export function countVerdicts(rows: readonly ThreeRow[]): VerdictCounts {
  const counts = { same: 0, one: 0, other: 0, alike: 0, apart: 0, contradict: 0 };
  for (const { verdict } of rows) counts[verdict]++;
  return counts;
}
