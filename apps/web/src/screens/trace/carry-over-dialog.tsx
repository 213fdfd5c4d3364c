import type { CarryOverResult, CarryOverRow } from '@stem-trace/contract';
import type { CarrySide } from '@stem-trace/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { ContradictionList, type ContradictionRow } from '../../ui/contradictions.js';
import { Button, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Tick } from '../../ui/tick.js';

const KINDS = {
  take: 'takes the new file',
  values: 'takes new values',
  new: 'is new',
  both: 'both changed',
} as const;

const SIDES = [
  { key: 'origin', text: 'Origin', everywhere: 'The origin everywhere' },
  { key: 'copy', text: 'Copy', everywhere: 'The copy everywhere' },
] as const;

type Decisions = Readonly<Record<string, CarrySide>>;

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
  const rows = plan.data?.rows ?? [];
  const { left, toggle, taken, torn, decisions, decide, open, carry } = useCarrying(variant, rows);
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
          {torn.length > 0 ? (
            <ContradictionList rows={torn} sides={SIDES} decisions={decisions} onDecide={decide} />
          ) : null}
          {carry.error ? <Trouble>{carry.error.message}</Trouble> : null}
          <Soft>
            What is carried over becomes a new version of the copy, which you hold then; what only the copy
            changed stays its own. What is left shows as drift until another time.
          </Soft>
          <DialogButtons>
            <Button onPress={onClose}>Cancel</Button>
            <PrimaryButton
              isDisabled={taken.length === 0 || open > 0 || carry.isPending}
              onPress={() => carry.mutate()}
            >
              {carry.isPending ? 'Carrying over …' : `Carry ${taken.length} over`}
            </PrimaryButton>
          </DialogButtons>
        </Parts>
      )}
    </DialogFrame>
  );
}

/** What is taken and decided so far, and its carrying out. */
function useCarrying(variant: string, rows: readonly CarryOverRow[]) {
  const [left, leave] = useState<ReadonlySet<string>>(new Set());
  const [decisions, decide] = useState<Decisions>({});
  const queries = useQueryClient();
  const taken = rows.filter(({ number, stops }) => !stops && !left.has(number));
  const torn = contradictionsOf(taken);
  const open = torn.filter(({ key }) => decisions[key] === undefined).length;
  const carry = useMutation({
    mutationFn: () =>
      send('POST', '/api/carry-over', {
        item: variant,
        leave: [...left],
        decided: torn.flatMap(({ key, number, what: field }) => {
          const take = decisions[key];
          return take ? { number, field, take } : [];
        }),
      }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const toggle = (number: string): void => {
    const next = new Set(left);
    if (!next.delete(number)) next.add(number);
    leave(next);
  };
  return { left, toggle, taken, torn, decisions, decide, open, carry };
}

function contradictionsOf(rows: readonly CarryOverRow[]): ContradictionRow[] {
  return rows.flatMap(({ number, name, contradictions }) =>
    contradictions.map(({ field, base, origin, copy }) => ({
      ...{ key: `${number} ${field}`, number, name, what: field, base },
      says: [origin, copy],
    })),
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
      cell: ({ because, says, stops, keeps }) => {
        if (stops) return <AttentionMark title={says}>{says}</AttentionMark>;
        const kept = keeps.length === 0 ? '' : `keeps its own ${keeps.join(', ')}`;
        const all = [because, says, kept].filter((part) => part !== '').join('; ');
        return <Soft title={all}>{all}</Soft>;
      },
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
      <DialogButtons>
        <PrimaryButton ref={close} onPress={onClose}>
          Close
        </PrimaryButton>
      </DialogButtons>
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
