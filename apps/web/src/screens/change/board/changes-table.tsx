import type { ChangeRow } from '@stem-trace/contract';
import { ageDays, lateDays } from '@stem-trace/core';
import { useEffect, useMemo } from 'react';
import { useNavigate } from 'react-router';
import { changeAddress } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { nameColumn } from '../../../frame/item-columns.js';
import { Mono, Soft } from '../../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../../ui/grid.js';
import { MiddleCut } from '../../../ui/middle-cut.js';
import { useTable } from '../../../ui/use-table.js';
import { forFigures, sinceOf } from './board-filter.js';

export interface ChangesTableProps {
  readonly rows: readonly ChangeRow[];
  readonly now: number;
}

export function ChangesTable({ rows, now }: ChangesTableProps): React.JSX.Element {
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const columns = useMemo(() => columnsAt(now), [now]);
  const table = useTable('changes', rows, columns);
  const cursor = useGridCursor(table.rows, ({ number }) => number);
  const under = cursor.row?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <Grid
      label="Changes"
      {...table.grid}
      cursor={cursor}
      onOpen={({ number }) => void navigate(changeAddress(number))}
      takesFocus
    />
  );
}

/** Go first where there is no room. */
const MINOR: readonly GridColumn<ChangeRow>[] = [
  {
    key: 'affects',
    title: 'Affects',
    width: '64px',
    align: 'right',
    isMinor: true,
    sortBy: ({ affects }) => affects,
    cell: ({ affects }) => (affects === 0 ? '' : affects),
  },
  {
    key: 'makes',
    title: 'Makes',
    width: '60px',
    align: 'right',
    isMinor: true,
    sortBy: ({ makes }) => makes,
    cell: ({ makes }) => (makes === 0 ? '' : makes),
  },
];

function columnsAt(now: number): readonly GridColumn<ChangeRow>[] {
  return [
    {
      key: 'number',
      title: 'Number',
      width: '100px',
      sortBy: ({ number }) => number,
      cell: ({ number, state }) => (
        <>
          <StateGlyph state={state} /> <Mono>{number}</Mono>
        </>
      ),
    },
    {
      ...nameColumn<ChangeRow>('minmax(150px, 1.5fr)', ({ name }) => name),
      cell: ({ name, urgency }) => (
        <>
          {urgency === 'at once' ? <AttentionMark style={{ flex: 'none' }}>{urgency}</AttentionMark> : null}{' '}
          <MiddleCut text={name} />
        </>
      ),
    },
    { key: 'state', title: 'State', width: '92px', sortBy: ({ state }) => state, cell: ({ state }) => state },
    {
      key: 'age',
      title: 'Days in it',
      width: '80px',
      align: 'right',
      sortBy: (row) => ageDays(sinceOf(row), now),
      cell: (row) => <Mono>{ageDays(sinceOf(row), now)}</Mono>,
    },
    {
      key: 'until',
      title: 'Due',
      width: '168px',
      sortBy: ({ until }) => until,
      cell: (row) => <Due row={row} now={now} />,
    },
    {
      key: 'waits',
      title: 'Waits for',
      width: 'minmax(110px, 1fr)',
      sortBy: ({ waitsFor }) => waitsFor.join(', '),
      cell: ({ waitsFor }) => <Soft title={waitsFor.join(', ')}>{waitsFor.join(', ')}</Soft>,
    },
    ...MINOR,
  ];
}

function Due({ row, now }: { readonly row: ChangeRow; readonly now: number }): React.JSX.Element {
  const late = lateDays(forFigures(row), now);
  return (
    <>
      <Mono>{row.until}</Mono> {late > 0 ? <AttentionMark>{late} d late</AttentionMark> : null}
    </>
  );
}
