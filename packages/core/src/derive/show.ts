/** A plan as it is shown: lines and the tree, by the numbers that people know. */
import type { ItemKind } from '../model/reading.js';
import { sayReason } from './reasons.js';
import type { Decision, DerivationLine, DerivationPlan, PlanSpot, UseDecision } from './types.js';

export interface PlanLine {
  /** The number; with ` #2` and so on behind it for a further copy of the item. `renamed` goes by it. */
  readonly key: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly decision: Decision;
  readonly reason: string;
  readonly forced: boolean;
  readonly newNumber: string | null;
  readonly newName: string | null;
  readonly fileName: string | null;
  /** What takes its place, where it is swapped. */
  readonly to: { readonly number: string; readonly name: string } | null;
  readonly clash: { readonly of: 'decision' | 'name'; readonly says: string } | null;
}

/** A spot of the tree, for showing decisions where they belong. */
export interface PlanRow {
  readonly level: number;
  readonly number: string;
  readonly quantity: number;
  readonly gap: boolean;
  readonly decision: Decision | 'add';
  /** Of the line of the copy that stands there; null where none does. */
  readonly key: string | null;
  /** What is swapped in or added; null where nothing is. */
  readonly to: string | null;
  /** Which of the occurrences, the first being 1; null where all become the same. */
  readonly occurrences: readonly number[] | null;
  /** Whether something was decided about this very spot. */
  readonly own: boolean;
}

/** What is shown of an item beside what the plan knows. */
export interface ShownItem {
  readonly kind: ItemKind;
  /** Label of its version, as in `B/3`. */
  readonly version: string;
}

/**
 * @param shown by item
 * @param before lines that were shown; those that say the same come back themselves
 */
export function planLines(
  { lines }: Pick<DerivationPlan, 'lines'>,
  shown: { get(itemId: string): ShownItem | undefined },
  before: readonly PlanLine[] = [],
): PlanLine[] {
  return lines.map((line, at) => {
    const item = shown.get(line.itemId);
    return again(before[at], {
      key: sayKey(line),
      number: line.number,
      name: line.name,
      kind: item?.kind ?? 'part',
      version: item?.version ?? '',
      decision: line.decision,
      reason: sayReason(line.reason),
      forced: line.forced,
      newNumber: line.copy?.number ?? null,
      newName: line.copy?.name ?? null,
      fileName: line.copy?.fileName || null,
      to: line.to ? { number: line.to.number, name: line.to.name } : null,
      clash: line.clash ?? null,
    });
  });
}

/**
 * @param uses decisions about spots
 * @param before as for `planLines`
 */
export function planRows(
  { lines }: Pick<DerivationPlan, 'lines'>,
  spots: Iterable<PlanSpot>,
  uses: readonly UseDecision[],
  before: readonly PlanRow[] = [],
): PlanRow[] {
  const keyOf = new Map(lines.map((line) => [line.key, sayKey(line)]));
  const decided = new Set(uses.map(({ chain }) => chain.join(' ')));
  const path: string[] = [];
  const rows: PlanRow[] = [];
  for (const { level, itemId, number, quantity, decision, key, to, occurrences } of spots) {
    path.length = level;
    path.push(itemId);
    const row: PlanRow = {
      level,
      number,
      quantity,
      gap: itemId === '',
      decision,
      key: (key === undefined ? undefined : keyOf.get(key)) ?? null,
      to: to?.number ?? null,
      occurrences: occurrences?.map((at) => at + 1) ?? null,
      own: decided.size > 0 && decided.has(path.join(' ')),
    };
    rows.push(again(before[rows.length], row));
  }
  return rows;
}

/** What was there before, where it is no other than what comes after it. */
function again<T extends object>(before: T | undefined, after: T): T {
  if (!before) return after;
  for (const name in after) {
    const [a, b] = [before[name], after[name]];
    if (a !== b && (typeof b !== 'object' || JSON.stringify(a) !== JSON.stringify(b))) return after;
  }
  return before;
}

/** As people name a line: the number, and which of the copies where there are several. */
function sayKey({ key, number }: Pick<DerivationLine, 'key' | 'number'>): string {
  const at = key.indexOf('#');
  return at < 0 ? number : `${number} ${key.slice(at)}`;
}
