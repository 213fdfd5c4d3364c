/** What is different between two BOMs as a whole: what moved from one assembly to another nets out. */
import type { Amount } from '../model/amount.js';
import { AmountSum, countInside, isSameAmount, timesAmount, total } from './amount.js';
import {
  fieldsThatDiffer,
  NOTHING,
  signOf,
  withoutSilent,
  type CompareOptions,
  type DifferenceRow,
  type LineSide,
} from './difference.js';
import { contentOf, itemKeyOf, type BomLine } from './line.js';
import { PAIR_KEYS, pairable, pairSiblings } from './pair.js';

/**
 * Compares net totals: every item once with its amount in the whole product, so that what merely moved from one assembly to
 * another nets out. `O(lines)`
 */
export function compareTotals(from: BomLine, to: BomLine, options: CompareOptions = {}): DifferenceRow[] {
  const { by = PAIR_KEYS, columns = [], silent = [] } = options;
  const [before, after] = [pairable(totals(from)), pairable(totals(to))];
  const rows: DifferenceRow[] = [];
  const keys = by.filter((key) => key === 'item' || key === 'lineage');
  const pairs = new Map(
    pairSiblings(before, after, keys.length > 0 ? keys : ['item']).map((pair) => [pair.after, pair]),
  );
  const position = new Map(before.map((each, at) => [each, at]));
  let next = 0;
  const removedUpTo = (end: number): void => {
    for (; next < end; next++) {
      const each = before[next];
      if (each && !each.isTaken)
        rows.push({ sign: 'removed', level: 1, before: totalSide(each.line), differs: NOTHING });
    }
  };
  for (const each of after) {
    const pair = pairs.get(each);
    if (!pair) {
      rows.push({ sign: 'added', level: 1, after: totalSide(each.line), differs: NOTHING });
      continue;
    }
    removedUpTo(position.get(pair.before) ?? 0);
    const [left, right] = [pair.before.line as TotalLine, each.line as TotalLine];
    const differs = withoutSilent(
      {
        ...NOTHING,
        quantity: !haveSameAmounts(left.amounts, right.amounts),
        version: contentsDiffer(left, right),
        fields: fieldsThatDiffer(left, right, columns),
      },
      silent,
    );
    rows.push({
      sign: signOf(pair.before, each, differs),
      level: 1,
      before: totalSide(left),
      after: totalSide(right),
      by: pair.by,
      differs,
    });
  }
  removedUpTo(before.length);
  return rows;
}

/** An item of a tree with what the whole of it needs of it. */
interface TotalLine extends BomLine {
  readonly amounts: readonly Amount[];
  /** Pieces by content: an item may be met in several versions. */
  readonly contents: ReadonlyMap<string, string>;
}

interface Adding {
  readonly line: BomLine;
  readonly amounts: AmountSum;
  readonly contents: Map<string, string>;
  readonly versions: Set<string>;
  readonly designators: string[];
}

/** Each item of a tree once; one that is met in several versions shows all of them. */
function totals(root: BomLine): TotalLine[] {
  const found = new Map<string, Adding>();
  const stack: { line: BomLine; count: string }[] = root.children
    .map((line) => ({ line, count: '1' }))
    .reverse();
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { line, count } = top;
    if (line.amount.role === 'reference') continue;
    const key = itemKeyOf(line);
    const known = found.get(key) ?? {
      line,
      amounts: new AmountSum(),
      contents: new Map<string, string>(),
      versions: new Set<string>(),
      designators: [],
    };
    found.set(key, known);
    const amount = timesAmount(line.amount, count);
    known.amounts.add(amount);
    const content = contentOf(line);
    known.contents.set(content, total(known.contents.get(content) ?? '0', amount.value || '0'));
    if (line.version !== '') known.versions.add(line.version);
    known.designators.push(...line.designators);
    if (amount.role !== undefined) continue;
    const inside = countInside(amount);
    for (const child of [...line.children].reverse()) stack.push({ line: child, count: inside });
  }
  return [...found.values()].map(({ line, amounts, contents, versions, designators }) => ({
    ...line,
    amount: amounts.amounts[0] ?? line.amount,
    amounts: amounts.amounts,
    contents,
    version: [...versions].join(', '),
    ...{ find: '', designators, configurations: [], placements: [], children: [] },
  }));
}

function haveSameAmounts(a: readonly Amount[], b: readonly Amount[]): boolean {
  return a.length === b.length && a.every((one) => b.some((other) => isSameAmount(one, other)));
}

function totalSide(line: BomLine): LineSide {
  return { line, way: line.number, chain: [line.number] };
}

/** Whether an item is used in other versions, or in as many pieces of others. */
function contentsDiffer(before: TotalLine, after: TotalLine): boolean {
  // A list that names no versions says nothing about them.
  if (before.version === '' || after.version === '') return false;
  const isSameTotal = haveSameAmounts(before.amounts, after.amounts);
  return (
    before.contents.size !== after.contents.size ||
    [...before.contents].some(([content, count]) => {
      const other = after.contents.get(content);
      return other === undefined || (isSameTotal && other !== count);
    })
  );
}
