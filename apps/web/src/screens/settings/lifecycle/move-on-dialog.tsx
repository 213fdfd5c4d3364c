/** Before revisions go by the newest version of a lifecycle: which, and where those go whose state is there no more. */
import type { LifecycleRow, MoveOnAnswer, MoveOnRequest } from '@stem-trace/contract';
import type { Diagram } from '@stem-trace/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../../api/client.js';
import { Button, Mono, PrimaryButton, Select, Soft, Trouble } from '../../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../../ui/dialog-frame.js';
import { StateGlyph } from '../../../ui/glyphs.js';

export interface MoveOnDialogProps {
  readonly lifecycle: LifecycleRow;
  readonly onClose: () => void;
}

export function MoveOnDialog({ lifecycle, onClose }: MoveOnDialogProps): React.JSX.Element {
  const { id, diagram, version } = lifecycle;
  const queries = useQueryClient();
  const [to, setTo] = useState<Readonly<Record<string, string>>>({});
  const request: MoveOnRequest = {
    id,
    moves: Object.entries(to).map(([from, next]) => ({ from, to: next })),
  };
  const preview = useQuery({
    queryKey: ['lifecycles', 'move on', request],
    queryFn: () => send('POST', '/api/lifecycles/move-on/preview', request),
    placeholderData: keepPreviousData,
  });
  const moving = useMutation({
    mutationFn: () => send('POST', '/api/lifecycles/move-on', request),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onClose();
    },
  });
  const { rows = [], wrong = [] } = preview.data ?? {};
  return (
    <DialogFrame title={`Go by version ${version} of ${diagram.name}`} widthPx={620} onClose={onClose}>
      <Soft>
        What is under way goes by the version that it began with until it is moved on. Signatures that were
        given for a step that waits for more are given anew.
      </Soft>
      <Rows {...{ rows, diagram }} onTo={(from, next) => setTo({ ...to, [from]: next })} />
      {[
        ...wrong,
        ...[preview.error?.message ?? '', moving.error?.message ?? ''].filter((one) => one !== ''),
      ].map((one) => (
        <Trouble key={one}>{one}</Trouble>
      ))}
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <PrimaryButton
          isDisabled={rows.length === 0 || wrong.length > 0 || moving.isPending}
          onPress={() => moving.mutate()}
        >
          Move them on
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

interface RowsProps {
  readonly rows: MoveOnAnswer['rows'];
  readonly diagram: Diagram;
  readonly onTo: (from: string, to: string) => void;
}

function Rows({ rows, diagram, onTo }: RowsProps): React.JSX.Element {
  return (
    <List aria-label="Revisions that would move on">
      {rows.map(({ from, to: next, count, such }) => (
        <li key={from}>
          <StateGlyph state={from} /> {count} {count === 1 ? 'revision is' : 'revisions are'} {from}; they go
          to{' '}
          <Select
            aria-label={`Where what is ${from} goes`}
            style={{ width: 'auto' }}
            value={diagram.states.some(({ name }) => name === next) ? next : ''}
            onChange={({ target }) => onTo(from, target.value)}
          >
            <option value="">…</option>
            {diagram.states.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </Select>
          <br />
          <Soft>
            <Mono>{such.join(', ')}</Mono>
            {count > such.length ? ` and ${count - such.length} more` : ''}
          </Soft>
        </li>
      ))}
    </List>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 10px 0;
  padding: 0;
  display: grid;
  gap: 8px;
`;
