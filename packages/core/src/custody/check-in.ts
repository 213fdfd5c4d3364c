/** What may come back into the store, and what stands in the way, row by row. */
import { placeOf, type IntakePlan, type IntakeRow, type KnownItem } from '../intake/plan-types.js';

/** A working copy's manifest, as far as a check-in needs it. */
export interface WorkingCopy {
  /** By path: what was fetched. */
  readonly files: ReadonlyMap<
    string,
    {
      readonly sha256: string;
      readonly items: readonly { readonly number: string; readonly version: string }[];
    }
  >;
}

export interface Custody {
  /** Name of who holds an item; undefined where nobody does. */
  holderOf(itemId: string): string | undefined;
  isMine(itemId: string): boolean;
  mayChange(item: KnownItem): boolean;
  /** Whether new items may come into a place. */
  mayBringInto(place: string): boolean;
}

export interface CheckInOptions {
  readonly custody: Custody;
  /** Place of the intake. */
  readonly place: string;
  /** Absent for files that come from somewhere else: then only what others hold is refused. */
  readonly workingCopy?: WorkingCopy;
  /** Keys of rows that may replace a newer version than the one they were made from. */
  readonly overwrite?: ReadonlySet<string>;
}

/**
 * Refuses what custody does not allow in a plan; the rest stays as it is. A refused row still stands for its item, so
 * that what refers to it keeps its link.
 */
export function guardPlan(plan: IntakePlan, options: CheckInOptions): IntakePlan {
  const rows = plan.rows.map((row) => guardRow(refuseForeignPlace(row, options), options));
  const refused = new Map(
    rows.flatMap((row) => (row.status.kind === 'refused' ? [[row.key, row.status] as const] : [])),
  );
  // What lives in a refused file stays out with it.
  const whole = rows.map((row): IntakeRow => {
    const carrier = refused.get(row.carrier ?? '');
    if (!carrier || row.status.kind === 'unchanged') return row;
    if (row.status.kind === 'newVersion')
      return { ...row, status: { ...carrier, of: row.status.of, canOverwrite: false } };
    return { ...row, status: { kind: 'leftOut' } };
  });
  return { ...plan, rows: whole };
}

function refuseForeignPlace(row: IntakeRow, { custody, place }: CheckInOptions): IntakeRow {
  const into = placeOf(place, row.path);
  if (row.status.kind !== 'new' || custody.mayBringInto(into)) return row;
  const reason = `your access to ${into} does not allow you to bring anything in`;
  return { ...row, status: { kind: 'problem', line: 0, reason } };
}

function guardRow(row: IntakeRow, options: CheckInOptions): IntakeRow {
  if (row.status.kind !== 'newVersion') return row;
  const { of } = row.status;
  const refused = row.carrier === undefined ? refusal(row, of, options) : undefined;
  return refused === undefined ? row : { ...row, status: { kind: 'refused', of, ...refused } };
}

function refusal(
  row: IntakeRow,
  item: KnownItem,
  options: CheckInOptions,
): { reason: string; canOverwrite: boolean } | undefined {
  const { custody, workingCopy, overwrite } = options;
  if (!custody.mayChange(item))
    return { reason: 'your access at its place does not allow you to change it', canOverwrite: false };
  const holder = custody.holderOf(item.id);
  if (holder !== undefined && !custody.isMine(item.id))
    return { reason: `${holder} holds it; only the holder can put a version back`, canOverwrite: false };
  if (!workingCopy) return undefined;
  if (holder === undefined)
    return { reason: 'it is not checked out; check it out first', canOverwrite: false };
  const fetched = workingCopy.files.get(row.path)?.items.find(({ number }) => number === item.number);
  if (!fetched || fetched.version === item.newest.label || overwrite?.has(row.key)) return undefined;
  const reason = `it was made from ${fetched.version}, and ${item.newest.label} has come in since; compare them, then choose to replace it or leave this out`;
  return { reason, canOverwrite: true };
}

/** Paths of a working copy that are not among the files that come back. */
export function missingFrom(workingCopy: WorkingCopy, present: Iterable<string>): string[] {
  const there = new Set(present);
  return [...workingCopy.files.keys()].filter((path) => !there.has(path)).sort();
}
