import { AUDIT_KINDS, type HistoryRow, type ItemView } from '@stem-trace/contract';
import { infiniteQueryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { get } from '../../api/client.js';
import { traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Hint, Mono, Pick, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Tick } from '../../ui/tick.js';
import { When } from '../../ui/when.js';

/** Kinds that are about an item. */
const KINDS = AUDIT_KINDS.filter(
  (kind) => !['place', 'access', 'people', 'token', 'setting', 'export', 'sign in'].includes(kind),
);

const historyQuery = (item: string, below: boolean, kind: string) =>
  infiniteQueryOptions({
    queryKey: ['item', 'history', item, below, kind],
    queryFn: ({ signal, pageParam }) =>
      get(
        '/api/history',
        {
          item,
          below,
          kind: kind === '' ? undefined : kind,
          before: pageParam === '' ? undefined : pageParam,
        },
        signal,
      ),
    initialPageParam: '',
    getNextPageParam: ({ more, rows }) => (more ? rows.at(-1)?.id : undefined),
  });

const COLUMNS: readonly GridColumn<HistoryRow>[] = [
  {
    key: 'when',
    title: 'When',
    width: '128px',
    cell: ({ at }) => (
      <Soft>
        <When at={at} />
      </Soft>
    ),
  },
  {
    key: 'who',
    title: 'Who',
    isMinor: true,
    width: '132px',
    cell: ({ person }) => <span title={person}>{person}</span>,
  },
  { key: 'kind', title: 'Kind', width: '104px', cell: ({ kind }) => kind },
  {
    key: 'number',
    title: 'Number',
    isMinor: true,
    width: 'minmax(100px, 0.5fr)',
    cell: ({ number }) => (
      <Mono>
        <MiddleCut text={number} />
      </Mono>
    ),
  },
  {
    key: 'says',
    title: 'What',
    width: 'minmax(220px, 2.4fr)',
    cell: ({ says }) => <span title={says}>{says}</span>,
  },
];

/** One line of time: check-outs with their reasons, steps, names, moves, derivations, hand-outs. */
export function EventsTable({ item }: { readonly item: ItemView }): React.JSX.Element {
  const { pointAt } = useDesk();
  const navigate = useNavigate();
  const [below, goBelow] = useState(false);
  const [kind, setKind] = useState('');
  const events = useInfiniteQuery(historyQuery(item.number, below, kind));
  const rows = events.data?.pages.flatMap((page) => page.rows) ?? [];
  const cursor = useGridCursor(rows, ({ id }) => id, { about: item.number, within: `${below} ${kind}` });
  const number = cursor.row?.number ?? item.number;
  useEffect(() => pointAt(number), [pointAt, number]);
  return (
    <>
      <Line>
        <Pick
          label="Kind"
          options={[{ key: '', text: 'all kinds' }, ...KINDS.map((one) => ({ key: one, text: one }))]}
          value={kind}
          onChange={setKind}
        />
        {item.kind === 'assembly' ? (
          <Tick isSelected={below} onChange={goBelow}>
            Also what happened below it
          </Tick>
        ) : null}
      </Line>
      {events.error ? <Trouble>{events.error.message}</Trouble> : null}
      {events.data && rows.length === 0 ? <Hint>Nothing of this kind happened.</Hint> : null}
      {rows.length > 0 ? (
        <Grid
          label="What happened"
          columns={COLUMNS}
          cursor={cursor}
          onOpen={(row) => void navigate(traceAddress(row.number))}
          takesFocus
        />
      ) : null}
      {events.hasNextPage ? (
        <div>
          <Button isDisabled={events.isFetching} onPress={() => void events.fetchNextPage()}>
            Show older
          </Button>
        </div>
      ) : null}
    </>
  );
}

const Line = styled.div`
  display: flex;
  align-items: end;
  gap: 16px;
`;
