import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { HoldRow, NoticeRow } from '@stem-trace/contract';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { holdsQuery, noticesQuery, useDeeds, type Deeds } from '../../api/custody.js';
import { traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { useUndo } from '../../frame/undo.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Hint, Mono, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { nameColumn, numberColumn, versionColumn } from '../../frame/item-columns.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<HoldRow>[] = [
  numberColumn('minmax(130px, 0.8fr)'),
  nameColumn('minmax(150px, 1.2fr)', ({ itemName }) => itemName),
  versionColumn(),
  {
    key: 'since',
    title: 'Since',
    width: '120px',
    sortBy: ({ since }) => since,
    cell: (row) => (
      <Soft>
        <When at={row.since} />
      </Soft>
    ),
  },
  {
    key: 'reason',
    title: 'Reason',
    sortBy: ({ reason }) => reason,
    width: 'minmax(120px, 1fr)',
    cell: (row) => <Soft title={row.reason}>{row.reason}</Soft>,
  },
  {
    key: 'behind',
    title: 'Behind',
    width: '90px',
    sortBy: ({ behind }) => behind,
    cell: (row) => (row.behind > 0 ? <AttentionMark>{row.behind} behind</AttentionMark> : null),
  },
];

/** What one holds, and what one was told. */
export function WorkScreen(): React.JSX.Element {
  const holds = useQuery(holdsQuery);
  const { pointAt, toggleInTray, isInTray } = useDesk();
  const navigate = useNavigate();
  const deeds = useDeeds();
  const rows = holds.data ?? [];
  const table = useTable('held', rows, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ number }) => number);
  const under = cursor.row;
  const number = under?.number ?? '';
  useEffect(() => pointAt(number), [pointAt, number]);
  return (
    <Halves>
      <Half>
        <HoldButtons rows={rows} under={under} deeds={deeds} />
        {deeds.refusals.map((refusal) => (
          <Trouble key={refusal}>{refusal}</Trouble>
        ))}
        {holds.data && rows.length === 0 ? (
          <Hint>
            Nothing is checked out to you. Check an item out from the margin, wherever the cursor is on it.
          </Hint>
        ) : null}
        <Grid
          label="Checked out to me"
          {...table.grid}
          cursor={cursor}
          onPick={({ number, itemName }) => toggleInTray({ number, name: itemName })}
          isPicked={({ number }) => isInTray(number)}
          onOpen={(row) => void navigate(traceAddress(row.number))}
          takesFocus
        />
      </Half>
      <Inbox />
    </Halves>
  );
}

/** What can be done with what one holds. */
function HoldButtons({
  rows,
  under,
  deeds,
}: {
  readonly rows: readonly HoldRow[];
  readonly under: HoldRow | undefined;
  readonly deeds: Deeds;
}): React.JSX.Element {
  const offerUndo = useUndo();
  const [isAsking, ask] = useState(false);
  const behind = rows.filter((row) => row.behind > 0).map((row) => row.number);
  const letGo = ({ number, reason }: HoldRow): void => {
    deeds.carryOut({ kind: 'let go', items: [number] });
    offerUndo({
      says: `${number} was let go.`,
      undo: () => send('POST', '/api/holds', { items: [number], reason }),
    });
  };
  return (
    <Line>
      <h1>Checked out to me: {rows.length}</h1>
      <Button isDisabled={!under || deeds.isBusy} onPress={() => under && letGo(under)}>
        Let go
      </Button>
      <Button isDisabled={!under} onPress={() => ask(true)}>
        Reason …
      </Button>
      <Button
        isDisabled={behind.length === 0 || deeds.isBusy}
        onPress={() => deeds.carryOut({ kind: 'catch up', items: behind })}
      >
        Update everything that is behind
      </Button>
      <Link to="/intake">Check in a working copy</Link>
      {isAsking && under ? (
        <AskDialog
          title={`Reason for holding ${under.number}`}
          action="Save"
          fields={[{ key: 'reason', label: 'Reason (visible to everyone)', value: under.reason }]}
          onAnswer={({ reason = '' }) => {
            deeds.carryOut({ kind: 'say why', items: [under.number], reason });
            return Promise.resolve();
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </Line>
  );
}

function Inbox(): React.JSX.Element {
  const queries = useQueryClient();
  const notices = useQuery(noticesQuery);
  const readAll = async (): Promise<void> => {
    await send('POST', '/api/notices/read');
    await queries.invalidateQueries({ queryKey: ['notices'] });
  };
  const unread = notices.data?.unread ?? 0;
  return (
    <Half>
      <Line>
        <h1>Inbox{unread > 0 ? `, ${unread} unread` : ''}</h1>
        <QuietButton isDisabled={unread === 0} onPress={() => void readAll()}>
          Mark all as read
        </QuietButton>
      </Line>
      {notices.data?.rows.length === 0 ? (
        <Hint>
          Nothing yet. You are told what happens to what you watch and hold, and what is asked of you.
        </Hint>
      ) : null}
      <List aria-label="Notices">
        {notices.data?.rows.map((notice) => (
          <Notice key={notice.id} notice={notice} />
        ))}
      </List>
    </Half>
  );
}

function Notice({ notice }: { readonly notice: NoticeRow }): React.JSX.Element {
  return (
    <li data-unread={!notice.read || undefined}>
      <span>
        {notice.says} {notice.read ? null : <Soft>· unread</Soft>}
      </span>
      <Soft>
        <When at={notice.at} />
        {notice.number === null ? null : (
          <>
            {' '}
            ·{' '}
            <Link to={traceAddress(notice.number)}>
              <Mono>{notice.number}</Mono>
            </Link>
          </>
        )}
        {notice.address === null ? null : (
          <>
            {' '}
            · <Link to={notice.address}>Open it</Link>
          </>
        )}
      </Soft>
      {notice.asks === null ? null : <Answering asks={notice.asks} number={notice.number ?? ''} />}
    </li>
  );
}

/** Answers who waits for an item. */
function Answering({ asks, number }: { readonly asks: string; readonly number: string }): React.JSX.Element {
  const deeds = useDeeds();
  const [isRefusing, refuse] = useState(false);
  const answer = (letGo: boolean, says: string): void =>
    deeds.carryOut({ kind: 'answer', id: asks, letGo, says });
  return (
    <Line>
      <Button isDisabled={deeds.isBusy} onPress={() => answer(true, '')}>
        Let {number} go
      </Button>
      <Button isDisabled={deeds.isBusy} onPress={() => refuse(true)}>
        Not yet …
      </Button>
      {deeds.refusals.map((refusal) => (
        <Trouble key={refusal}>{refusal}</Trouble>
      ))}
      {isRefusing ? (
        <AskDialog
          title={`Keep ${number} for now`}
          action="Answer"
          fields={[{ key: 'says', label: 'Answer, for whoever asked', value: '' }]}
          onAnswer={({ says = '' }) => {
            answer(false, says);
            return Promise.resolve();
          }}
          onClose={() => refuse(false)}
        />
      ) : null}
    </Line>
  );
}

const Halves = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-rows: 1fr 1fr;
  gap: 14px;
`;
const Half = styled.section`
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  flex-wrap: wrap;
`;
const List = styled.ul`
  flex: 1;
  overflow: auto;
  margin: 0;
  padding: 0;
  list-style: none;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  li {
    display: grid;
    gap: 2px;
    padding: 7px 12px;
    border-bottom: 1px solid ${colour.line};
    border-left: 3px solid transparent;
  }
  li[data-unread] {
    border-left-color: ${colour.petrol};
  }
`;
