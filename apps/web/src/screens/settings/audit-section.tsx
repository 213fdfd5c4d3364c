import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { AUDIT_KINDS, type AuditRow } from '@stem-trace/contract';
import { Download } from 'lucide-react';
import { useEffect } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { addressOf, get } from '../../api/client.js';
import { peopleQuery } from '../../api/queries.js';
import { useDesk } from '../../frame/desk.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { Button, Mono, Pick, Soft, Trouble } from '../../ui/controls.js';
import { DayField } from '../../ui/day-field.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { When } from '../../ui/when.js';

const PAGE = 200;

const COLUMNS: readonly GridColumn<AuditRow>[] = [
  { key: 'at', title: 'When', width: '130px', cell: (row) => <When at={row.at} /> },
  { key: 'person', title: 'Who', width: '100px', cell: (row) => row.person },
  { key: 'kind', title: 'Kind', width: '100px', cell: (row) => row.kind },
  {
    key: 'number',
    title: 'Item',
    width: '130px',
    cell: (row) => (row.number === null ? <Soft>–</Soft> : <Mono>{row.number}</Mono>),
  },
  {
    key: 'says',
    title: 'What happened',
    width: 'minmax(240px, 1fr)',
    cell: (row) => <span title={row.says}>{row.says}</span>,
  },
];

const FILTERS = ['item', 'person', 'kind', 'since', 'until'] as const;

/** What happened in the store, newest first; nobody can change it. */
export function AuditSection(): React.JSX.Element {
  const { pointAt } = useDesk();
  const { filters, set } = useFilters();
  const trail = useInfiniteQuery({
    queryKey: ['audit', filters],
    queryFn: ({ pageParam, signal }) =>
      get('/api/audit', { ...filters, limit: PAGE, before: pageParam }, signal),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: ({ rows, more }) => (more ? rows.at(-1)?.id : undefined),
  });
  const rows = trail.data?.pages.flatMap((page) => page.rows) ?? [];
  const cursor = useGridCursor(rows, ({ id }) => id, { about: JSON.stringify(filters) });
  const under = cursor.row?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Line>
        <Filters filters={filters} onChange={set} />
        <a href={addressOf('/api/audit.csv', filters)} download>
          <Download size={15} aria-hidden /> As CSV
        </a>
      </Line>
      {trail.error ? <Trouble>{trail.error.message}</Trouble> : null}
      <Grid
        label="Audit trail"
        columns={COLUMNS}
        cursor={cursor}
        onSight={(_, last) => {
          if (trail.hasNextPage && !trail.isFetchingNextPage && last >= rows.length - 20)
            void trail.fetchNextPage();
        }}
      />
      {trail.hasNextPage ? (
        <div>
          <Button onPress={() => void trail.fetchNextPage()}>Older ones</Button>
        </div>
      ) : null}
    </>
  );
}

type Filter = (typeof FILTERS)[number];
type FilterValues = Readonly<Partial<Record<Filter, string>>>;
type SetFilter = (name: Filter, value: string) => void;

/** What is looked for, kept in the address. */
function useFilters(): { readonly filters: FilterValues; readonly set: SetFilter } {
  const [search, setSearch] = useSearchParams();
  const filters = Object.fromEntries(
    FILTERS.flatMap((name) => {
      const value = search.get(name) ?? '';
      return value === '' ? [] : [[name, value]];
    }),
  );
  const set: SetFilter = (name, value) => {
    const next = new URLSearchParams(search);
    if (value === '') next.delete(name);
    else next.set(name, value);
    setSearch(next, { replace: true });
  };
  return { filters, set };
}

function Filters({
  filters,
  onChange,
}: {
  readonly filters: FilterValues;
  readonly onChange: SetFilter;
}): React.JSX.Element {
  const people = useQuery(peopleQuery).data ?? [];
  const of = (name: Filter): { value: string; onChange: (value: string) => void } => ({
    value: filters[name] ?? '',
    onChange: (value) => onChange(name, value),
  });
  return (
    <>
      <ItemPicker
        label="Item"
        value={filters.item ?? ''}
        onChoose={(item) => onChange('item', item)}
        onType={(text) => text === '' && onChange('item', '')}
        width="170px"
      />
      <Pick
        label="Person"
        options={[
          { key: '', text: 'all' },
          ...people.map(({ login, name }) => ({ key: login, text: `${name} (${login})` })),
        ]}
        {...of('person')}
      />
      <Pick
        label="Kind"
        options={[{ key: '', text: 'all' }, ...AUDIT_KINDS.map((kind) => ({ key: kind, text: kind }))]}
        {...of('kind')}
      />
      <DayField label="From day" {...of('since')} />
      <DayField label="To day" {...of('until')} />
    </>
  );
}

const Line = styled.div`
  display: flex;
  gap: 12px;
  align-items: end;
  flex-wrap: wrap;
  > a {
    padding: 6px 0;
  }
`;
