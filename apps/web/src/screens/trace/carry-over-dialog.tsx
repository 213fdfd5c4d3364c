import type { CarryOverResult, CarryOverRow } from '@stem-trace/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Button, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Tick } from '../../ui/tick.js';

const KINDS = { take: 'takes the new file', new: 'is new', both: 'both changed' } as const;

/** What later changes of an origin would do to a variant; what is not wanted yet is left, and stays as drift. */
export function CarryOverDialog({
  variant,
  onClose,
}: {
  readonly variant: string;
  readonly onClose: () => void;
}): React.JSX.Element {
  const plan = useQuery({
    queryKey: ['item', 'carry over', variant],
    queryFn: ({ signal }) => get('/api/carry-over', { item: variant }, signal),
    staleTime: 0,
  });
  const [left, leave] = useState<ReadonlySet<string>>(new Set());
  const queries = useQueryClient();
  const carry = useMutation({
    mutationFn: () => send('POST', '/api/carry-over', { item: variant, leave: [...left] }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const rows = plan.data?.rows ?? [];
  const taken = rows.filter(({ number, stops }) => !stops && !left.has(number));
  const toggle = (number: string): void => {
    const next = new Set(left);
    if (!next.delete(number)) next.add(number);
    leave(next);
  };
  return (
    <DialogFrame title={`Carry over into ${variant}`} widthPx={860} onClose={onClose}>
      {carry.data ? (
        <Done result={carry.data} onClose={onClose} />
      ) : (
        <Parts>
          {plan.error ? <Trouble>{plan.error.message}</Trouble> : null}
          {plan.data ? null : plan.error ? null : (
            <Soft role="status">Looking what the origin changed …</Soft>
          )}
          {plan.data && rows.length === 0 ? (
            <p role="status">Nothing: {plan.data.origin} has not changed since.</p>
          ) : null}
          {rows.length > 0 ? <Rows {...{ rows, left }} onToggle={toggle} /> : null}
          {carry.error ? <Trouble>{carry.error.message}</Trouble> : null}
          <Soft>
            What is carried over becomes a new version of the copy, which you hold then. What is left shows as
            drift until another time.
          </Soft>
          <Buttons>
            <Button onPress={onClose}>Cancel</Button>
            <PrimaryButton isDisabled={taken.length === 0 || carry.isPending} onPress={() => carry.mutate()}>
              {carry.isPending ? 'Carrying over …' : `Carry ${taken.length} over`}
            </PrimaryButton>
          </Buttons>
        </Parts>
      )}
    </DialogFrame>
  );
}

interface RowsProps {
  readonly rows: readonly CarryOverRow[];
  readonly left: ReadonlySet<string>;
  readonly onToggle: (number: string) => void;
}

function Rows({ rows, left, onToggle }: RowsProps): React.JSX.Element {
  const columns = useMemo(() => columnsOf(left, onToggle), [left, onToggle]);
  const cursor = useGridCursor(rows, ({ number }) => number);
  return (
    <Sized style={{ height: Math.min(380, 60 + rows.length * 34) }}>
      <Grid
        label="What is carried over"
        columns={columns}
        cursor={cursor}
        onPick={({ number, stops }) => (stops ? undefined : onToggle(number))}
        takesFocus
      />
    </Sized>
  );
}

function columnsOf(
  left: ReadonlySet<string>,
  onToggle: (number: string) => void,
): GridColumn<CarryOverRow>[] {
  return [
    {
      key: 'take',
      title: '',
      width: '34px',
      cell: ({ number, stops }) => (
        <Tick
          aria-label={`Carry ${number} over`}
          isSelected={!stops && !left.has(number)}
          isDisabled={stops}
          onChange={() => onToggle(number)}
        />
      ),
    },
    {
      key: 'number',
      title: 'Copy',
      width: 'minmax(120px, 1fr)',
      cell: ({ number, name }) => (
        <span title={name}>
          <Mono>
            <MiddleCut text={number} />
          </Mono>
        </span>
      ),
    },
    {
      key: 'origin',
      title: 'Origin',
      width: '196px',
      cell: ({ origin, from, to }) => (
        <Mono>
          {origin} {from === '' ? to : `${from} → ${to}`}
        </Mono>
      ),
    },
    { key: 'kind', title: 'It', width: '130px', cell: ({ kind }) => KINDS[kind] },
    {
      key: 'because',
      title: 'Because',
      width: 'minmax(160px, 1.6fr)',
      cell: ({ because, says, stops }) =>
        stops ? (
          <AttentionMark title={says}>{says}</AttentionMark>
        ) : (
          <Soft title={`${because} ${says}`}>{says === '' ? because : `${because}; ${says}`}</Soft>
        ),
    },
  ];
}

function Done({
  result,
  onClose,
}: {
  readonly result: CarryOverResult;
  readonly onClose: () => void;
}): React.JSX.Element {
  const close = useRef<HTMLButtonElement>(null);
  // What had the focus is gone with the rows.
  useEffect(() => close.current?.focus(), []);
  return (
    <Parts aria-live="polite">
      <p>
        {result.done.length} {result.done.length === 1 ? 'item was' : 'items were'} carried over:{' '}
        {result.done.map(({ number, version }) => `${number} ${version}`).join(', ') || 'nothing'}.
      </p>
      {result.left.map(({ number, says }) => (
        <Soft key={number}>
          <Mono>{number}</Mono> stays behind: {says}.
        </Soft>
      ))}
      <Buttons>
        <PrimaryButton ref={close} onPress={onClose}>
          Close
        </PrimaryButton>
      </Buttons>
    </Parts>
  );
}

const Parts = styled.div`
  display: grid;
  gap: 12px;
`;
const Sized = styled.div`
  display: flex;
  flex-direction: column;
`;
const Buttons = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
`;
