/**
 * What is different between two BOMs, level by level.
 *
 * Rows are paired inside paired assemblies (`pair.ts`). What has no partner beside it is looked for in the rest of the tree: it
 * moved. Comparing is linear in lines, and mirrors: what `from → to` calls added, `to → from` calls removed, in every kind of
 * difference.
 */
import { addTo, valueAt } from '../collections.js';
import { isSameAmount } from './amount.js';
import {
  fieldsThatDiffer,
  isSameList,
  NOTHING,
  saySameVersion,
  signOf,
  withoutSilent,
  type Aspect,
  type CompareOptions,
  type DifferenceRow,
  type Differs,
  type LineSide,
} from './difference.js';
import { contentOf, itemKeyOf, placesOf, type BomLine } from './line.js';
import {
  PAIR_KEYS,
  pairSiblings,
  type HandPair,
  type Pair,
  type Pairable,
  type PairedBy,
  type PairKey,
} from './pair.js';

/** Compares two trees level by level. The roots are taken to be a pair. `O(lines)` */
export function compareTrees(from: BomLine, to: BomLine, options: CompareOptions = {}): DifferenceRow[] {
  return new Comparison(from, to, options).rows();
}

/** Which line of `from` each line of `to` stands for, by the same rules. `O(lines)` */
export function pairTrees(from: BomLine, to: BomLine, options: CompareOptions = {}): Map<BomLine, BomLine> {
  return new Comparison(from, to, options).partners();
}

/** A line with where it lies, and what it stands for on the other side. */
interface Placed extends Pairable {
  /** Absent for the root. */
  readonly parent: Placed | undefined;
  readonly depth: number;
  /** Among its siblings. */
  readonly at: number;
  readonly children: Placed[];
  partner: Placed | undefined;
  by: PairedBy | undefined;
  /** See `waysOf`; empty until somebody asks. */
  way: string;
}

/** A line with all that lies below it, in the order of the tree. */
function place(root: BomLine): Placed[] {
  const placed = [placedLine(root, undefined, 0)];
  const stack = [...placed];
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { children } = top.line;
    for (let at = 0; at < children.length; at++) {
      const child = children[at];
      if (child) top.children.push(placedLine(child, top, at));
    }
    if (top.parent) placed.push(top);
    for (let at = top.children.length - 1; at >= 0; at--) {
      const child = top.children[at];
      if (child) stack.push(child);
    }
  }
  return placed;
}

function placedLine(line: BomLine, parent: Placed | undefined, at: number): Placed {
  const depth = parent ? parent.depth + 1 : 0;
  return {
    line,
    parent,
    at,
    key: itemKeyOf(line),
    depth,
    children: [],
    isTaken: false,
    partner: undefined,
    by: undefined,
    way: '',
  };
}

class Comparison {
  private readonly by: readonly PairKey[];
  private readonly columns: readonly string[];
  private readonly silent: readonly Aspect[];
  /** The roots come first. */
  private readonly before: readonly Placed[];
  private readonly after: readonly Placed[];

  constructor(
    from: BomLine,
    to: BomLine,
    { by = PAIR_KEYS, hand = [], columns = [], silent = [] }: CompareOptions,
  ) {
    this.by = by;
    this.columns = columns;
    this.silent = silent;
    this.before = place(from);
    this.after = place(to);
    const byHand = this.handPairs(hand);
    const [left, right] = this.roots;
    this.pairBelow(left, right);
    for (const { before, after } of byHand) this.pairBelow(before, after);
    for (let round = 0; round < MOST_ROUNDS && this.pairMoved(); round++);
  }

  private get roots(): readonly [Placed, Placed] {
    return [valueAt(this.before, 0), valueAt(this.after, 0)];
  }

  /** By each line of `to` that has a partner, that partner. */
  partners(): Map<BomLine, BomLine> {
    const partners = new Map<BomLine, BomLine>();
    for (const { line, partner } of this.after) if (partner) partners.set(line, partner.line);
    return partners;
  }

  private handPairs(hand: readonly HandPair[]): Pair<Placed>[] {
    if (hand.length === 0) return [];
    const [left, right] = [this.before, this.after].map(
      (lines) => new Map(lines.flatMap((each) => (each.parent ? [[wayOf(each), each]] : []))),
    );
    const pairs: Pair<Placed>[] = [];
    for (const { from, to } of hand) {
      const [before, after] = [left?.get(from), right?.get(to)];
      if (before && after && !before.isTaken && !after.isTaken) {
        join(before, after, 'hand');
        pairs.push({ before, after, by: 'hand' });
      }
      for (const each of [before, after]) if (each) each.isTaken = true;
    }
    return pairs;
  }

  /** Pairs what lies in two lines that are a pair, and in these pairs again. */
  private pairBelow(from: Placed, to: Placed): void {
    const stack: (readonly [Placed, Placed])[] = [[from, to]];
    for (let top = stack.pop(); top; top = stack.pop()) {
      const [left, right] = top;
      if (left.children.length === 0 || right.children.length === 0) continue;
      for (const { before, after, by } of pairSiblings(left.children, right.children, this.by)) {
        join(before, after, by);
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
    const isFree = ({ parent, isTaken }: Placed): boolean => parent !== undefined && !isTaken;
    const [left, right] = [this.before.filter(isFree), this.after.filter(isFree)];
    if (left.length === 0 || right.length === 0) return false;
    let found = false;
    for (const [by, keyOf] of [
      ['item', ({ key }: Placed) => key],
      ['lineage', ({ line }: Placed) => line.stem],
    ] as const) {
      if (!this.by.includes(by)) continue;
      const waiting = new Map<string, Placed[]>();
      for (const placed of left) {
        const key = placed.isTaken ? undefined : keyOf(placed);
        if (key !== undefined) addTo(waiting, key, placed);
      }
      const next = new Map<string, number>();
      const candidates = right.flatMap((placed) => {
        const key = placed.isTaken ? undefined : keyOf(placed);
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
        if (before.isTaken || after.isTaken) continue;
        join(before, after, by);
        this.pairBelow(before, after);
        found = true;
      }
    }
    return found;
  }

  /** In the order of `to`; what was removed stands where it stood in `from`. */
  rows(): DifferenceRow[] {
    const rows: DifferenceRow[] = [];
    this.addRows(...this.roots, 1, rows);
    return rows;
  }

  /** @param from what `to` stands for */
  private addRows(from: Placed, to: Placed, level: number, rows: DifferenceRow[]): void {
    let next = 0;
    const removedUpTo = (end: number): void => {
      for (; next < end; next++) {
        const placed = from.children[next];
        // What moved away stands where it is now.
        if (placed && !placed.partner) this.addAlone(placed, 'removed', level, rows);
      }
    };
    for (const placed of to.children) {
      const { partner } = placed;
      if (partner?.parent === from) removedUpTo(partner.at);
      if (partner) this.addPair(partner, placed, level, rows);
      else this.addAlone(placed, 'added', level, rows);
    }
    removedUpTo(from.children.length);
  }

  private addPair(before: Placed, after: Placed, level: number, rows: DifferenceRow[]): void {
    const differs = withoutSilent(differencesOf(before, after, this.columns), this.silent);
    const row: DifferenceRow = {
      sign: signOf(before, after, differs),
      level,
      before: sideOf(before),
      after: sideOf(after),
      by: after.by ?? 'item',
      differs,
    };
    rows.push(row);
    if (before.children.length > 0 || after.children.length > 0) this.addRows(before, after, level + 1, rows);
  }

  /** A line without a partner; what lies below it may have one that moved in or away. */
  private addAlone(placed: Placed, sign: 'added' | 'removed', level: number, rows: DifferenceRow[]): void {
    const side = sideOf(placed);
    rows.push({ sign, level, ...(sign === 'added' ? { after: side } : { before: side }), differs: NOTHING });
    for (const child of placed.children) {
      if (!child.partner) this.addAlone(child, sign, level + 1, rows);
      else if (sign === 'added') this.addPair(child.partner, child, level + 1, rows);
    }
  }
}

function join(before: Placed, after: Placed, by: PairedBy): void {
  before.partner = after;
  after.partner = before;
  before.by = by;
  after.by = by;
  before.isTaken = true;
  after.isTaken = true;
}

/** Whether two lines that are a pair lie in two that are none. */
function isMoved(before: Placed, after: Placed): boolean {
  const [left, right] = [before.parent, after.parent];
  if (!left?.parent || !right?.parent) return left?.parent !== undefined || right?.parent !== undefined;
  return left.partner !== right;
}

/** As `waysOf` has it, for this line and those beside it. */
function wayOf({ parent, at }: Placed): string {
  const siblings = parent?.children ?? [];
  const own = siblings[at];
  if (!parent || !own) return '';
  if (own.way === '') {
    const inside = parent.parent ? `${wayOf(parent)} › ` : '';
    const met = new Map<string, number>();
    for (const each of siblings) {
      const { number } = each.line;
      const times = (met.get(number) ?? 0) + 1;
      met.set(number, times);
      each.way = inside + (times === 1 ? number : `${number}#${times}`);
    }
  }
  return own.way;
}

/** Numbers from the root's child down to a line. */
function chainOf(placed: Placed): readonly string[] {
  const { parent, line } = placed;
  if (!parent) return [];
  return parent.parent ? [...chainOf(parent), line.number] : [line.number];
}

function sideOf(placed: Placed): LineSide {
  return { line: placed.line, way: wayOf(placed), chain: chainOf(placed) };
}

/** What moved within what moved, and so on: nobody nests moves deeper. */
const MOST_ROUNDS = 20;

function differencesOf(left: Placed, right: Placed, columns: readonly string[]): Differs {
  const [before, after] = [left.line, right.line];
  const quantity = !isSameAmount(before.amount, after.amount);
  const version =
    left.key === right.key ? !saySameVersion(before, after) : contentOf(before) !== contentOf(after);
  const placement = placesOf(before) !== placesOf(after);
  const find = before.find !== after.find;
  const designators = !isSameList(before.designators, after.designators);
  const configurations = !isSameList(before.configurations, after.configurations);
  const parent = isMoved(left, right);
  const fields = fieldsThatDiffer(before, after, columns);
  // Most rows are the same, and share what they say.
  if (
    fields.length === 0 &&
    !(quantity || version || placement || find || designators || configurations || parent)
  )
    return NOTHING;
  return { quantity, version, placement, find, designators, configurations, parent, fields };
}
