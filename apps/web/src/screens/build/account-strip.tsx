/** Whether everything that engineering needs is in the bill: said at all times, with each difference on request. */
import { accountOf, countAccount, isClosed, sayAmount, type AccountRow, type Amount } from '@stem-trace/core';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Choice, Hint, Mono, QuietButton, Soft } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { colour } from '../../ui/theme.js';
import type { BillDraft } from './use-bill-draft.js';

export function AccountStrip({
  draft,
  hidden,
}: {
  readonly draft: BillDraft;
  readonly hidden: number;
}): React.JSX.Element {
  const [isOpen, open] = useState(false);
  const { bill } = draft;
  const rows = useMemo(() => accountOf(bill), [bill.base, bill.rows, bill.reasons]); // eslint-disable-line react-hooks/exhaustive-deps
  const counts = countAccount(rows);
  if (hidden > 0)
    return (
      <Strip role="status">
        <AttentionMark>Account cannot be judged</AttentionMark>
        <Soft>{hidden} rows are not visible to you.</Soft>
      </Strip>
    );
  return (
    <Strip role="status" data-open={!isClosed(counts) || undefined}>
      <b>Account</b>
      {isClosed(counts) ? (
        <span>closed: every engineering part is accounted for</span>
      ) : (
        <AttentionMark>
          {[
            counts.missing > 0 ? `${counts.missing} missing` : '',
            counts.surplus > 0 ? `${counts.surplus} surplus` : '',
          ]
            .filter(Boolean)
            .join(', ')}
        </AttentionMark>
      )}
      <Soft>
        {counts.same} the same{counts.intended > 0 ? `, ${counts.intended} intended` : ''}
      </Soft>
      <QuietButton onPress={() => open(true)}>Show …</QuietButton>
      {isOpen ? <AccountDialog {...{ rows, draft }} onClose={() => open(false)} /> : null}
    </Strip>
  );
}

const said = (amounts: readonly Amount[]): string => amounts.map(sayAmount).join(' and ') || '–';

const COLUMNS: readonly GridColumn<AccountRow>[] = [
  { key: 'number', title: 'Number', width: '150px', cell: ({ number }) => <Mono>{number}</Mono> },
  { key: 'name', title: 'Name', width: 'minmax(140px, 1fr)', cell: ({ name }) => <span>{name}</span> },
  {
    key: 'engineering',
    title: 'Engineering',
    width: '100px',
    align: 'right',
    cell: (row) => <Mono>{said(row.engineering)}</Mono>,
  },
  {
    key: 'bill',
    title: 'Bill',
    width: '100px',
    align: 'right',
    cell: (row) => <Mono>{said(row.bill)}</Mono>,
  },
  {
    key: 'status',
    title: 'Difference',
    width: 'minmax(150px, 0.8fr)',
    cell: ({ status, difference, reason }) =>
      status === 'same' ? (
        <Soft>the same</Soft>
      ) : status === 'intended' ? (
        <span title={reason}>
          <Mono>{difference}</Mono> <Soft>{reason}</Soft>
        </span>
      ) : (
        <AttentionMark>
          {status} {difference}
        </AttentionMark>
      ),
  },
];

function AccountDialog({
  rows,
  draft,
  onClose,
}: {
  readonly rows: readonly AccountRow[];
  readonly draft: BillDraft;
  readonly onClose: () => void;
}): React.JSX.Element {
  const [shown, show] = useState<'open' | 'all'>('open');
  const [isAsking, ask] = useState(false);
  const seen = shown === 'all' ? rows : rows.filter(({ status }) => status !== 'same');
  const cursor = useGridCursor(seen, ({ key }) => key);
  const under = cursor.row;
  const mayAsk = under !== undefined && under.status !== 'same';
  return (
    <DialogFrame title="Account of engineering parts" widthPx={820} onClose={onClose}>
      <Line>
        <Choice
          label="Parts shown"
          options={[
            { key: 'open', text: 'Different' },
            { key: 'all', text: 'All' },
          ]}
          value={shown}
          onChange={show}
        />
        <Button isDisabled={!mayAsk} onPress={() => ask(true)}>
          Intended, because …
        </Button>
      </Line>
      {seen.length === 0 ? <Hint>Net quantities are the same for every engineering part.</Hint> : null}
      {seen.length === 0 ? null : (
        <Tall>
          <Grid label="Account" columns={COLUMNS} cursor={cursor} onOpen={() => ask(mayAsk)} />
        </Tall>
      )}
      {isAsking && under ? (
        <AskDialog
          title={`${under.number} ${under.difference}`}
          action="It is intended"
          fields={[{ key: 'reason', label: 'Reason', value: under.reason }]}
          onAnswer={({ reason = '' }) => {
            if (reason.trim() === '') return Promise.reject(new Error('Say why it is intended.'));
            const { difference, key } = under;
            draft.change({
              reasons: { ...draft.bill.reasons, [key]: { difference, reason: reason.trim() } },
            });
            return Promise.resolve();
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </DialogFrame>
  );
}

const Strip = styled.div`
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 3px 10px;
  border: 1px solid ${colour.line};
  border-left: 4px solid ${colour.petrol};
  border-radius: 3px;
  &[data-open] {
    border-left-color: ${colour.copper};
  }
`;
const Line = styled.div`
  display: flex;
  align-items: end;
  gap: 10px;
`;
const Tall = styled.div`
  display: flex;
  height: min(420px, 50vh);
`;
