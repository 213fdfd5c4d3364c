import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { HoldRow, NoticeRow } from '@stem-trace/contract';
import { useEffect } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { holdsQuery, noticesQuery, useDeeds } from '../../api/custody.js';
import { traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Hint, Mono, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { nameColumn, numberColumn, versionColumn } from '../../ui/item-columns.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<HoldRow>[] = [
  numberColumn('minmax(130px, 0.8fr)'),
  nameColumn('minmax(150px, 1.2fr)', ({ itemName }) => itemName),
  versionColumn(),
  {
    key: 'since',
    title: 'Since',
    width: '120px',
    cell: (row) => (
      <Soft>
        <When at={row.since} />
      </Soft>
    ),
  },
  {
    key: 'reason',
    title: 'Why',
    width: 'minmax(120px, 1fr)',
    cell: (row) => <Soft title={row.reason}>{row.reason}</Soft>,
  },
  {
    key: 'behind',
    title: '',
    width: '90px',
    cell: (row) => (row.behind > 0 ? <AttentionMark>{row.behind} behind</AttentionMark> : null),
  },
];

/** What one holds, and what one was told. */
export function WorkScreen(): React.JSX.Element {
  const holds = useQuery(holdsQuery);
  const { pointAt } = useDesk();
  const navigate = useNavigate();
  const deeds = useDeeds();
  const rows = holds.data ?? [];
  const cursor = useGridCursor(rows, ({ number }) => number);
  const under = cursor.row;
  const number = under?.number ?? '';
  useEffect(() => pointAt(number), [pointAt, number]);
  const behind = rows.filter((row) => row.behind > 0).map((row) => row.number);
  return (
    <Halves>
      <Half>
        <Line>
          <h1>I hold {rows.length}</h1>
          <Button
            isDisabled={!under || deeds.isBusy}
            onPress={() => under && deeds.carryOut({ kind: 'let go', items: [under.number] })}
          >
            Let go
          </Button>
          <Button
            isDisabled={behind.length === 0 || deeds.isBusy}
            onPress={() => deeds.carryOut({ kind: 'catch up', items: behind })}
          >
            Catch up all behind
          </Button>
          <Link to="/intake">Check in a working copy</Link>
        </Line>
        {deeds.refusals.map((refusal) => (
          <Trouble key={refusal}>{refusal}</Trouble>
        ))}
        {holds.data && rows.length === 0 ? (
          <Hint>You hold nothing. Check an item out from the margin, wherever the cursor is on it.</Hint>
        ) : null}
        <Grid
          label="What I hold"
          columns={COLUMNS}
          cursor={cursor}
          onOpen={(row) => void navigate(traceAddress(row.number))}
          takesFocus
        />
      </Half>
      <Inbox />
    </Halves>
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
    </li>
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
