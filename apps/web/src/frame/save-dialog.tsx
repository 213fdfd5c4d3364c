import type { SavedKind } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { useSave } from '../api/find.js';
import { Button, Field, Mono, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { Tick } from '../ui/tick.js';

export interface SaveDialogProps {
  readonly kind: SavedKind;
  /** The view as it is now. */
  readonly address: string;
  /** What is kept, in words. */
  readonly says: string;
  readonly onClose: () => void;
}

/** Keeps a search or a view under a name. */
export function SaveDialog({ kind, address, says, onClose }: SaveDialogProps): React.JSX.Element {
  const [name, setName] = useState('');
  const [isShared, share] = useState(false);
  const [tells, tell] = useState(false);
  const save = useSave();
  return (
    <DialogFrame title={`Keep this ${kind}`} widthPx={420} onClose={onClose}>
      <Mono>{says}</Mono>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate({ kind, name: name.trim(), address, isShared, tells }, { onSuccess: onClose });
        }}
      >
        <Field label="Name" value={name} onChange={setName} placeholder="Drawings waiting for me" />
        <Tick isSelected={isShared} onChange={share}>
          Colleagues see it too
        </Tick>
        {kind === 'search' ? (
          <Tick isSelected={tells} onChange={tell}>
            Tell me when its count changes
          </Tick>
        ) : null}
        {save.error ? <Trouble>{save.error.message}</Trouble> : null}
        <Soft>One of yours with the same name is replaced.</Soft>
        <DialogButtons>
          <Button slot="close">Cancel</Button>
          <PrimaryButton type="submit" isDisabled={name.trim() === '' || save.isPending}>
            Keep
          </PrimaryButton>
        </DialogButtons>
      </Form>
    </DialogFrame>
  );
}

const Form = styled.form`
  display: grid;
  gap: 10px;
`;
