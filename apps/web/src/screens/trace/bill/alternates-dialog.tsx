import type { AlternateRequest, AlternateRow, BillAnswer, BillRow } from '@stem-trace/contract';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { send } from '../../../api/client.js';
import { itemField } from '../../../frame/item-field.js';
import { AskDialog, type AskedField } from '../../../ui/ask-dialog.js';
import { Mono, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { DayField } from '../../../ui/day-field.js';

export interface AlternatesDialogProps {
  readonly bill: BillAnswer;
  /** `way` of the row that they are of. */
  readonly way: string;
  readonly onClose: () => void;
}

/** What may be used instead of a row's item: what is said, approving it, taking it back, and saying more. */
export function AlternatesDialog({ bill, way, onClose }: AlternatesDialogProps): React.JSX.Element | null {
  const row = bill.rows.find((each) => each.way === way);
  if (!row) return null;
  return (
    <AskDialog
      title={`Alternates of ${row.number}`}
      action="Add"
      says={<Said row={row} />}
      fields={fieldsOf(row)}
      onAnswer={({ other = '', where = '', rank = '', note = '', from = '', to = '' }) =>
        send('PUT', '/api/alternates', {
          ...{ item: row.number, other, onlyIn: where, rank: Number(rank), note },
          from: from || null,
          to: to || null,
        })
      }
      onClose={onClose}
    />
  );
}

function fieldsOf({ number, user, alternates }: BillRow): AskedField[] {
  return [
    itemField('other', 'Other item'),
    {
      key: 'where',
      label: 'Where',
      value: '',
      options: [
        { key: '', text: `anywhere ${number} is used` },
        ...(user === '' ? [] : [{ key: user, text: `only in ${user}` }]),
      ],
    },
    { key: 'rank', label: 'Rank; 1 is the first choice', value: String(alternates.length + 1) },
    { key: 'note', label: 'Note', value: '' },
    ...(['from', 'to'] as const).map((key): AskedField => ({
      key,
      label: key,
      value: '',
      render: (value, onChange) => (
        <DayField
          label={key === 'from' ? 'Valid from (empty: now)' : 'Valid until (empty: no end)'}
          value={value}
          onChange={onChange}
          mayBeLater
        />
      ),
    })),
  ];
}

function Said({ row: { number, alternates } }: { readonly row: BillRow }): React.JSX.Element {
  const [trouble, setTrouble] = useState('');
  const whole = useRef<HTMLDivElement>(null);
  const change = async (
    path: '/api/alternates/approve' | '/api/alternates/remove',
    of: AlternateRow,
  ): Promise<void> => {
    try {
      await send('POST', path, requestOf(number, of));
      setTrouble('');
      // The button that was pressed goes with what it was for; the keyboard stays in the dialog.
      whole.current?.focus();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div ref={whole} tabIndex={-1}>
      {alternates.length === 0 ? (
        <Soft>No alternates yet.</Soft>
      ) : (
        <List aria-label="Alternates">
          {alternates.map((each) => (
            <li key={`${each.number} ${each.onlyIn ?? ''}`}>
              <span>
                {each.rank}. <Mono>{each.number}</Mono> {each.name} <Soft>{saidOf(each)}</Soft>
              </span>
              {each.approvedBy === null ? (
                <QuietButton onPress={() => void change('/api/alternates/approve', each)}>
                  Approve {each.number}
                </QuietButton>
              ) : null}
              <QuietButton onPress={() => void change('/api/alternates/remove', each)}>
                Remove {each.number}
              </QuietButton>
            </li>
          ))}
        </List>
      )}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
    </div>
  );
}

function requestOf(item: string, { number, onlyIn, rank, note, from, to }: AlternateRow): AlternateRequest {
  return { item, other: number, onlyIn: onlyIn ?? '', rank, note, from, to };
}

function saidOf({ onlyIn, note, from, to, approvedBy }: AlternateRow): string {
  return [
    onlyIn === null ? 'anywhere' : `only in ${onlyIn}`,
    from === null ? '' : `from ${from}`,
    to === null ? '' : `until ${to}`,
    note,
    approvedBy === null ? 'not approved yet' : `approved by ${approvedBy}`,
  ]
    .filter(Boolean)
    .join(' · ');
}

const List = styled.ul`
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
  li {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 4px 10px;
  }
  li > span {
    flex: 1 1 220px;
  }
`;
