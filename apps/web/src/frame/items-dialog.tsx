import type { LensText } from '@stem-trace/contract';
import type { UseQueryResult } from '@tanstack/react-query';
import { type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { Button, Hint, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { Grid, useGridCursor, type GridColumn } from '../ui/grid.js';
import { traceAddress } from './addresses.js';

export interface ItemsDialogProps<Row extends { readonly number: string }> {
  readonly title: string;
  readonly widthPx: number;
  readonly label: string;
  readonly answer: UseQueryResult<{ readonly rows: readonly Row[] }>;
  readonly waiting: string;
  readonly nothing: string;
  readonly columns: readonly GridColumn<Row>[];
  readonly lens?: LensText;
  readonly onClose: () => void;
  /** Above the table. */
  readonly head?: ReactNode;
  /** Beside the button that closes. */
  readonly children: ReactNode;
}

/** A question whose answer is a table of items, any of which can be traced. */
export function ItemsDialog<Row extends { readonly number: string }>({
  title,
  widthPx,
  label,
  answer,
  waiting,
  nothing,
  columns,
  lens,
  onClose,
  head,
  children,
}: ItemsDialogProps<Row>): React.JSX.Element {
  const navigate = useNavigate();
  const rows = answer.data?.rows ?? [];
  const cursor = useGridCursor(rows, ({ number }) => number);
  return (
    <DialogFrame title={title} widthPx={widthPx} onClose={onClose}>
      {head}
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.isPending ? <Hint role="status">{waiting}</Hint> : null}
      {answer.data && rows.length === 0 ? <Hint>{nothing}</Hint> : null}
      {rows.length > 0 ? (
        <Body>
          <Grid
            label={label}
            columns={columns}
            cursor={cursor}
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
  height: 340px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
`;
