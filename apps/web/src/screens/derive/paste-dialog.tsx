import type { DerivePreview } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { BlockField } from '../../ui/block-field.js';
import { Button, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../ui/dialog-frame.js';
import { namesPasted, type DeriveDraft } from './draft.js';

export interface PasteDialogProps {
  readonly preview: DerivePreview;
  /** A block that was pasted already. */
  readonly block: string;
  readonly onNames: (renamed: DeriveDraft['renamed']) => void;
  readonly onClose: () => void;
}

/** New numbers and names from a spreadsheet: a row each, the old number first. */
export function PasteDialog({ preview, block, onNames, onClose }: PasteDialogProps): React.JSX.Element {
  const [text, type] = useState(block);
  const { renamed, unknown } = namesPasted(text, preview);
  const count = Object.keys(renamed).length;
  return (
    <DialogFrame title="Paste numbers" widthPx={520} onClose={onClose}>
      <Fields>
        <Soft>
          Copy the columns old number, new number and, if wanted, new name from a spreadsheet and paste them
          here.
        </Soft>
        <BlockField label="Old number, new number, new name" value={text} onChange={type} />
        <span role="status">
          {count === 0
            ? 'Nothing fits a line of the plan yet.'
            : `${count} ${count === 1 ? 'line gets' : 'lines get'} the numbers pasted.`}
        </span>
        {unknown.length === 0 ? null : (
          <Trouble>
            Not in the plan: {unknown.slice(0, 8).join(', ')}
            {unknown.length > 8 ? ` and ${unknown.length - 8} more` : ''}
          </Trouble>
        )}
        <DialogButtons>
          <Button onPress={onClose}>Cancel</Button>
          <PrimaryButton
            isDisabled={count === 0}
            onPress={() => {
              onNames(renamed);
              onClose();
            }}
          >
            Take them
          </PrimaryButton>
        </DialogButtons>
      </Fields>
    </DialogFrame>
  );
}

const Fields = styled.div`
  display: grid;
  gap: 10px;
`;
