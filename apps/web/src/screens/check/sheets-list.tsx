/** Check sheets: those that wait for whoever looks, and those that they sent. */
import type { SheetRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { sheetsQuery } from '../../api/sheets.js';
import { checkAddress } from '../../frame/addresses.js';
import { Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<SheetRow>[] = [
  {
    key: 'title',
    title: 'Sheet',
    width: 'minmax(220px, 1.4fr)',
    cell: ({ title, reason }) => (
      <span title={reason}>
        {title}
        {reason === '' ? null : <Soft> — {reason}</Soft>}
      </span>
    ),
  },
  {
    key: 'waits',
    title: 'Stands',
    width: '150px',
    cell: ({ isMine, isLate, undecided }) =>
      isMine ? (
        <AttentionMark>{isLate ? 'waits for you, late' : 'waits for you'}</AttentionMark>
      ) : isLate ? (
        <AttentionMark>waits for others, late</AttentionMark>
      ) : (
        <Soft>{undecided === 0 ? 'decided' : 'waits for others'}</Soft>
      ),
  },
  {
    key: 'seen',
    title: 'Seen by you',
    width: '100px',
    align: 'right',
    cell: ({ seen, items }) => (
      <Mono>
        {seen} of {items}
      </Mono>
    ),
  },
  { key: 'by', title: 'Sent by', width: '150px', cell: ({ sentBy }) => sentBy },
  {
    key: 'at',
    title: 'Since',
    width: '120px',
    cell: ({ sentAt }) => (
      <Soft>
        <When at={sentAt} />
      </Soft>
    ),
  },
];

export function SheetsList(): React.JSX.Element {
  const sheets = useQuery(sheetsQuery);
  const navigate = useNavigate();
  const rows = sheets.data ?? [];
  const cursor = useGridCursor(rows, ({ id }) => id);
  return (
    <>
      <h1>Check sheets</h1>
      {sheets.error ? <Trouble>{sheets.error.message}</Trouble> : null}
      {sheets.data && rows.length === 0 ? (
        <Hint>Nothing is being checked. What is sent for checking together stands on one sheet, here.</Hint>
      ) : (
        <Fill>
          <Grid
            label="Check sheets"
            columns={COLUMNS}
            cursor={cursor}
            onOpen={({ id }) => void navigate(checkAddress(id))}
            takesFocus
          />
        </Fill>
      )}
    </>
  );
}

const Fill = styled.div`
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 300px;
`;
