import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { Button, Field, Mono, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { colour } from '../ui/theme.js';

export interface AlignDialogProps {
  readonly items: readonly string[];
  readonly onClose: () => void;
}

/** Revision codes of many items brought into line with the scheme; shown before anything is written. */
export function AlignDialog({ items, onClose }: AlignDialogProps): React.JSX.Element {
  const queries = useQueryClient();
  const [start, setStart] = useState('');
  const [trouble, setTrouble] = useState('');
  const preview = useQuery({
    queryKey: ['align', items, start],
    queryFn: () => send('POST', '/api/align/preview', { items, start }),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
  });
  const rows = preview.data?.rows ?? [];
  const carryOut = async (): Promise<void> => {
    try {
      await send('POST', '/api/align', { items, start });
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <DialogFrame
      title={`Align revisions of ${items.length} ${items.length === 1 ? 'item' : 'items'}`}
      widthPx={460}
      onClose={onClose}
    >
      <Field
        label="First revision (empty: the first of the scheme)"
        mono
        value={start}
        onChange={setStart}
        width="300px"
      />
      {preview.error ? <Trouble>{preview.error.message}</Trouble> : null}
      <List>
        {rows.map(({ id, number, from, to }) => (
          <li key={id}>
            <Mono>{number}</Mono> <Soft>revision</Soft> <Mono>{from}</Mono> → <Mono>{to}</Mono>
          </li>
        ))}
      </List>
      <Soft>
        {preview.data
          ? `${rows.length} to change; ${preview.data.unchanged.length} items are in line already.`
          : 'Working it out …'}
      </Soft>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <DialogButtons>
        <Button slot="close">Cancel</Button>
        <PrimaryButton
          isDisabled={rows.length === 0 || preview.error !== null}
          onPress={() => void carryOut()}
        >
          Align
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

const List = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  overflow: auto;
  li {
    padding: 4px 0;
    border-bottom: 1px solid ${colour.line};
  }
`;
