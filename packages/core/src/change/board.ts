/** Where all changes stand, in figures. Times are milliseconds since 1970, days and weeks are those of UTC. */
import type { Lane } from '../lifecycle/diagram.js';

/** A change as far as figures need it. */
export interface BoardChange {
  readonly number: string;
  readonly lane: Lane;
  readonly openedAt: number;
  /** Null while it is open. */
  readonly closedAt: number | null;
  /** When the day ends by which it is to be done; null for none. */
  readonly dueAt: number | null;
  /** States it has been in, one after another; the last one has no end while it is there. */
  readonly stays: readonly { readonly state: string; readonly from: number; readonly to: number | null }[];
  /** Names of top-level products that what it affects stands in. */
  readonly products: readonly string[];
  /** By whom it waits: people, or roles where nobody is named. */
  readonly waitsFor: readonly string[];
}

export const DAY_MS = 86_400_000;

/** Whether nothing is expected of it any more. */
export function isFinished(lane: Lane): boolean {
  return lane === 'locked' || lane === 'out of use';
}

/** Days by which something is or was late, 0 where it is not. */
export function lateDays({ dueAt, closedAt }: Pick<BoardChange, 'dueAt' | 'closedAt'>, now: number): number {
  return dueAt === null ? 0 : Math.max(0, Math.ceil(((closedAt ?? now) - dueAt) / DAY_MS));
}

/** Whole days that it has been where it is; how old it is, where `of` says opened. */
export function ageDays(since: number, now: number): number {
  return Math.max(0, Math.floor((now - since) / DAY_MS));
}

export interface WeekCount {
  /** Monday of the week, `2026-03-30` (ISO 8601: weeks begin on Mondays). */
  readonly week: string;
  readonly opened: readonly string[];
  readonly closed: readonly string[];
}

/** For each of the last weeks, oldest first, numbers of changes that were opened and closed in it. `O(changes + weeks)` */
export function countWeeks(changes: readonly BoardChange[], now: number, weeks: number): WeekCount[] {
  const last = mondayOf(now);
  const counts = Array.from({ length: weeks }, (_, at) => ({
    week: dayOf(last - (weeks - 1 - at) * 7 * DAY_MS),
    opened: [] as string[],
    closed: [] as string[],
  }));
  const first = last - (weeks - 1) * 7 * DAY_MS;
  const weekAt = (time: number): (typeof counts)[number] | undefined =>
    counts[Math.floor((time - first) / (7 * DAY_MS))];
  for (const { number, openedAt, closedAt } of changes) {
    weekAt(openedAt)?.opened.push(number);
    if (closedAt !== null) weekAt(closedAt)?.closed.push(number);
  }
  return counts;
}

function mondayOf(time: number): number {
  const day = Math.floor(time / DAY_MS);
  // The first of January 1970 was a Thursday.
  return (day - ((day + 3) % 7)) * DAY_MS;
}

function dayOf(time: number): string {
  return new Date(time).toISOString().slice(0, 10);
}

export interface StateTime {
  readonly state: string;
  /** Days that half of the stays were shorter than, and the longest. */
  readonly medianDays: number;
  readonly longestDays: number;
  readonly changes: readonly string[];
}

/** How long changes stay in each state, in the order in which states first occur; stays that have not ended count until now. */
export function timePerState(changes: readonly BoardChange[], now: number): StateTime[] {
  const by = new Map<string, { readonly days: number[]; readonly changes: Set<string> }>();
  for (const { number, stays } of changes)
    for (const { state, from, to } of stays) {
      const known = by.get(state) ?? { days: [], changes: new Set<string>() };
      known.days.push(Math.max(0, ((to ?? now) - from) / DAY_MS));
      known.changes.add(number);
      by.set(state, known);
    }
  return [...by].map(([state, { days, changes: which }]) => {
    const sorted = days.sort((a, b) => a - b);
    const middle = (sorted.length - 1) / 2;
    const median = ((sorted[Math.floor(middle)] ?? 0) + (sorted[Math.ceil(middle)] ?? 0)) / 2;
    return { state, medianDays: median, longestDays: sorted.at(-1) ?? 0, changes: [...which] };
  });
}

export interface Share {
  readonly name: string;
  readonly changes: readonly string[];
}

/** Changes by something that each may have several of, the largest share first; those with none stand under `none`. */
export function sharesBy(
  changes: readonly BoardChange[],
  of: (change: BoardChange) => readonly string[],
  none: string,
): Share[] {
  const by = new Map<string, string[]>();
  for (const change of changes) {
    const names = of(change);
    for (const name of names.length > 0 ? new Set(names) : [none])
      by.set(name, [...(by.get(name) ?? []), change.number]);
  }
  return [...by]
    .map(([name, which]) => ({ name, changes: which }))
    .sort((a, b) => b.changes.length - a.changes.length || (a.name < b.name ? -1 : 1));
}
