import type { CountRow, FindCounts, FindGroup, FoundRow } from '@stem-trace/contract';
import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { findCountsQuery, findPageQuery, PAGE, type FindQuery } from '../../api/find.js';

/** A row of the table: an item, or the head of a group. */
export type FindLine =
  | { readonly kind: 'item'; readonly row: FoundRow }
  | { readonly kind: 'head'; readonly value: string; readonly count: number };

/** What is known of all that was found, whatever is in sight. */
export interface Found {
  readonly total: number;
  readonly hidden: number;
  readonly near: readonly { readonly number: string; readonly name: string }[];
  readonly error: Error | null;
  readonly isThere: boolean;
}

export function useFirstFound(query: FindQuery): Found {
  const { data, error } = useQuery({ ...findPageQuery(query, 0), placeholderData: keepPreviousData });
  return {
    total: data?.total ?? 0,
    hidden: data?.hidden ?? 0,
    near: data?.near ?? [],
    error,
    isThere: data !== undefined,
  };
}

export interface FoundLines {
  /** Items and heads. */
  readonly lines: number;
  /** Undefined for one that has not come yet; the same object for the same line, so that it is drawn once. */
  line(index: number): FindLine | undefined;
  /** Why lines in sight do not come; what is wrong with the search itself is told with the first of them. */
  readonly error: Error | null;
}

/** The lines in sight, fetched page by page as they come into it. */
export function useFound(query: FindQuery, sight: readonly [first: number, last: number]): FoundLines {
  const counts = useQuery({
    ...findCountsQuery(query.words, query.place, query.lens),
    enabled: query.group !== undefined,
    placeholderData: keepPreviousData,
  });
  const { group } = query;
  const layout = useMemo(
    () => new GroupLayout(group, counts.data && groupRows(counts.data, group)),
    [group, counts.data],
  );
  const [first, last] = [layout.itemsBefore(sight[0]), layout.itemsBefore(sight[1])];
  const pages = [0, ...range(Math.max(1, Math.floor(first / PAGE)), Math.floor(last / PAGE))];
  const answers = useQueries({
    queries: pages.map((page) => ({
      ...findPageQuery(query, page),
      placeholderData: keepPreviousData,
    })),
  });
  const itemAt = (index: number): FoundRow | undefined =>
    answers[pages.indexOf(Math.floor(index / PAGE))]?.data?.rows[index % PAGE];
  return {
    lines: (answers[0]?.data?.total ?? 0) + layout.heads.length,
    line: (index) => {
      const head = layout.headAt(index);
      if (head) return head;
      const row = itemAt(layout.itemsBefore(index));
      return row && lineOf(row);
    },
    error: answers.slice(1).find(({ error }) => error)?.error ?? null,
  };
}

const LINES = new WeakMap<FoundRow, FindLine>();

function lineOf(row: FoundRow): FindLine {
  const line = LINES.get(row) ?? { kind: 'item', row };
  LINES.set(row, line);
  return line;
}

/** Values of the column in the order in which the server groups by it. */
function groupRows(counts: FindCounts, group: FindGroup | undefined): readonly CountRow[] | undefined {
  if (group === undefined) return undefined;
  const rows = counts[group];
  const key = ({ value }: CountRow): string => (group === 'class' ? value.toLowerCase() : value);
  // What has no value comes last.
  return [...rows].sort(
    (a, b) =>
      Number(a.value === '') - Number(b.value === '') || (key(a) < key(b) ? -1 : key(a) > key(b) ? 1 : 0),
  );
}

type Head = Extract<FindLine, { kind: 'head' }>;

/** Where heads stand among the lines. */
export class GroupLayout {
  readonly heads: readonly (Head & { readonly at: number })[];

  constructor(group: string | undefined, rows: readonly CountRow[] | undefined) {
    let at = 0;
    this.heads =
      group === undefined || !rows
        ? []
        : rows.map(({ value, count }) => {
            const head = {
              kind: 'head' as const,
              at,
              value: value === '' ? `without ${group}` : value,
              count,
            };
            at += count + 1;
            return head;
          });
  }

  headAt(index: number): Head | undefined {
    const head = this.heads[this.headsUpTo(index) - 1];
    return head?.at === index ? head : undefined;
  }

  /** Items that stand before a line. */
  itemsBefore(index: number): number {
    return index - this.headsUpTo(index - 1);
  }

  /** Heads that stand at a line or before it; by halving, for there may be thousands. */
  private headsUpTo(index: number): number {
    let [low, high] = [0, this.heads.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.heads[middle]?.at ?? 0) <= index) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

function range(from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, index) => from + index);
}
