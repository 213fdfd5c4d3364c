import type { CountRow, FindCounts, FindGroup, FoundRow } from '@stem-trace/contract';
import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { findCountsQuery, findPageQuery, PAGE, type FindQuery } from '../../api/find.js';

/** A row of the table: an item, or the head of a group. */
export type FindLine =
  | { readonly kind: 'item'; readonly row: FoundRow }
  | { readonly kind: 'head'; readonly value: string; readonly count: number };

export interface Found {
  readonly total: number;
  readonly hidden: number;
  readonly near: readonly { readonly number: string; readonly name: string }[];
  /** Items and heads. */
  readonly lines: number;
  /** Undefined for one that has not come yet. */
  line(index: number): FindLine | undefined;
  readonly error: Error | null;
  readonly isThere: boolean;
}

/** The lines in sight, fetched page by page as they come into it. */
export function useFound(query: FindQuery, sight: readonly [first: number, last: number]): Found {
  const counts = useQuery({
    ...findCountsQuery(query.words, query.place),
    enabled: query.group !== undefined,
    placeholderData: keepPreviousData,
  });
  const layout = new GroupLayout(query.group, counts.data && groupRows(counts.data, query.group));
  const [first, last] = [layout.itemsBefore(sight[0]), layout.itemsBefore(sight[1])];
  const pages = [0, ...range(Math.max(1, Math.floor(first / PAGE)), Math.floor(last / PAGE))];
  const answers = useQueries({
    queries: pages.map((page) => ({
      ...findPageQuery(query, page),
      placeholderData: keepPreviousData,
    })),
  });
  const [{ data, error: firstError } = { data: undefined, error: null }] = answers;
  const itemAt = (index: number): FoundRow | undefined =>
    answers[pages.indexOf(Math.floor(index / PAGE))]?.data?.rows[index % PAGE];
  return {
    total: data?.total ?? 0,
    hidden: data?.hidden ?? 0,
    near: data?.near ?? [],
    lines: (data?.total ?? 0) + layout.heads.length,
    line: (index) => {
      const head = layout.headAt(index);
      if (head) return { kind: 'head', ...head };
      const row = itemAt(layout.itemsBefore(index));
      return row ? { kind: 'item', row } : undefined;
    },
    error: firstError ?? answers.find(({ error }) => error)?.error ?? null,
    isThere: data !== undefined,
  };
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

/** Where heads stand among the lines. */
export class GroupLayout {
  readonly heads: readonly { readonly at: number; readonly value: string; readonly count: number }[];

  constructor(group: string | undefined, rows: readonly CountRow[] | undefined) {
    let at = 0;
    this.heads =
      group === undefined || !rows
        ? []
        : rows.map(({ value, count }) => {
            const head = { at, value: value === '' ? `without ${group}` : value, count };
            at += count + 1;
            return head;
          });
  }

  headAt(index: number): { readonly value: string; readonly count: number } | undefined {
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
