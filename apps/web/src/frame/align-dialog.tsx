import type { AlignAnswer } from '@stem-trace/contract';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { propertiesQuery } from '../api/properties.js';
import { Button, Field, Mono, Pick, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
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
  const [property, setProperty] = useState('');
  const by = property === '' ? { start } : { start: '', property };
  const [trouble, setTrouble] = useState('');
  const preview = useQuery({
    queryKey: ['align', items, start, property],
    queryFn: () => send('POST', '/api/align/preview', { items, ...by }),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
  });
  const rows = preview.data?.rows ?? [];
  const carryOut = async (): Promise<void> => {
    try {
      await send('POST', '/api/align', { items, ...by });
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
      <HowAligned {...{ start, setStart, property, setProperty }} />
      {preview.error ? <Trouble>{preview.error.message}</Trouble> : null}
      <List>
        {rows.map(({ id, number, from, to }) => (
          <li key={id}>
            <Mono>{number}</Mono> <Soft>revision</Soft> <Mono>{from}</Mono> → <Mono>{to}</Mono>
          </li>
        ))}
      </List>
      <Disagreeing rows={preview.data?.disagrees ?? []} />
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

interface HowAlignedProps {
  readonly start: string;
  readonly setStart: (start: string) => void;
  /** Empty for one after another. */
  readonly property: string;
  readonly setProperty: (property: string) => void;
}

/** One after another from a code, or as a property of each says. */
function HowAligned({ start, setStart, property, setProperty }: HowAlignedProps): React.JSX.Element {
  const properties = useQuery(propertiesQuery).data?.definitions ?? [];
  const names = new Set(['revision', ...properties.map(({ name }) => name)]);
  return (
    <Row>
      <Pick
        label="Codes"
        options={[
          { key: '', text: 'one after another' },
          ...[...names].map((name) => ({ key: name, text: `as the property ${name} says` })),
        ]}
        value={property}
        onChange={setProperty}
      />
      {property === '' ? (
        <Field
          label="First (empty: that of the scheme)"
          mono
          value={start}
          onChange={setStart}
          width="200px"
        />
      ) : null}
    </Row>
  );
}

/** What says of itself what cannot be stays as it is. */
function Disagreeing({ rows }: { readonly rows: AlignAnswer['disagrees'] }): React.JSX.Element | null {
  if (rows.length === 0) return null;
  return (
    <Trouble as="div">
      Left as they are:
      <List>
        {rows.map(({ number, says }) => (
          <li key={`${number} ${says}`}>
            <Mono>{number}</Mono> {says}
          </li>
        ))}
      </List>
    </Trouble>
  );
}

const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
`;
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
