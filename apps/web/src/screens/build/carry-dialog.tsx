import type { Brought, Side } from '@stem-trace/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { carryQuery } from '../../api/build.js';
import { send } from '../../api/client.js';
import { ContradictionList, Listed } from '../../ui/contradictions.js';
import { Button, Hint, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { SIGN } from '../../ui/glyphs.js';

const SIDES = [
  { key: 'mine', text: 'Bill', everywhere: 'The bill everywhere' },
  { key: 'theirs', text: 'Engineering', everywhere: 'Engineering everywhere' },
] as const;

export interface CarryDialogProps {
  readonly bill: string;
  readonly version: string;
  readonly onClose: () => void;
}

/** Later engineering comes into a bill: what it brings, and what somebody has to decide first. */
export function CarryDialog({ bill, version, onClose }: CarryDialogProps): React.JSX.Element {
  const queries = useQueryClient();
  const { data, error } = useQuery(carryQuery(bill));
  const [decisions, decide] = useState<Readonly<Record<string, Side>>>({});
  const [trouble, setTrouble] = useState('');
  const [isBusy, setBusy] = useState(false);
  const open = data?.contradictions.filter(({ key }) => decisions[key] === undefined).length ?? 0;
  const carry = async (): Promise<void> => {
    setBusy(true);
    try {
      await send('POST', '/api/build/carry', { bill, version, to: data?.to ?? '', decisions, comment: '' });
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      onClose();
    } catch (failure) {
      setTrouble(failure instanceof Error ? failure.message : String(failure));
      setBusy(false);
    }
  };
  return (
    <DialogFrame
      title={data ? `Carry over: ${data.item} ${data.from} → ${data.to}` : 'Carry over'}
      widthPx={760}
      onClose={onClose}
    >
      {error ? <Trouble>{error.message}</Trouble> : null}
      {data ? null : <Hint role="status">Comparing with engineering …</Hint>}
      {data && data.contradictions.length > 0 ? (
        <ContradictionList
          rows={data.contradictions.map(({ mine, theirs, ...row }) => ({
            ...row,
            base: row.base ?? '',
            says: [mine ?? '', theirs ?? ''],
          }))}
          sides={SIDES}
          decisions={decisions}
          onDecide={decide}
        />
      ) : null}
      {data ? <BroughtList brought={data.brought} movedOut={data.movedOut} /> : null}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Buttons>
        <Soft>Nothing is written before the end; your own rows, columns and cells stay.</Soft>
        <Button onPress={onClose}>Cancel</Button>
        <PrimaryButton isDisabled={!data || open > 0 || isBusy} onPress={() => void carry()}>
          Carry over as a new version
        </PrimaryButton>
      </Buttons>
    </DialogFrame>
  );
}

function BroughtList({
  brought,
  movedOut,
}: {
  readonly brought: readonly Brought[];
  readonly movedOut: readonly string[];
}): React.JSX.Element {
  if (brought.length === 0) return <Hint>Engineering brings nothing that the bill does not have.</Hint>;
  return (
    <div role="group" aria-label="What comes">
      <h3>What comes: {brought.length}</h3>
      <Listed>
        {brought.map(({ kind, id, number, name, cells }) => (
          <li key={id}>
            <span>
              <b style={{ color: SIGN[kind].ink }}>{SIGN[kind].mark}</b> {kind} <Mono>{number}</Mono> {name}{' '}
              {cells.map(({ field, was, comes }) => (
                <Soft key={field}>
                  {field === 'amount' ? 'quantity' : field} {was || 'empty'} → {comes || 'empty'}{' '}
                </Soft>
              ))}
            </span>
          </li>
        ))}
      </Listed>
      {movedOut.length === 0 ? null : (
        <Soft>Their level is gone, so that they lie further out: {movedOut.join(', ')}.</Soft>
      )}
    </div>
  );
}

const Buttons = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  > :first-child {
    flex: 1;
  }
`;
