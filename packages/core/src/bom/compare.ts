/**
 * What is different between two trees: level by level, or as net totals.
 *
 * Rows are paired inside paired assemblies: the same item first, then by lineage (a copied part pairs with the
 * part that it was copied from), then by position (something else in the very same places is a replacement).
 * Comparing is linear in lines, and mirrors: what `from → to` calls added, `to → from` calls removed.
 */
import { addTo } from '../collections.js';
import type { Placement } from '../model/link.js';

export type DifferenceSign = 'added' | 'removed' | 'changed' | 'replaced' | 'moved' | 'same';

/** One line of a tree to be compared; the root is given apart. */
export interface BomLine {
  readonly itemId: string;
  /** The same for an item and everything derived from it. */
  readonly stem: string;
  readonly number: string;
  readonly name: string;
  /** Absent for a gap. */
  readonly versionId?: string;
  /** `B/3`; empty for a gap. */
  readonly version: string;
  /** Version ids that this one was copied from, oldest first. */
  readonly originVersions: readonly string[];
  readonly quantity: number;
  readonly placements: readonly Placement[];
  readonly children: readonly BomLine[];
}

export interface LineSide {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly quantity: number;
}

export interface DifferenceRow {
  readonly sign: DifferenceSign;
  readonly level: number;
  /** Numbers from the root's child down to this line, as on the side that has it; `to` where both have. */
  readonly chain: readonly string[];
  readonly before?: LineSide;
  readonly after?: LineSide;
  readonly differs: { readonly quantity: boolean; readonly version: boolean; readonly placement: boolean };
}

export type DifferenceCounts = Readonly<Record<DifferenceSign, number>>;

const NOTHING = { quantity: false, version: false, placement: false } as const;

/** Compares two trees level by level. The roots are taken to be a pair. `O(lines)`. */
export function compareTrees(from: BomLine, to: BomLine): DifferenceRow[] {
  const rows: DifferenceRow[] = [];
  compareChildren(from, to, [], rows);
  return rows;
}

function compareChildren(from: BomLine, to: BomLine, chain: readonly string[], rows: DifferenceRow[]): void {
  for (const { before, after } of pairLines(from.children, to.children)) {
    if (before && after) {
      const differs = differencesOf(before, after);
      const path = [...chain, after.number];
      rows.push({
        sign: signOf(before, after, differs),
        level: path.length,
        chain: path,
        before: side(before),
        after: side(after),
        differs,
      });
      compareChildren(before, after, path, rows);
    } else if (before) addSubtree(before, 'removed', chain, rows);
    else if (after) addSubtree(after, 'added', chain, rows);
  }
}

function addSubtree(
  line: BomLine,
  sign: 'added' | 'removed',
  chain: readonly string[],
  rows: DifferenceRow[],
): void {
  const path = [...chain, line.number];
  rows.push({
    sign,
    level: path.length,
    chain: path,
    ...(sign === 'added' ? { after: side(line) } : { before: side(line) }),
    differs: NOTHING,
  });
  for (const child of line.children) addSubtree(child, sign, path, rows);
}

/** Pairs in the order of `to`, what was removed standing where it stood in `from`. */
function pairLines<L extends BomLine>(from: readonly L[], to: readonly L[]): { before?: L; after?: L }[] {
  const partner = new Map<L, L>();
  const taken = new Set<L>();
  for (const keyOf of [byItem, byStem, byPlace]) {
    const waiting = new Map<string, L[]>();
    const taking = new Map<string, number>();
    for (const line of from) {
      const key = taken.has(line) ? undefined : keyOf(line);
      if (key !== undefined) addTo(waiting, key, line);
    }
    for (const line of to) {
      const key = partner.has(line) ? undefined : keyOf(line);
      if (key === undefined) continue;
      const at = taking.get(key) ?? 0;
      const match = waiting.get(key)?.[at];
      if (!match) continue;
      taking.set(key, at + 1);
      partner.set(line, match);
      taken.add(match);
    }
  }
  const pairs: { before?: L; after?: L }[] = [];
  const emitted = new Set<L>();
  let next = 0;
  const emitRemovedUpTo = (end: number): void => {
    for (; next < end; next++) {
      const line = from[next];
      if (line && !taken.has(line)) pairs.push({ before: line });
    }
  };
  const position = new Map(from.map((line, index) => [line, index]));
  for (const after of to) {
    const before = partner.get(after);
    if (before) emitRemovedUpTo(position.get(before) ?? 0);
    if (emitted.has(after)) continue;
    emitted.add(after);
    pairs.push(before ? { before, after } : { after });
  }
  emitRemovedUpTo(from.length);
  return pairs;
}

function byItem(line: BomLine): string {
  return line.itemId;
}

function byStem(line: BomLine): string {
  return line.stem;
}

function byPlace(line: BomLine): string | undefined {
  return line.placements.length === 0 ? undefined : placementKey(line);
}

function placementKey(line: BomLine): string {
  return line.placements
    .map((placement) => placement.map((value) => Math.round(value * 1e6)).join(' '))
    .sort()
    .join('|');
}

function differencesOf(before: BomLine, after: BomLine): DifferenceRow['differs'] {
  const sameItem = before.itemId === after.itemId;
  const version = sameItem ? before.versionId !== after.versionId : contentOf(before) !== contentOf(after);
  return {
    quantity: before.quantity !== after.quantity,
    version,
    placement: placementKey(before) !== placementKey(after),
  };
}

/**
 * What a line's content is known by: a copy has that of the version it goes back to, however often it was copied. A gap has
 * none, and so equals nothing.
 */
function contentOf({ versionId, originVersions, itemId }: BomLine): string {
  return originVersions[0] ?? versionId ?? `gap of ${itemId}`;
}

function signOf(before: BomLine, after: BomLine, differs: DifferenceRow['differs']): DifferenceSign {
  if (before.itemId !== after.itemId && before.stem !== after.stem) return 'replaced';
  if (differs.quantity || differs.version) return 'changed';
  return differs.placement ? 'moved' : 'same';
}

function side(line: BomLine, quantity = line.quantity): LineSide {
  return { itemId: line.itemId, number: line.number, name: line.name, version: line.version, quantity };
}

/**
 * Compares net totals: every item once with its quantity in the whole product, so that what merely moved from
 * one assembly to another nets out.
 */
export function compareTotals(from: BomLine, to: BomLine): DifferenceRow[] {
  const before = totals(from);
  const after = totals(to);
  const rows: DifferenceRow[] = [];
  const done = new Set<string>();
  const pairs = pairLines([...before.values()], [...after.values()]);
  for (const pair of pairs) {
    const line = pair.after ?? pair.before;
    if (!line || done.has(`${line.itemId}`)) continue;
    const number = [line.number];
    if (pair.before && pair.after) {
      const differs = {
        quantity: pair.before.quantity !== pair.after.quantity,
        version: contentsDiffer(pair.before, pair.after),
        placement: false,
      };
      const sign = signOf(pair.before, pair.after, differs);
      rows.push({
        sign,
        level: 1,
        chain: number,
        before: side(pair.before),
        after: side(pair.after),
        differs,
      });
    } else if (pair.before)
      rows.push({ sign: 'removed', level: 1, chain: number, before: side(pair.before), differs: NOTHING });
    else rows.push({ sign: 'added', level: 1, chain: number, after: side(line), differs: NOTHING });
  }
  return rows;
}

/** An item of a tree with its quantity summed over all chains. */
interface TotalLine extends BomLine {
  /** Quantity by content: an item may be met in several versions. */
  readonly contents: Map<string, number>;
}

/** Each item of a tree once; one that is met in several versions shows all of them. */
function totals(root: BomLine): Map<string, TotalLine> {
  const found = new Map<string, TotalLine>();
  const stack: { line: BomLine; total: number }[] = root.children
    .map((line) => ({ line, total: line.quantity }))
    .reverse();
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { line, total } = top;
    const known = found.get(line.itemId);
    const contents = known?.contents ?? new Map<string, number>();
    const content = contentOf(line);
    const labels = known?.version.split(', ') ?? [];
    found.set(line.itemId, {
      ...(known ?? line),
      version: labels.includes(line.version) ? (known?.version ?? '') : [...labels, line.version].join(', '),
      quantity: (known?.quantity ?? 0) + total,
      contents: contents.set(content, (contents.get(content) ?? 0) + total),
      placements: [],
      children: [],
    });
    for (const child of [...line.children].reverse())
      stack.push({ line: child, total: total * child.quantity });
  }
  return found;
}

/** Whether an item is used in other versions, or in as many pieces of others. */
function contentsDiffer(before: TotalLine, after: TotalLine): boolean {
  const isSameTotal = before.quantity === after.quantity;
  return (
    before.contents.size !== after.contents.size ||
    [...before.contents].some(([content, quantity]) => {
      const other = after.contents.get(content);
      return other === undefined || (isSameTotal && other !== quantity);
    })
  );
}

export function countDifferences(rows: readonly DifferenceRow[]): DifferenceCounts {
  const counts = { added: 0, removed: 0, changed: 0, replaced: 0, moved: 0, same: 0 };
  for (const row of rows) counts[row.sign]++;
  return counts;
}

/**
 * The sentence that says what was compared and in which direction.
 * @param from number and version, e.g. `FM-1000 B/3`
 */
export function sayDifference(
  from: { number: string; version: string },
  to: { number: string; version: string },
  counts: DifferenceCounts,
): string {
  const sides =
    from.number === to.number
      ? `${from.number} from ${from.version} to ${to.version}`
      : `From ${from.number} ${from.version} to ${to.number} ${to.version}`;
  const said = (['added', 'removed', 'changed', 'replaced', 'moved'] as const)
    .filter((sign) => counts[sign] > 0)
    .map((sign) => `${counts[sign]} ${sign}`);
  return `${sides}: ${said.length === 0 ? 'no difference' : said.join(', ')}.`;
}
