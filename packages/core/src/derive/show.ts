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

/** @param shown by item */
export function planLines(
  { lines }: DerivationPlan,
  shown: { get(itemId: string): ShownItem | undefined },
): PlanLine[] {
  return lines.map((line) => ({
    key: sayKey(line),
    number: line.number,
    name: line.name,
    kind: shown.get(line.itemId)?.kind ?? 'part',
    version: shown.get(line.itemId)?.version ?? '',
    decision: line.decision,
    reason: sayReason(line.reason),
    forced: line.forced,
    newNumber: line.copy?.number ?? null,
    newName: line.copy?.name ?? null,
    fileName: line.copy?.fileName || null,
    to: line.to ? { number: line.to.number, name: line.to.name } : null,
    clash: line.clash ?? null,
  }));
}

/** @param uses decisions about spots */
export function planRows(
  { lines }: DerivationPlan,
  spots: readonly PlanSpot[],
  uses: readonly UseDecision[],
): PlanRow[] {
  const byKey = new Map(lines.map((line) => [line.key, line]));
  const decided = new Set(uses.map(({ chain }) => chain.join(' ')));
  const path: string[] = [];
  return spots.map(({ level, itemId, number, quantity, decision, key, to, occurrences }) => {
    path.length = level;
    path.push(itemId);
    const line = key === undefined ? undefined : byKey.get(key);
    return {
      level,
      number,
      quantity,
      gap: itemId === '',
      decision,
      key: line ? sayKey(line) : null,
      to: to?.number ?? null,
      occurrences: occurrences?.map((at) => at + 1) ?? null,
      own: decided.size > 0 && decided.has(path.join(' ')),
    };
  });
}

/** As people name a line: the number, and which of the copies where there are several. */
function sayKey({ key, number }: Pick<DerivationLine, 'key' | 'number'>): string {
  const at = key.indexOf('#');
  return at < 0 ? number : `${number} ${key.slice(at)}`;
}
