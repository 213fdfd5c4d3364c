/** The state of Trace: what is in focus, which columns are open, where the cursor is; all of it in the address. */
import { useQueries } from '@tanstack/react-query';
import { parseReference, type LensText, type StructureAnswer, type StructureRow } from '@stem-trace/contract';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { structureQuery } from '../../api/queries.js';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { chainOf, referenceOf, type ChainLink } from './chain.js';
import { gapLines } from './gap.js';

export type Side = 'left' | 'right';

export interface TraceColumn {
  readonly side: Side;
  /** 1 beside the focus, and on outwards. */
  readonly depth: number;
  /** Reference of the item whose neighbours these are. */
  readonly of: string;
  /** Those that fit the filter, as far as they have come. */
  readonly rows: readonly StructureRow[];
  /** Rows that fit the filter, and rows that there are. */
  readonly fitting: number;
  readonly total: number;
  readonly filter: string;
  /** Items at its edge that may not be seen. */
  readonly hidden: number;
  readonly isLoading: boolean;
  /** Row that the next column belongs to, or that the cursor is on. */
  readonly chosen: string | undefined;
}

export interface Trace {
  readonly focus: string;
  /** The focus with the version that the lens picks of it, as far as that is not the newest. */
  readonly shown: string;
  readonly left: readonly TraceColumn[];
  readonly right: readonly TraceColumn[];
  readonly side: Side;
  /** Column of the cursor; 0 is the focus. */
  readonly depth: number;
  readonly chain: readonly ChainLink[];
  readonly error: string | undefined;
  outwardsRight(): void;
  outwardsLeft(): void;
  step(by: number): void;
  refocus(): void;
  pick(): void;
  home(): void;
  pointAtRow(column: TraceColumn, row: StructureRow): void;
  focusOn(row: StructureRow): void;
  setFilter(column: TraceColumn, filter: string): void;
  /** Fetches further rows of a column that has more. */
  showMore(column: TraceColumn): void;
}

export function useTrace(): Trace {
  const [lens] = useLens();
  const navigate = useNavigate();
  const desk = useDesk();
  const place = useTracePlace();
  const { focus, side, path, sent, go } = place;
  const { made, used, columnsOf, look, showMore } = useBothSides(place);
  const shown = shownUnder(lens, focus, made.of);
  const columns = columnsOf(side);
  const depth = Math.min(path.length, columns.length);
  const error = made.error ?? used.error;
  // What is not there is said here; the margin need not say it again.
  usePointing(rowOf(columns, depth, path[depth - 1]), error === undefined ? shown : '');

  const rowUnderCursor = (): StructureRow | undefined => {
    const { side: from, path: at } = sent();
    return rowOf(columnsOf(from), at.length, at.at(-1));
  };
  const focusOn = (target: StructureRow): void => {
    if (!isClosed(target)) void navigate(traceAddress(referenceOf(target), lens));
  };
  return {
    ...{ focus, shown, side, depth, focusOn, showMore },
    ...moves(place, columnsOf, showMore),
    left: used.columns,
    right: made.columns,
    chain: chainOf(
      focus,
      side,
      columns.slice(0, depth).map((_, index) => rowOf(columns, index + 1, path[index])),
    ),
    error,
    refocus: () => {
      const target = rowUnderCursor();
      if (target) focusOn(target);
    },
    pick: () => {
      const root = { number: parseReference(focus).number, name: '', gap: false, hidden: false };
      const picked = rowUnderCursor() ?? root;
      if (!isClosed(picked)) desk.toggleInTray({ number: picked.number, name: picked.name });
    },
    home: () => go('right', []),
    pointAtRow: (column, target) =>
      go(column.side, [...(column.side === side ? path.slice(0, column.depth - 1) : []), rowKey(target)]),
    setFilter: (column, filter) => look(column, { filter, limit: FIRST_LOOK.limit }),
  };
}

/** Where the cursor is: on which side of what, and by which rows it came there. */
interface TraceScreen {
  readonly focus: string;
  readonly side: Side;
  /** Keys of the rows, from the focus outwards. */
  readonly path: readonly string[];
  /** Where the cursor was last sent, which may be further than what is on the screen. */
  readonly sent: () => { readonly side: Side; readonly path: readonly string[] };
  readonly go: (side: Side, path: readonly string[]) => void;
}

function useTracePlace(): TraceScreen {
  const [search, setSearch] = useSearchParams();
  const side: Side = search.get('side') === 'left' ? 'left' : 'right';
  const path = useMemo(() => search.getAll('at'), [search]);
  // Keys may come faster than the address changes, so where the cursor goes next is counted from where it was last
  // sent, not from what is on the screen.
  const sent = useRef({ side, path });
  useEffect(() => {
    sent.current = { side, path };
  }, [side, path]);
  const go = (nextSide: Side, nextPath: readonly string[]): void => {
    sent.current = { side: nextSide, path: [...nextPath] };
    const next = new URLSearchParams(search);
    next.delete('at');
    next.delete('side');
    if (nextSide === 'left') next.set('side', 'left');
    for (const key of nextPath) next.append('at', key);
    setSearch(next, { replace: true });
  };
  return { focus: search.get('item') ?? '', side, path, sent: () => sent.current, go };
}

interface BothSides {
  readonly made: ReturnType<typeof useColumns>;
  readonly used: ReturnType<typeof useColumns>;
  readonly columnsOf: (side: Side) => readonly TraceColumn[];
  readonly look: (column: TraceColumn, change: Partial<Look>) => void;
  readonly showMore: (column: TraceColumn) => void;
}

/** The columns of both sides, as far as they are open. */
function useBothSides({ focus, side, path }: TraceScreen): BothSides {
  const [looks, setLooks] = useState<Looks>({});
  const made = useColumns('right', focus, side === 'right' ? path : [], looks);
  const used = useColumns('left', focus, side === 'left' ? path : [], looks);
  const look = (column: TraceColumn, change: Partial<Look>): void =>
    setLooks((before) => {
      const key = lookKey(column.side, column.of);
      return { ...before, [key]: { ...(before[key] ?? FIRST_LOOK), ...change } };
    });
  return {
    made,
    used,
    look,
    columnsOf: (which) => (which === 'right' ? made.columns : used.columns),
    showMore: (column) => {
      if (column.rows.length < column.fitting && !column.isLoading)
        look(column, { limit: column.rows.length + FIRST_LOOK.limit });
    },
  };
}

/** The row of a key in the column so far out. */
function rowOf(
  columns: readonly TraceColumn[],
  depth: number,
  key: string | undefined,
): StructureRow | undefined {
  return columns[depth - 1]?.rows.find((candidate) => rowKey(candidate) === key);
}

/** Shows in the margin what the cursor is on. */
function usePointing(row: StructureRow | undefined, shown: string): void {
  const { pointAt } = useDesk();
  const underCursor = row ? (isClosed(row) ? '' : referenceOf(row)) : shown;
  const gapName = row?.gap ? row.name : undefined;
  const gapNumber = row?.gap ? row.number : undefined;
  const isInStore = row?.isInStore ?? false;
  const isHidden = row?.hidden ?? false;
  useEffect(() => {
    if (isHidden) pointAt('', { title: 'Not visible to you', lines: HIDDEN_LINES });
    else if (gapNumber === undefined) pointAt(underCursor);
    else pointAt('', { title: gapNumber, lines: gapLines({ isInStore }, gapName) });
  }, [pointAt, underCursor, gapNumber, gapName, isInStore, isHidden]);
}

/** Moves of the cursor: outwards to either side, which is back where one came from, and along a column. */
function moves(
  { sent, go }: TraceScreen,
  columnsOf: BothSides['columnsOf'],
  showMore: BothSides['showMore'],
): Pick<Trace, 'outwardsLeft' | 'outwardsRight' | 'step'> {
  const outwards = (towards: Side): void => {
    const { side: from, path: at } = sent();
    if (at.length > 0 && from !== towards) {
      go(from, at.slice(0, -1));
      return;
    }
    const first = columnsOf(towards)[at.length]?.rows[0];
    if (first) go(towards, [...at, rowKey(first)]);
  };
  return {
    outwardsRight: () => outwards('right'),
    outwardsLeft: () => outwards('left'),
    step: (by) => {
      const { side: from, path: at } = sent();
      const column = columnsOf(from)[at.length - 1];
      if (!column) return;
      const { rows } = column;
      const index = rows.findIndex((candidate) => rowKey(candidate) === at.at(-1));
      const target = rows[Math.min(rows.length - 1, Math.max(0, index + by))];
      if (index + by >= rows.length - 1) showMore(column);
      if (target) go(from, [...at.slice(0, -1), rowKey(target)]);
    },
  };
}

/** How much of a column is looked at. */
interface Look {
  readonly filter: string;
  readonly limit: number;
}
type Looks = Readonly<Record<string, Look>>;
const FIRST_LOOK: Look = { filter: '', limit: 100 };

function lookKey(side: Side, of: string): string {
  return `${side} ${of}`;
}

const HIDDEN_LINES = [
  'Something is here that you may not see: your access at its place does not allow it.',
  'Ask somebody who administers the place.',
];

/** Under some lenses the version in focus is not the newest; the answer says which it is. */
function shownUnder(lens: LensText, focus: string, of: StructureAnswer['item'] | undefined): string {
  const isNewest = /^(recorded|newest)\b/.test(lens);
  if (isNewest || !of || parseReference(focus).version !== undefined) return focus;
  return `${of.number}@${of.version}`;
}

/** Whether there is nothing to open behind a row. */
function isClosed({ gap, hidden }: Pick<StructureRow, 'gap' | 'hidden'>): boolean {
  return gap || hidden;
}

/** Names a row among the neighbours of one item. Not a gap: the reference by which the next column is asked for. */
export function rowKey(row: StructureRow): string {
  return isClosed(row) ? `gap ${row.number}` : referenceOf(row);
}

function useColumns(
  side: Side,
  focus: string,
  path: readonly string[],
  looks: Looks,
): { columns: TraceColumn[]; error: string | undefined; of: StructureAnswer['item'] | undefined } {
  const [lens] = useLens();
  const owners = [focus, ...path.filter((key) => !key.startsWith('gap '))];
  const lookOf = (of: string): Look => looks[lookKey(side, of)] ?? FIRST_LOOK;
  const direction = side === 'right' ? 'made' : 'used';
  // What an item is made of comes whole; what uses it may be very much, and is then filtered where it lies.
  const answers = useQueries({
    queries: owners.map((of) => ({
      ...structureQuery(direction, of, lens, side === 'right' ? {} : lookOf(of)),
      // While more of it comes, what is there stays; rows of another item never do.
      placeholderData: (
        before: StructureAnswer | undefined,
        query?: { readonly queryKey: readonly unknown[] },
      ) => (query?.queryKey[2] === of ? before : undefined),
    })),
  });
  const columns = owners.map((of, index): TraceColumn => {
    const { filter } = lookOf(of);
    const answer = answers[index]?.data;
    const wanted = filter.toLowerCase();
    const rows = (answer?.rows ?? []).filter(
      (row) => side === 'left' || `${row.number} ${row.name}`.toLowerCase().includes(wanted),
    );
    return {
      side,
      depth: index + 1,
      of,
      rows,
      fitting: side === 'left' ? (answer?.total ?? 0) : rows.length,
      total: side === 'left' ? (filter === '' ? (answer?.total ?? 0) : NaN) : (answer?.rows.length ?? 0),
      filter,
      hidden: answer?.hidden ?? 0,
      isLoading: answers[index]?.isFetching ?? true,
      chosen: path[index],
    };
  });
  return {
    columns: columns.filter(
      ({ depth, rows, hidden, filter }) => depth === 1 || rows.length > 0 || hidden > 0 || filter !== '',
    ),
    error: answers.find((answer) => answer.error)?.error?.message,
    of: answers[0]?.data?.item,
  };
}
