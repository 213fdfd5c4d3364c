/** What may come back into the store, and what stands in the way, row by row. */
import type { StateBook } from '../lifecycle/diagram.js';
import { refuseChange, takesVersions } from '../lifecycle/states.js';
import {
  placeOf,
  type IntakePlan,
  type IntakeRow,
  type KnownItem,
  type WorkingCopy,
} from '../intake/plan-types.js';

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
  readonly states: StateBook;
  /** Place of the intake. */
  readonly place: string;
  /** Absent for files that come from somewhere else: then only what others hold is refused. */
  readonly workingCopy?: WorkingCopy;
  /** Keys of rows that may replace a newer version than the one they were made from. */
  readonly overwrite?: ReadonlySet<string>;
}

/**
 * Refuses what custody does not allow in a plan; the rest stays as it is. Rights, holds and lifecycle are judged for every
 * row, whether it has a file of its own or lives in another's; a file comes in whole or not at all. A refused row still
 * stands for its item, so that what refers to it keeps its link.
 */
export function guardPlan(plan: IntakePlan, options: CheckInOptions): IntakePlan {
  const rows = plan.rows.map((row) => guardRow(refuseForeignPlace(row, options), options));
  const refused = new Map<string, Refused>();
  for (const { key, carrier, number, status } of rows) {
    if (status.kind !== 'refused') continue;
    if (carrier === undefined) refused.set(key, status);
    else if (!refused.has(carrier))
      refused.set(carrier, {
        ...status,
        reason: `${number} lives in it: ${status.reason}`,
        canOverwrite: false,
      });
  }
  const whole = rows.map((row): IntakeRow => {
    const cause = refused.get(row.carrier ?? row.key);
    if (!cause || row.status.kind === 'unchanged' || row.status.kind === 'refused') return row;
    if (row.status.kind === 'newVersion')
      return { ...row, status: { ...cause, of: row.status.of, canOverwrite: false } };
    if (row.status.kind !== 'new') return row;
    return row.carrier === undefined
      ? { ...row, status: { kind: 'problem', line: 0, reason: cause.reason } }
      : { ...row, status: { kind: 'leftOut' } };
  });
  return { ...plan, rows: whole, problems: [...plan.problems, ...newProblems(plan, whole)] };
}

type Refused = Extract<IntakeRow['status'], { kind: 'refused' }>;

function newProblems(plan: IntakePlan, rows: readonly IntakeRow[]): IntakePlan['problems'] {
  const before = new Set(plan.rows.flatMap(({ key, status }) => (status.kind === 'problem' ? [key] : [])));
  return rows.flatMap(({ key, path, status }) =>
    status.kind === 'problem' && !before.has(key)
      ? [{ file: path, line: status.line, reason: status.reason }]
      : [],
  );
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
  const { takesOver } = row.status;
  const refused = refusal(row, row.status, options);
  if (refused !== undefined)
    return { ...row, status: { kind: 'refused', of, ...refused, ...(takesOver ? { takesOver } : {}) } };
  return options.states.get(of.state)?.lane === 'locked'
    ? { ...row, notes: [...row.notes, `${of.number} is ${of.state}; this goes on in a new revision.`] }
    : row;
}

function refusal(
  row: IntakeRow,
  { of: item, takesOver = false }: Extract<IntakeRow['status'], { kind: 'newVersion' }>,
  options: CheckInOptions,
): { reason: string; canOverwrite: boolean } | undefined {
  const { custody, states, workingCopy, overwrite } = options;
  const no = (reason: string): { reason: string; canOverwrite: boolean } => ({ reason, canOverwrite: false });
  if (!custody.mayChange(item)) return no('your access at its place does not allow you to change it');
  // What lives in another's file is held with that, also when it comes back with a file of its own.
  const isHeldItself = custody.holderOf(item.id) !== undefined || item.carrier === undefined;
  const held = isHeldItself ? item.id : (item.carrier ?? item.id);
  const holder = custody.holderOf(held);
  const isMine = holder !== undefined && custody.isMine(held);
  if (holder !== undefined && !isMine)
    return no(`${holder} holds it; only the holder can put a version back`);
  if (!takesVersions(states, item.state)) return no(refuseChange(states, item.state) ?? '');
  if (takesOver && !isMine)
    return {
      reason: `to become a version of ${item.number} it must be checked out by you; check it out first`,
      canOverwrite: true,
    };
  // What lives in another's file is checked out and fetched with that.
  if (!workingCopy || row.carrier !== undefined) return undefined;
  if (holder === undefined) return no('it is not checked out; check it out first');
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
