import { useQuery } from '@tanstack/react-query';
import type { BillRelease, ItemView, VersionRow } from '@stem-trace/contract';
import { ArrowLeftRight, Download, RotateCcw, Route } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { addressOf } from '../../api/client.js';
import { releasesQuery } from '../../api/build.js';
import { useDeeds, type Deeds } from '../../api/custody.js';
import { itemQuery } from '../../api/queries.js';
import {
  compareAddress,
  fetchAddress,
  historyAddress,
  traceAddress,
  useChangeSearch,
} from '../../frame/addresses.js';
import { Begin } from '../../frame/begin-with.js';
import { useDesk, useLooked } from '../../frame/desk.js';
import { usePerson } from '../../frame/person.js';
import { Button, Choice, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';
import { EventsTable } from './events-table.js';
import { Releases } from '../build/releases-view.js';
import { RevisionLine, type Released } from './revision-line.js';

const COLUMNS: readonly GridColumn<VersionRow>[] = [
  {
    key: 'state',
    title: '',
    width: '34px',
    align: 'center',
    cell: (row) => <StateGlyph state={row.state} />,
  },
  {
    key: 'version',
    title: 'Version',
    width: '70px',
    sortBy: ({ version }) => version,
    cell: (row) => <Mono>{row.version}</Mono>,
  },
  {
    key: 'when',
    title: 'When',
    width: '112px',
    sortBy: ({ createdAt }) => createdAt,
    cell: (row) => (
      <Soft>
        <When at={row.createdAt} />
      </Soft>
    ),
  },
  { key: 'who', title: 'Who', width: '130px', sortBy: ({ author }) => author, cell: (row) => row.author },
  {
    key: 'comment',
    title: 'Comment',
    width: 'minmax(200px, 2fr)',
    cell: (row) => <span title={row.comment}>{row.comment}</span>,
  },
  {
    key: 'file',
    title: 'File',
    width: 'minmax(120px, 1fr)',
    cell: (row) => (
      <Soft>
        <MiddleCut text={row.fileName} />
      </Soft>
    ),
  },
  {
    key: 'behind',
    title: '',
    width: '92px',
    cell: (row) => (row.behind > 0 ? <AttentionMark>{row.behind} behind</AttentionMark> : null),
  },
];

/** Every version of an item, as a line through its revisions and as a table; each can be looked at, compared, fetched, brought back. */
export function HistoryScreen(): React.JSX.Element {
  const [search] = useSearchParams();
  const number = search.get('item') ?? '';
  const item = useQuery(itemQuery(number));
  useLooked(item.data);
  if (number === '') return <Begin title="History" label="History of an item" address={historyAddress} />;
  if (item.error) return <Trouble>{item.error.message}</Trouble>;
  if (!item.data) return <Soft>Looking it up …</Soft>;
  const isEvents = search.get('view') === 'events';
  return (
    <>
      <Heading item={item.data} isEvents={isEvents} />
      {isEvents ? <EventsTable item={item.data} /> : <Versions item={item.data} />}
    </>
  );
}

function Heading({
  item,
  isEvents,
}: {
  readonly item: ItemView;
  readonly isEvents: boolean;
}): React.JSX.Element {
  const change = useChangeSearch();
  return (
    <Line>
      <h1>
        History of <Mono>{item.number}</Mono> {item.name}
      </h1>
      <a href={addressOf('/api/record', { item: item.number })} download>
        Record (PDF)
      </a>
      <Choice<'versions' | 'events'>
        label="What is listed"
        options={[
          { key: 'versions', text: 'Versions' },
          { key: 'events', text: 'All that happened' },
        ]}
        value={isEvents ? 'events' : 'versions'}
        onChange={(next) => change({ view: next === 'versions' ? '' : next })}
      />
    </Line>
  );
}

function Versions({ item }: { readonly item: ItemView }): React.JSX.Element {
  const { pointAt } = useDesk();
  const navigate = useNavigate();
  const deeds = useDeeds();
  const { versions } = item;
  const table = useTable('versions', versions, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ version }) => version, { about: item.number });
  const chosen = cursor.row;
  const at = chosen ? versions.indexOf(chosen) : -1;
  const reference = chosen ? `${item.number}@${chosen.version}` : '';
  useEffect(() => pointAt(reference), [pointAt, reference]);
  const isBill = item.kind === 'bill';
  const { data: releases = [] } = useQuery({ ...releasesQuery(item.number), enabled: isBill });
  const release = releases.find(({ version }) => version === chosen?.version);
  return (
    <>
      <RevisionLine
        versions={versions}
        releases={flagsOf(releases)}
        chosen={at}
        onChoose={(index) => cursor.moveTo(table.rows.findIndex((row) => row === versions[index]))}
      />
      <VersionButtons item={item} at={at} deeds={deeds} />
      {release ? (
        <OneRelease>
          <Releases bill={item.number} of={releases} shown={[release]} />
        </OneRelease>
      ) : null}
      {deeds.refusals.map((refusal) => (
        <Trouble key={refusal}>{refusal}</Trouble>
      ))}
      <Grid
        label="Versions"
        {...table.grid}
        cursor={cursor}
        onOpen={() => void navigate(traceAddress(reference))}
        takesFocus
      />
    </>
  );
}

/** What the line says of releases. */
function flagsOf(releases: readonly BillRelease[]): ReadonlyMap<string, Released> {
  return new Map(
    releases.map(({ version, isSuperseded, by, at, notes }) => [
      version,
      {
        isSuperseded,
        says: `${isSuperseded ? 'superseded release' : 'released'} by ${by} on ${at.slice(0, 10)}${notes === '' ? '' : `: ${notes}`}.`,
      },
    ]),
  );
}

interface VersionButtonsProps {
  readonly item: ItemView;
  /** Of the version that is chosen; -1 for none. */
  readonly at: number;
  readonly deeds: Deeds;
}

/** What may be done with one version. */
function VersionButtons({ item, at, deeds }: VersionButtonsProps): React.JSX.Element {
  const navigate = useNavigate();
  const person = usePerson();
  const [isAsking, ask] = useState(false);
  const { versions } = item;
  const [chosen, older, newest] = [versions[at], versions[at + 1], versions[0]];
  const referenceOf = (row: VersionRow | undefined): string => (row ? `${item.number}@${row.version}` : '');
  const reference = referenceOf(chosen);
  const compare = (from: string, to: string): void => void navigate(compareAddress(from, to));
  return (
    <Line>
      <Button isDisabled={!chosen} onPress={() => void navigate(traceAddress(reference))}>
        <Route size={15} aria-hidden /> Trace {chosen?.version}
      </Button>
      <Button isDisabled={!chosen || !older} onPress={() => compare(referenceOf(older), reference)}>
        <ArrowLeftRight size={15} aria-hidden /> Compare with the previous version
      </Button>
      <Button isDisabled={at <= 0} onPress={() => compare(reference, referenceOf(newest))}>
        Compare with the newest
      </Button>
      <Button isDisabled={!chosen} onPress={() => window.location.assign(fetchAddress(reference))}>
        <Download size={15} aria-hidden /> Fetch as it was
      </Button>
      {item.heldBy?.login === person.login ? (
        <Button isDisabled={at <= 0 || deeds.isBusy} onPress={() => ask(true)}>
          <RotateCcw size={15} aria-hidden /> Bring back …
        </Button>
      ) : null}
      {isAsking && chosen ? (
        <AskDialog
          title={`Bring ${item.number} ${chosen.version} back`}
          action="Bring back"
          says={`Its content becomes a new version after ${newest?.version ?? ''}; nothing is lost.`}
          fields={[{ key: 'comment', label: 'Comment', value: '' }]}
          onAnswer={({ comment = '' }) => {
            deeds.carryOut({ kind: 'bring back', item: reference, comment });
            return Promise.resolve();
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </Line>
  );
}

const OneRelease = styled.div`
  flex: none;
  display: flex;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
`;
