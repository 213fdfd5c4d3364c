/**
 * What is different between two BOMs: level by level, or as net totals.
 *
 * Rows are paired inside paired assemblies (`pair.ts`). What has no partner beside it is looked for in the rest of the tree: it
 * moved. Comparing is linear in lines, and mirrors: what `from → to` calls added, `to → from` calls removed, in every kind of
 * difference.
 */
import { addTo } from '../collections.js';
import { toSi, parseQuantity } from '../quantity/quantity.js';
import type { Amount } from '../model/amount.js';
import { AmountSum, isNear, isSameAmount, timesAmount, total } from './amount.js';
import { contentOf, itemKeyOf, placesOf, waysOf, type BomLine, type LineFacts } from './line.js';
import { PAIR_KEYS, pairSiblings, type HandPair, type PairedBy, type PairKey } from './pair.js';

export type DifferenceSign = 'added' | 'removed' | 'changed' | 'replaced' | 'moved' | 'same';

export interface CompareOptions {
  /** In order. @default all of them */
  readonly by?: readonly PairKey[];
  readonly hand?: readonly HandPair[];
  /** Columns of values that are compared; none where absent. */
  readonly columns?: readonly string[];
  /** What a side says nothing of at all, and so not that it is otherwise: a list from outside has no placements. */
  readonly silent?: readonly Aspect[];
}

/** What rows may differ in, besides columns of values. */
export type Aspect = Exclude<keyof Differs, 'fields' | 'parent'>;

/** One side of a row, without what lies below it. */
export interface LineSide extends LineFacts {
  /** See `waysOf`. */
  readonly way: string;
  /** Numbers from the root's child down to this line. */
  readonly chain: readonly string[];
}

/** In what two paired lines differ. */
export interface Differs {
  readonly quantity: boolean;
  readonly version: boolean;
  readonly placement: boolean;
  readonly find: boolean;
  readonly designators: boolean;
  readonly configurations: boolean;
  /** Lies in something else than before. */
  readonly parent: boolean;
  /** Columns of values. */
  readonly fields: readonly string[];
}

export interface DifferenceRow {
  readonly sign: DifferenceSign;
  /** Where it is shown: within what it lies in now, or lay in. */
  readonly level: number;
  readonly before?: LineSide;
  readonly after?: LineSide;
  readonly by?: PairedBy;
  readonly differs: Differs;
}

export type DifferenceCounts = Readonly<Record<DifferenceSign, number>>;

const NOTHING: Differs = {
  ...{ quantity: false, version: false, placement: false, find: false, designators: false },
  ...{ configurations: false, parent: false, fields: [] },
};

/** Compares two trees level by level. The roots are taken to be a pair. `O(lines)` */
export function compareTrees(from: BomLine, to: BomLine, options: CompareOptions = {}): DifferenceRow[] {
  return new Comparison(from, to, options).rows();
}

/** Which line of `from` each line of `to` stands for, by the same rules. `O(lines)` */
export function pairTrees(from: BomLine, to: BomLine, options: CompareOptions = {}): Map<BomLine, BomLine> {
  return new Comparison(from, to, options).partners();
}

interface Partner {
  readonly line: BomLine;
  readonly by: PairedBy;
}

class Comparison {
  private readonly by: readonly PairKey[];
  private readonly columns: readonly string[];
  private readonly silent: readonly Aspect[];
  private known: readonly [Map<BomLine, string>, Map<BomLine, string>] | undefined;
  private readonly parents = new Map<BomLine, BomLine>();
  /** By line of `from`, and by line of `to`. */
  private readonly before = new Map<BomLine, Partner>();
  private readonly after = new Map<BomLine, Partner>();
  /** What somebody said: lines that are paired by hand, or stay alone. */
  private readonly said = new Set<BomLine>();
  private readonly placed: readonly [Placed[], Placed[]];

  constructor(
    private readonly from: BomLine,
    private readonly to: BomLine,
    { by = PAIR_KEYS, hand = [], columns = [], silent = [] }: CompareOptions,
  ) {
    this.by = by;
    this.columns = columns;
    this.silent = silent;
    this.placed = [this.placesIn(from), this.placesIn(to)];
    const byHand = this.handPairs(hand);
    this.pairBelow(from, to);
    for (const [left, right] of byHand) this.pairBelow(left, right);
    for (let round = 0; round < MOST_ROUNDS && this.pairMoved(); round++);
  }

  private get ways(): readonly [Map<BomLine, string>, Map<BomLine, string>] {
    this.known ??= [waysOf(this.from), waysOf(this.to)];
    return this.known;
  }

  /** By each line of `to` that has a partner, that partner. */
  partners(): Map<BomLine, BomLine> {
    return new Map([...this.after].map(([line, { line: partner }]) => [line, partner]));
  }

  /** @returns all lines below, in the order of the tree */
  private placesIn(root: BomLine): Placed[] {
    const placed: Placed[] = [];
    const stack: { readonly line: BomLine; readonly depth: number }[] = [{ line: root, depth: 0 }];
    for (let top = stack.pop(); top; top = stack.pop()) {
      if (top.line !== root) placed.push(top);
      for (const child of [...top.line.children].reverse()) {
        this.parents.set(child, top.line);
        stack.push({ line: child, depth: top.depth + 1 });
      }
    }
    return placed;
  }

  private handPairs(hand: readonly HandPair[]): (readonly [BomLine, BomLine])[] {
    if (hand.length === 0) return [];
    const [left, right] = this.ways.map((ways) => new Map([...ways].map(([line, way]) => [way, line])));
    const pairs: (readonly [BomLine, BomLine])[] = [];
    for (const { from, to } of hand) {
      const [before, after] = [left?.get(from), right?.get(to)];
      if (before && after && !this.said.has(before) && !this.said.has(after)) {
        this.join(before, after, 'hand');
        pairs.push([before, after]);
      }
      for (const line of [before, after]) if (line) this.said.add(line);
    }
    return pairs;
  }

  private join(before: BomLine, after: BomLine, by: PairedBy): void {
    this.before.set(before, { line: after, by });
    this.after.set(after, { line: before, by });
  }

  /** Whether two lines that are a pair lie in two that are none. */
  private isMoved(before: BomLine, after: BomLine): boolean {
    const [left, right] = [this.parents.get(before), this.parents.get(after)];
    if (left === this.from || right === this.to) return left !== this.from || right !== this.to;
    return left === undefined || this.before.get(left)?.line !== right;
  }

  /** Pairs what lies in two lines that are a pair, and in these pairs again. */
  private pairBelow(from: BomLine, to: BomLine): void {
    const stack: (readonly [BomLine, BomLine])[] = [[from, to]];
    for (let top = stack.pop(); top; top = stack.pop()) {
      const [left, right] = top;
      const pairs = pairSiblings(left.children, right.children, this.by, (line) => this.isFree(line));
      for (const { before, after, by } of pairs) {
        this.join(before, after, by);
        stack.push([before, after]);
      }
    }
  }

  /**
   * Pairs what has no partner beside it with what has none elsewhere: of the same item, else of the same stem. Which candidates are
   * taken hangs on nothing that differs between the sides: how deep they lie together, their key, and which of the same it is.
   *
   * @returns whether there were any
   */
  private pairMoved(): boolean {
    const [left, right] = this.placed.map((lines) => lines.filter(({ line }) => this.isFree(line)));
    if (!left || !right || left.length === 0 || right.length === 0) return false;
    let found = false;
    for (const [by, keyOf] of [
      ['item', itemKeyOf],
      ['lineage', (line: BomLine) => line.stem],
    ] as const) {
      if (!this.by.includes(by)) continue;
      const waiting = new Map<string, Placed[]>();
      for (const placed of left) {
        const key = this.isFree(placed.line) ? keyOf(placed.line) : undefined;
        if (key !== undefined) addTo(waiting, key, placed);
      }
      const next = new Map<string, number>();
      const candidates = right.flatMap((placed) => {
        const key = this.isFree(placed.line) ? keyOf(placed.line) : undefined;
        if (key === undefined) return [];
        const at = next.get(key) ?? 0;
        const match = waiting.get(key)?.[at];
        next.set(key, at + 1);
        return match ? [{ before: match, after: placed, key, at }] : [];
      });
      candidates.sort(
        (a, b) =>
          a.before.depth + a.after.depth - b.before.depth - b.after.depth ||
          (a.key < b.key ? -1 : a.key > b.key ? 1 : a.at - b.at),
      );
      for (const { before, after } of candidates) {
        if (!this.isFree(before.line) || !this.isFree(after.line)) continue;
        this.join(before.line, after.line, by);
        this.pairBelow(before.line, after.line);
        found = true;
      }
    }
    return found;
  }

  /** Neither paired, nor within something whose rows were paired with it. */
  private isFree(line: BomLine): boolean {
    return !this.before.has(line) && !this.after.has(line) && !this.said.has(line);
  }

  /** In the order of `to`; what was removed stands where it stood in `from`. */
  rows(): DifferenceRow[] {
    const rows: DifferenceRow[] = [];
    this.addRows(this.from.children, this.to.children, 1, rows);
    return rows;
  }

  private addRows(
    from: readonly BomLine[],
    to: readonly BomLine[],
    level: number,
    rows: DifferenceRow[],
  ): void {
    const position = new Map(from.map((line, at) => [line, at]));
    let next = 0;
    const removedUpTo = (end: number): void => {
      for (; next < end; next++) {
        const line = from[next];
        // What moved away stands where it is now.
        if (line && !this.before.has(line)) this.addAlone(line, 'removed', level, rows);
      }
    };
    for (const line of to) {
      const partner = this.after.get(line);
      const at = partner ? position.get(partner.line) : undefined;
      if (at !== undefined) removedUpTo(at);
      if (partner) this.addPair(line, partner, level, rows);
      else this.addAlone(line, 'added', level, rows);
    }
    removedUpTo(from.length);
  }

  private addPair(line: BomLine, { line: before, by }: Partner, level: number, rows: DifferenceRow[]): void {
    const isMoved = this.isMoved(before, line);
    const differs = withoutSilent(differencesOf(before, line, this.columns, isMoved), this.silent);
    rows.push({
      sign: signOf(before, line, differs),
      level,
      before: this.side(before, 0),
      after: this.side(line, 1),
      by,
      differs,
    });
    this.addRows(before.children, line.children, level + 1, rows);
  }

  /** A line without a partner; what lies below it may have one that moved in or away. */
  private addAlone(line: BomLine, sign: 'added' | 'removed', level: number, rows: DifferenceRow[]): void {
    const side = this.side(line, sign === 'added' ? 1 : 0);
    rows.push({
      sign,
      level,
      ...(sign === 'added' ? { after: side } : { before: side }),
      differs: NOTHING,
    });
    for (const child of line.children) {
      const partner = sign === 'added' ? this.after.get(child) : this.before.get(child);
      if (!partner) this.addAlone(child, sign, level + 1, rows);
      else if (sign === 'added') this.addPair(child, partner, level + 1, rows);
    }
  }

  private chainOf(line: BomLine): string[] {
    const chain: string[] = [];
    for (
      let at: BomLine | undefined = line;
      at && at !== this.from && at !== this.to;
      at = this.parents.get(at)
    )
      chain.unshift(at.number);
    return chain;
  }

  private side(line: BomLine, at: 0 | 1): LineSide {
    // Copying all and blanking one is ten times faster than leaving one out.
    const whole = {
      ...line,
      children: undefined,
      way: this.ways[at].get(line) ?? '',
      chain: this.chainOf(line),
    };
    return whole;
  }
}

/** A line with how far below the root it lies. */
interface Placed {
  readonly line: BomLine;
  readonly depth: number;
}

/** What moved within what moved, and so on: nobody nests moves deeper. */
const MOST_ROUNDS = 20;

function differencesOf(
  before: LineFacts,
  after: LineFacts,
  columns: readonly string[],
  parent: boolean,
): Differs {
  const isSameItem = itemKeyOf(before) === itemKeyOf(after);
  return {
    quantity: !isSameAmount(before.amount, after.amount),
    version: isSameItem ? !saySameVersion(before, after) : contentOf(before) !== contentOf(after),
    placement: placesOf(before) !== placesOf(after),
    find: before.find !== after.find,
    designators: !isSameList(before.designators, after.designators),
    configurations: !isSameList(before.configurations, after.configurations),
    parent,
    fields: columns.filter((column) => !isSameText(before.values[column], after.values[column])),
  };
}

function isSameList(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((text, at) => text === b[at]);
}

function withoutSilent(differs: Differs, silent: readonly Aspect[]): Differs {
  return silent.length === 0
    ? differs
    : { ...differs, ...Object.fromEntries(silent.map((aspect) => [aspect, false])) };
}

/** A file that names no version says nothing about it. */
function saySameVersion(before: LineFacts, after: LineFacts): boolean {
  if (before.versionId !== undefined && after.versionId !== undefined)
    return before.versionId === after.versionId;
  return before.version === '' || after.version === '' || before.version === after.version;
}

/** Texts that mean the same: `1 in` and `25.4 mm`. Nothing said is no difference from nothing. */
export function isSameText(a = '', b = ''): boolean {
  if (a === b) return true;
  const [left, right] = [parseQuantity(a), parseQuantity(b)];
  if (!left || !right) return false;
  const [one, other] = [toSi(left.value, left.unit), toSi(right.value, right.unit)];
  return one !== undefined && one.unit === other?.unit && isNear(one.value, other.value);
}

function signOf(before: LineFacts, after: LineFacts, differs: Differs): DifferenceSign {
  const isReplaced =
    itemKeyOf(before) !== itemKeyOf(after) && (before.stem === undefined || before.stem !== after.stem);
  if (isReplaced) return 'replaced';
  if (differs.parent) return 'moved';
  const isChanged =
    differs.quantity ||
    differs.version ||
    differs.find ||
    differs.designators ||
    differs.configurations ||
    differs.fields.length > 0;
  if (isChanged) return 'changed';
  return differs.placement ? 'moved' : 'same';
}

/**
 * Compares net totals: every item once with its amount in the whole product, so that what merely moved from one assembly to
 * another nets out. `O(lines)`
 */
export function compareTotals(from: BomLine, to: BomLine, options: CompareOptions = {}): DifferenceRow[] {
  const { by = PAIR_KEYS, columns = [], silent = [] } = options;
  const [before, after] = [totals(from), totals(to)];
  const rows: DifferenceRow[] = [];
  const keys = by.filter((key) => key === 'item' || key === 'lineage');
  const pairs = new Map(
    pairSiblings(before, after, keys.length > 0 ? keys : ['item']).map((pair) => [pair.after, pair]),
  );
  const paired = new Set([...pairs.values()].map((pair) => pair.before));
  const position = new Map<BomLine, number>(before.map((line, at) => [line, at]));
  let next = 0;
  const removedUpTo = (end: number): void => {
    for (; next < end; next++) {
      const line = before[next];
      if (line && !paired.has(line))
        rows.push({ sign: 'removed', level: 1, before: totalSide(line), differs: NOTHING });
    }
  };
  for (const line of after) {
    const pair = pairs.get(line);
    if (!pair) {
      rows.push({ sign: 'added', level: 1, after: totalSide(line), differs: NOTHING });
      continue;
    }
    removedUpTo(position.get(pair.before) ?? 0);
    const left = pair.before as TotalLine;
    const right = line;
    const differs = withoutSilent(
      {
        ...NOTHING,
        quantity: !haveSameAmounts(left.amounts, right.amounts),
        version: contentsDiffer(left, right),
        fields: columns.filter((column) => !isSameText(left.values[column], right.values[column])),
      },
      silent,
    );
    rows.push({
      sign: signOf(left, right, differs),
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
    // Of what is fixed or as required, there is one to look into.
    const inside = amount.basis === 'each' ? amount.value : '1';
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
  const { amounts: _, contents: __, children: ___, ...facts } = line as TotalLine;
  return { ...facts, way: line.number, chain: [line.number] };
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

export function countDifferences(rows: readonly DifferenceRow[]): DifferenceCounts {
  const counts = { added: 0, removed: 0, changed: 0, replaced: 0, moved: 0, same: 0 };
  for (const row of rows) counts[row.sign]++;
  return counts;
}

/** What a side is called in a sentence. */
export interface SaidSide {
  readonly number: string;
  /** `B/3`; empty for a file. */
  readonly version: string;
}

/**
 * The sentence that says what was compared and in which direction.
 *
 * @param isWhole whether the two things compared are also the same themselves; else “no difference” would be too much
 */
export function sayDifference(
  from: SaidSide,
  to: SaidSide,
  counts: DifferenceCounts,
  isWhole = true,
): string {
  const name = ({ number, version }: SaidSide): string => `${number} ${version}`.trim();
  const sides =
    from.number === to.number && from.version !== '' && to.version !== ''
      ? `${from.number} from ${from.version} to ${to.version}`
      : `From ${name(from)} to ${name(to)}`;
  const said = (['added', 'removed', 'changed', 'replaced', 'moved'] as const)
    .filter((sign) => counts[sign] > 0)
    .map((sign) => `${counts[sign]} ${sign}`);
  if (said.length > 0) return `${sides}: ${said.join(', ')}.`;
  return `${sides}: ${isWhole ? 'no difference' : 'no row differs, but the versions themselves do'}.`;
}
