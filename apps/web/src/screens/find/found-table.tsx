import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { PAGE, type FindQuery } from '../../api/find.js';
import { TO_RESULTS, traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { goToFindBox } from '../../frame/find-focus.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { gridColumns, type ChosenColumn } from './find-columns.js';
import { useFound, type FindLine } from './use-found.js';

const KEYS: readonly KeyHint[] = [
  { key: 'Esc', says: 'Back to the find box' },
  { key: 'Shift ↑ ↓', says: 'Put further rows into the tray' },
];

interface FoundTableProps {
  readonly query: FindQuery;
  readonly chosen: readonly ChosenColumn[];
  readonly onChoose: (columns: readonly ChosenColumn[]) => void;
  readonly onChange: (changes: Readonly<Record<string, string>>) => void;
}

/** The items found. Apart from the rest of Find, since it is drawn anew with every page that is scrolled to. */
export function FoundTable({ query, chosen, onChoose, onChange }: FoundTableProps): React.JSX.Element {
  const { words, sort, order, place, group } = query;
  const [sight, look] = useSight();
  const desk = useDesk();
  const { pointAt } = desk;
  const [lens] = useLens();
  const navigate = useNavigate();
  const found = useFound(query, sight);
  const [returned, note] = useReturn();
  const cursor = useGridCursor({ count: found.lines, at: found.line }, keyOfLine, {
    about: [words, place, group].join(' \n'),
    beginsAt: returned ?? (group === undefined ? 0 : 1),
  });
  useEffect(() => note(cursor.index), [note, cursor.index]);
  const under = cursor.row?.kind === 'item' ? cursor.row.row.number : '';
  useEffect(() => pointAt(under), [pointAt, under]);
  const columns = useMemo(() => lineColumns(chosen), [chosen]);
  const focus = useFocusOfResults();
  useKeyHints(KEYS);
  if (found.error) return <Trouble>{found.error.message}</Trouble>;
  return (
    <Grid
      label="Items found"
      columns={columns}
      cursor={cursor}
      headOf={(each) => (each.kind === 'head' ? <Head line={each} /> : undefined)}
      onOpen={(each) => {
        if (each.kind === 'item') void navigate(traceAddress(each.row.number, lens));
      }}
      onKey={(event) => {
        if (event.key !== 'Escape') return false;
        goToFindBox();
        return true;
      }}
      onPick={(each) => {
        if (each.kind === 'item') desk.toggleInTray({ number: each.row.number, name: each.row.name });
      }}
      isPicked={(each) => each.kind === 'item' && desk.isInTray(each.row.number)}
      sort={{ key: sort, order }}
      onSort={(key) => onChange({ sort: key, order: sort === key && order === 'up' ? 'down' : '' })}
      onSight={look}
      onResize={(key, widthPx) =>
        onChoose(chosen.map((column) => (column.key === key ? { key, widthPx } : column)))
      }
      takesFocus={focus}
      reuses
    />
  );
}

const RETURNS = 'stem-trace.find.row.';

/** Where the cursor was when this very view was left: going back comes back to it. */
function useReturn(): [number | undefined, (index: number) => void] {
  const { key } = useLocation();
  const [kept] = useState(() => Number(sessionStorage.getItem(RETURNS + key) ?? '-1'));
  const note = useCallback(
    (index: number) => {
      if (index >= 0) sessionStorage.setItem(RETURNS + key, String(index));
    },
    [key],
  );
  return [kept >= 0 ? kept : undefined, note];
}

/** Taken when the table is shown, and with every search from the find box. */
function useFocusOfResults(): string {
  const { state, key } = useLocation();
  const first = useRef(key);
  if ((state as Partial<typeof TO_RESULTS> | null)?.toResults === TO_RESULTS.toResults) first.current = key;
  return first.current;
}

function keyOfLine(line: FindLine): string {
  return line.kind === 'item' ? line.row.number : `head ${line.value}`;
}

type Sight = readonly [first: number, last: number];

/** Milliseconds for which the table must rest after a jump before its lines are fetched. */
const REST_MS = 80;

/** The lines in sight. Those passed by while somebody drags through thousands of them are not looked at. */
function useSight(): [Sight, (first: number, last: number) => void] {
  const [sight, setSight] = useState<Sight>([0, 0]);
  const at = useRef(0);
  const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(waiting.current), []);
  const look = useCallback((first: number, last: number) => {
    clearTimeout(waiting.current);
    const settle = (): void => {
      at.current = first;
      setSight([first, last]);
    };
    if (Math.abs(first - at.current) <= PAGE) settle();
    else waiting.current = setTimeout(settle, REST_MS);
  }, []);
  return [sight, look];
}

function lineColumns(chosen: readonly ChosenColumn[]): readonly GridColumn<FindLine>[] {
  return gridColumns(chosen).map(({ sortBy: _, ...column }) => ({
    ...column,
    cell: (line, index) => (line.kind === 'item' ? column.cell(line.row, index) : null),
  }));
}

function Head({ line }: { readonly line: Extract<FindLine, { kind: 'head' }> }): React.JSX.Element {
  return (
    <>
      {line.value} <Soft>{line.count.toLocaleString('en-GB')}</Soft>
    </>
  );
}
