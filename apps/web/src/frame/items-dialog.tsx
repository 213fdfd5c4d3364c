import type { LensText } from '@stem-trace/contract';
import type { UseQueryResult } from '@tanstack/react-query';
import { type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { Button, Hint, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { Grid, useGridCursor, type GridColumn } from '../ui/grid.js';
import { useTable } from '../ui/use-table.js';
import { traceAddress } from './addresses.js';
import { useDesk } from './desk.js';
import { SideBySide } from './side-by-side.js';

export interface ItemsDialogProps<Row extends { readonly number: string; readonly name: string }> {
  readonly title: string;
  readonly widthPx: number;
  readonly label: string;
  /** Under which sort and widths are kept. */
  readonly kind: string;
  readonly answer: UseQueryResult<{ readonly rows: readonly Row[] }>;
  readonly waiting: string;
  readonly nothing: string;
  readonly columns: readonly GridColumn<Row>[];
  readonly lens?: LensText;
  readonly onClose: () => void;
  /** An item whose picture is shown beside that of the row under the cursor. */
  readonly compared?: string;
  /** Above the table. */
  readonly head?: ReactNode;
  /** Beside the button that closes. */
  readonly children: ReactNode;
}

/** A question whose answer is a table of items, any of which can be traced. */
export function ItemsDialog<Row extends { readonly number: string; readonly name: string }>({
  title,
  widthPx,
  label,
  kind,
  answer,
  waiting,
  nothing,
  columns,
  lens,
  onClose,
  compared,
  head,
  children,
}: ItemsDialogProps<Row>): React.JSX.Element {
  const navigate = useNavigate();
  const rows = answer.data?.rows ?? [];
  const table = useTable(`dialog.${kind}`, rows, columns);
  const cursor = useGridCursor(table.rows, ({ number }) => number);
  // The margin stays where it is: it may be what this was opened from.
  const { toggleInTray, isInTray } = useDesk();
  const under = cursor.row?.number ?? '';
  return (
    <DialogFrame title={title} widthPx={widthPx} onClose={onClose} isBesideMargin>
      {head}
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.isPending ? <Hint role="status">{waiting}</Hint> : null}
      {answer.data && rows.length === 0 ? <Hint>{nothing}</Hint> : null}
      {compared === undefined || under === '' ? null : <SideBySide left={compared} right={under} />}
      {rows.length > 0 ? (
        <Body>
          <Grid
            label={label}
            {...table.grid}
            cursor={cursor}
            onPick={({ number, name }) => toggleInTray({ number, name })}
            isPicked={({ number }) => isInTray(number)}
            onOpen={({ number }) => {
              onClose();
              void navigate(traceAddress(number, lens));
            }}
            takesFocus
          />
        </Body>
      ) : null}
      <Line>
        {children}
        <Button slot="close">Close</Button>
      </Line>
    </DialogFrame>
  );
}

const Body = styled.div`
  display: flex;
  flex: 1 1 340px;
  min-height: 150px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
`;
