/** Where all changes stand: by state and age, figures that open their lists, and the list. */
import type { ChangeRow } from '@stem-trace/contract';
import { isFinished, lateDays } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Download, Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { changesQuery } from '../../../api/changes.js';
import { useChangeSearch } from '../../../frame/addresses.js';
import { usePerson } from '../../../frame/person.js';
import { RequestDialog } from '../../../frame/request-dialog.js';
import { Button, Choice, Hint, PrimaryButton, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { downloadCsv } from '../../../ui/download.js';
import { Tick } from '../../../ui/tick.js';
import { NewOrderDialog } from '../new-order-dialog.js';
import { FILTER_NAMES, filterOf, forFigures, isShown, type BoardFilter } from './board-filter.js';
import { ChangesTable } from './changes-table.js';
import { Figures } from './figures.js';
import { KeptViews } from './kept-views.js';
import { Strips } from './strips.js';

export function Board(): React.JSX.Element {
  const { data, error } = useQuery(changesQuery());
  const [search] = useSearchParams();
  const [now] = useState(() => Date.now());
  const filter = useMemo(() => filterOf(search), [search]);
  const rows = useMemo(() => data ?? [], [data]);
  const shown = useMemo(() => rows.filter((row) => isShown(row, filter, now)), [rows, filter, now]);
  return (
    <>
      <Head rows={rows} shown={shown} now={now} />
      {error ? <Trouble>{error.message}</Trouble> : null}
      {data?.length === 0 ? (
        <Hint>
          Nothing is to be changed. A change request says what is wrong or wanted, and where it shows; a
          change order takes requests on, and everything that is made under it is checked and released
          together. Begin with New request, or from any item.
        </Hint>
      ) : null}
      {rows.length > 0 ? (
        <>
          <Upper>
            <Strips
              rows={rows.filter((row) => isShown(row, { ...filter, state: '', of: [] }, now))}
              now={now}
            />
            <Figures rows={rows.filter(({ kind }) => filter.kind === '' || kind === filter.kind)} now={now} />
          </Upper>
          <FilterLine filter={filter} count={shown.length} />
          <ChangesTable rows={shown} now={now} />
        </>
      ) : null}
    </>
  );
}

function Head({
  rows,
  shown,
  now,
}: {
  readonly rows: readonly ChangeRow[];
  readonly shown: readonly ChangeRow[];
  readonly now: number;
}): React.JSX.Element {
  const person = usePerson();
  const [making, make] = useState<'request' | 'order'>();
  const open = rows.filter(({ lane }) => !isFinished(lane));
  const late = open.filter((row) => lateDays(forFigures(row), now) > 0).length;
  return (
    <Line>
      <h1>
        Changes: {open.length} open{late > 0 ? `, ${late} late` : ''}
      </h1>
      <KeptViews />
      <QuietButton onPress={() => exportRows(shown, now)} isDisabled={shown.length === 0}>
        <Download size={15} aria-hidden /> Export
      </QuietButton>
      {person.role === 'viewer' ? null : (
        <>
          <Button onPress={() => make('order')}>
            <Plus size={15} aria-hidden /> New order …
          </Button>
          <PrimaryButton onPress={() => make('request')}>
            <Plus size={15} aria-hidden /> New request …
          </PrimaryButton>
        </>
      )}
      {making === 'request' ? <RequestDialog items={[]} onClose={() => make(undefined)} /> : null}
      {making === 'order' ? <NewOrderDialog requests={[]} onClose={() => make(undefined)} /> : null}
    </Line>
  );
}

function FilterLine({
  filter,
  count,
}: {
  readonly filter: BoardFilter;
  readonly count: number;
}): React.JSX.Element {
  const change = useChangeSearch();
  const said = [filter.state, filter.product, filter.waits === '' ? '' : `waits for ${filter.waits}`].filter(
    (each) => each !== '',
  );
  const isNarrowed =
    said.length > 0 || filter.of.length > 0 || filter.late || filter.kind !== '' || filter.done;
  return (
    <Line>
      <Choice
        label="Kind"
        options={[
          { key: '', text: 'All' },
          { key: 'request', text: 'Requests' },
          { key: 'order', text: 'Orders' },
        ]}
        value={filter.kind}
        onChange={(kind) => change({ kind })}
      />
      <Tick isSelected={filter.late} onChange={(late) => change({ late: late ? 'yes' : '' })}>
        Late only
      </Tick>
      <Tick isSelected={filter.done} onChange={(done) => change({ done: done ? 'yes' : '' })}>
        Finished ones too
      </Tick>
      <Soft role="status">
        {count} shown{said.length > 0 ? `: ${said.join(', ')}` : ''}
        {filter.of.length > 0 ? ', of a figure' : ''}
      </Soft>
      {isNarrowed ? (
        <QuietButton onPress={() => change(Object.fromEntries(FILTER_NAMES.map((name) => [name, ''])))}>
          Show all open
        </QuietButton>
      ) : null}
    </Line>
  );
}

function exportRows(rows: readonly ChangeRow[], now: number): void {
  downloadCsv('Changes', [
    [
      'Number',
      'Name',
      'Kind',
      'State',
      'Urgency',
      'Owner',
      'Waits for',
      'Opened',
      'Opened by',
      'Due',
      'Days late',
      'Closed',
      'Affects',
      'Makes',
      'Products',
    ],
    ...rows.map((row) => [
      ...[row.number, row.name, row.kind, row.state, row.urgency, row.owner, row.waitsFor.join('; ')],
      ...[row.openedAt.slice(0, 10), row.openedBy, row.until, lateDays(forFigures(row), now)],
      ...[row.closedAt?.slice(0, 10) ?? '', row.affects, row.makes, row.products.join('; ')],
    ]),
  ]);
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  h1 {
    margin: 0;
    font-size: 16px;
    flex: 1;
  }
`;
const Upper = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 12px;
  @media (max-width: 1100px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;
