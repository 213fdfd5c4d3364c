/** What a row of a comparison says, and what makes two rows different. */
import { isNear } from './amount.js';
import { parseQuantity, toSi } from '../quantity/quantity.js';
import type { LineFacts } from './line.js';
import type { HandPair, Pairable, PairedBy, PairKey } from './pair.js';

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

/** One side of a row. */
export interface LineSide {
  readonly line: LineFacts;
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

export const NOTHING: Differs = {
  ...{ quantity: false, version: false, placement: false, find: false, designators: false },
  ...{ configurations: false, parent: false, fields: [] },
};

export function fieldsThatDiffer(
  before: LineFacts,
  after: LineFacts,
  columns: readonly string[],
): readonly string[] {
  let differ: string[] | undefined;
  for (const column of columns)
    if (!isSameText(before.values[column], after.values[column])) (differ ??= []).push(column);
  return differ ?? NOTHING.fields;
}

export function isSameList(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((text, at) => text === b[at]);
}

export function withoutSilent(differs: Differs, silent: readonly Aspect[]): Differs {
  return silent.length === 0
    ? differs
    : { ...differs, ...Object.fromEntries(silent.map((aspect) => [aspect, false])) };
}

/** A file that names no version says nothing about it. */
export function saySameVersion(before: LineFacts, after: LineFacts): boolean {
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

export function signOf(
  before: Pick<Pairable, 'line' | 'key'>,
  after: Pick<Pairable, 'line' | 'key'>,
  differs: Differs,
): DifferenceSign {
  const { stem } = before.line;
  const isReplaced = before.key !== after.key && (stem === undefined || stem !== after.line.stem);
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
