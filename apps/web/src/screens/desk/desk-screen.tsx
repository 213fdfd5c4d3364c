import type { CheckRow, HoldRow, MyTaskRow, NoticeRow, SavedRow, SheetRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { checksQuery, holdsQuery, noticesQuery } from '../../api/custody.js';
import { sheetsQuery } from '../../api/sheets.js';
import { savedQuery } from '../../api/find.js';
import { tasksQuery } from '../../api/changes.js';
import { changeAddress, checkAddress, traceAddress } from '../../frame/addresses.js';
import { useDesk, type TrayItem } from '../../frame/desk.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { usePerson } from '../../frame/person.js';
import { Hint, Mono, Soft } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { nameColumn, numberColumn } from '../../frame/item-columns.js';
import { When } from '../../ui/when.js';

/** Where a day begins: what waits, what one holds, what was looked at last, and kept searches. */
export function DeskScreen(): React.JSX.Element {
  const person = usePerson();
  const navigate = useNavigate();
  const waiting = useWaiting();
  return (
    <>
      <Top>
        <h1>Desk of {person.name}</h1>
        <ItemPicker
          label="Open an item"
          value=""
          onChoose={(reference) => void navigate(traceAddress(reference))}
          width="320px"
        />
        <Link to="/intake">Bring in files</Link>
        <Link to="/find">Find all items</Link>
      </Top>
      <Panels>
        <Waiting rows={waiting} />
        <Held takesFocus={waiting.length === 0} />
        <Looked />
        <Kept />
      </Panels>
    </>
  );
}

interface PanelProps<Row> {
  readonly title: string;
  readonly rows: readonly Row[];
  readonly keyOf: (row: Row) => string;
  readonly columns: readonly GridColumn<Row>[];
  readonly onOpen: (row: Row) => void;
  /** The item that a row is about; empty for none. */
  readonly numberOf?: (row: Row) => string;
  /** What to do where there is nothing. */
  readonly nothing: ReactNode;
  readonly takesFocus?: boolean;
  readonly more?: ReactNode;
}

function Panel<Row>(props: PanelProps<Row>): React.JSX.Element {
  const { title, rows, keyOf, columns, onOpen, numberOf, nothing, takesFocus = false, more } = props;
  const cursor = useGridCursor(rows, keyOf);
  return (
    <Section aria-label={title}>
      <Head>
        <h2>{title}</h2>
        {more}
      </Head>
      {rows.length === 0 ? (
        <Hint>{nothing}</Hint>
      ) : (
        <PointingGrid {...{ title, columns, cursor, onOpen, takesFocus }} numberOf={numberOf} />
      )}
    </Section>
  );
}

function PointingGrid<Row>({
  title,
  columns,
  cursor,
  onOpen,
  numberOf,
  takesFocus,
}: Pick<PanelProps<Row>, 'title' | 'columns' | 'onOpen'> & {
  readonly cursor: ReturnType<typeof useGridCursor<Row>>;
  readonly numberOf: PanelProps<Row>['numberOf'];
  readonly takesFocus: boolean;
}): React.JSX.Element {
  const { pointAt } = useDesk();
  const number = cursor.row === undefined ? '' : (numberOf?.(cursor.row) ?? '');
  // The margin follows whichever panel somebody is in.
  const point = (): void => pointAt(number);
  useEffect(() => {
    if (takesFocus) pointAt(number);
  }, [takesFocus, pointAt, number]);
  return (
    <Fill onFocus={point} onClick={point} onKeyUp={point}>
      <Grid label={title} columns={columns} cursor={cursor} onOpen={onOpen} takesFocus={takesFocus} />
    </Fill>
  );
}

/** Something that waits for a decision or an answer. */
type WaitingRow =
  | { readonly kind: 'sheet'; readonly row: SheetRow }
  | { readonly kind: 'check'; readonly row: CheckRow }
  | { readonly kind: 'task'; readonly row: MyTaskRow }
  | { readonly kind: 'notice'; readonly row: NoticeRow };

const WAITING: readonly GridColumn<WaitingRow>[] = [
  {
    key: 'what',
    title: 'What',
    width: 'minmax(180px, 1fr)',
    cell: (waits) => <Waits {...waits} />,
  },
  {
    key: 'when',
    title: 'Since',
    width: '112px',
    cell: ({ kind, row }) => (
      <Soft>
        {kind === 'task' ? (
          row.until === '' ? null : (
            `by ${row.until}`
          )
        ) : (
          <When at={kind === 'notice' ? row.at : row.sentAt} />
        )}
      </Soft>
    ),
  },
];

function Waits({ kind, row }: WaitingRow): React.JSX.Element {
  if (kind === 'task')
    return (
      <span title={`${row.change} ${row.name}`}>
        <AttentionMark>task</AttentionMark> {row.what} <Soft>— {row.change}</Soft>
      </span>
    );
  if (kind === 'notice')
    return (
      <span title={row.says}>
        {row.asks === null ? null : <AttentionMark>asked</AttentionMark>} {row.says}
      </span>
    );
  return (
    <span title={row.reason}>
      <AttentionMark>to check</AttentionMark>{' '}
      {kind === 'sheet' ? (
        row.title
      ) : (
        <>
          <Mono>{row.number}</Mono> {row.name}
        </>
      )}
      {row.reason === '' ? null : <Soft> — {row.reason}</Soft>}
    </span>
  );
}

function useWaiting(): readonly WaitingRow[] {
  const checks = useQuery(checksQuery).data ?? [];
  const sheets = useQuery(sheetsQuery).data ?? [];
  const tasks = useQuery(tasksQuery).data ?? [];
  const notices = useQuery(noticesQuery).data?.rows ?? [];
  return [
    ...sheets.filter(({ isMine }) => isMine).map((row) => ({ kind: 'sheet', row }) as const),
    // Sent before there were sheets.
    ...checks.filter(({ sheet }) => sheet === null).map((row) => ({ kind: 'check', row }) as const),
    ...tasks.map((row) => ({ kind: 'task', row }) as const),
    ...notices
      .filter(({ read, asks }) => !read || asks !== null)
      .map((row) => ({ kind: 'notice', row }) as const),
  ];
}

function Waiting({ rows }: { readonly rows: readonly WaitingRow[] }): React.JSX.Element {
  const navigate = useNavigate();
  return (
    <Panel
      title={`Waiting for me: ${rows.length}`}
      rows={rows}
      keyOf={keyOfWaiting}
      columns={WAITING}
      numberOf={({ kind, row }) =>
        kind === 'sheet' ? '' : kind === 'task' ? row.change : (row.number ?? '')
      }
      onOpen={({ kind, row }) => {
        if (kind === 'sheet') void navigate(checkAddress(row.id));
        else if (kind === 'task') void navigate(changeAddress(row.change));
        else if (kind === 'check') void navigate(traceAddress(row.number));
        else if (row.asks !== null) void navigate('/work');
        else void navigate(row.address ?? (row.number === null ? '/work' : traceAddress(row.number)));
      }}
      nothing="Nothing waits. What is sent to you for checking, what you are asked and told comes here."
      more={
        <span>
          <Link to="/check">Check sheets</Link> · <Link to="/work">Inbox</Link>
        </span>
      }
      takesFocus
    />
  );
}

function keyOfWaiting({ kind, row }: WaitingRow): string {
  switch (kind) {
    case 'task':
      return `task ${row.change} ${row.task}`;
    case 'check':
      return `check ${row.number}`;
    default:
      return `${kind} ${row.id}`;
  }
}

const HELD: readonly GridColumn<HoldRow>[] = [
  numberColumn('minmax(110px, 0.8fr)'),
  nameColumn('minmax(110px, 1fr)', ({ itemName }) => itemName),
  {
    key: 'behind',
    title: '',
    width: '84px',
    cell: ({ behind }) => (behind > 0 ? <AttentionMark>{behind} behind</AttentionMark> : null),
  },
];

function Held({ takesFocus }: { readonly takesFocus: boolean }): React.JSX.Element {
  const navigate = useNavigate();
  const rows = useQuery(holdsQuery).data ?? [];
  return (
    <Panel
      title={`Checked out to me: ${rows.length}`}
      rows={rows}
      keyOf={({ number }) => number}
      columns={HELD}
      numberOf={({ number }) => number}
      onOpen={({ number }) => void navigate(traceAddress(number))}
      nothing="Nothing. Check an item out from the margin, wherever the cursor is on it."
      more={<Link to="/work">All of it</Link>}
      takesFocus={takesFocus}
    />
  );
}

const LOOKED: readonly GridColumn<TrayItem>[] = [
  numberColumn('minmax(110px, 0.8fr)'),
  nameColumn('minmax(110px, 1fr)', ({ name }) => name),
];

function Looked(): React.JSX.Element {
  const navigate = useNavigate();
  const { looked } = useDesk();
  return (
    <Panel
      title="Looked at last"
      rows={looked}
      keyOf={({ number }) => number}
      columns={LOOKED}
      numberOf={({ number }) => number}
      onOpen={({ number }) => void navigate(traceAddress(number))}
      nothing={
        <>
          Nothing yet. Open an item above by its number or name, or <Link to="/find">find one</Link>.
        </>
      }
    />
  );
}

const KEPT: readonly GridColumn<SavedRow>[] = [
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(120px, 1fr)',
    cell: ({ name }) => <span title={name}>{name}</span>,
  },
  {
    key: 'owner',
    title: 'By',
    width: '90px',
    cell: ({ isMine, owner }) => <Soft>{isMine ? 'me' : owner}</Soft>,
  },
  {
    key: 'count',
    title: 'Finds',
    width: '72px',
    align: 'right',
    cell: ({ count, kind }) => (
      <Mono>{kind === 'view' ? 'view' : (count ?? '?').toLocaleString('en-GB')}</Mono>
    ),
  },
];

function Kept(): React.JSX.Element {
  const navigate = useNavigate();
  const rows = useQuery(savedQuery).data ?? [];
  return (
    <Panel
      title="Kept searches and views"
      rows={rows}
      keyOf={({ id }) => id}
      columns={KEPT}
      onOpen={({ address }) => void navigate(address)}
      nothing={
        <>
          None yet. <Link to="/find">Find</Link> something and keep the search with the bookmark above its
          table.
        </>
      }
    />
  );
}

const Top = styled.div`
  display: flex;
  align-items: end;
  gap: 16px;
  flex-wrap: wrap;
  h1 {
    flex: 1;
    min-width: 200px;
  }
`;
const Panels = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  grid-auto-rows: minmax(180px, 1fr);
  gap: 14px;
`;
const Section = styled.section`
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
`;
const Head = styled.div`
  display: flex;
  justify-content: space-between;
`;
const Fill = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
`;
