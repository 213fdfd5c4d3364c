import type { StepPreview } from '@stem-trace/contract';
import type { LifecycleStep } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { capital } from '../ui/capital.js';
import { Button, Field, Mono, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { isText, useDraft } from '../ui/draft.js';
import { StateGlyph } from '../ui/glyphs.js';
import { colour } from '../ui/theme.js';

export interface StepDialogProps {
  readonly items: readonly string[];
  readonly step: LifecycleStep;
  readonly onReason: (reason: string) => void;
  readonly onClose: () => void;
}

/** Says what each step means for others. */
const MEANS: Readonly<Record<LifecycleStep['name'], string>> = {
  'ask for check': 'Nobody can change it until it is sent back or taken back. Checkers are told.',
  'take back': 'It can be changed again. Checkers are told.',
  release: 'It is locked for good; changes go on in the next revision. Whoever sent it is told.',
  'send back': 'It can be changed again. Whoever sent it is told, with the reason.',
  withdraw: 'It must not be used any more. What uses it stays as it is.',
};

/** Before a step: what it will do, to how many, and what stands against it. */
export function StepDialog({ items, step, onReason, onClose }: StepDialogProps): React.JSX.Element {
  const preview = useQuery({
    queryKey: ['items', 'step', step.name, items],
    queryFn: () => send('POST', '/api/steps/preview', { items, step: step.name, reason: '' }),
  });
  const isRefused = (preview.data?.refused.length ?? 0) > 0;
  const what = items.length === 1 ? items[0] : `${items.length} items`;
  const title = `${capital(step.name)}: ${what}`;
  const reason = useDraft(title, isText, '');
  return (
    <DialogFrame title={title} widthPx={520} onClose={onClose}>
      <p>{MEANS[step.name]}</p>
      {preview.error ? <Trouble>{preview.error.message}</Trouble> : null}
      {preview.data ? <Consequences preview={preview.data} /> : <Soft>Working out what it touches …</Soft>}
      <Field
        label={step.needsReason ? 'Reason (needed, visible to everyone)' : 'Reason (visible to everyone)'}
        value={reason.value}
        onChange={reason.set}
        takesFocus
      />
      <DialogButtons>
        <Button
          onPress={() => {
            reason.forget();
            onClose();
          }}
        >
          Cancel
        </Button>
        <PrimaryButton
          isDisabled={!preview.data || isRefused || (step.needsReason && reason.value.trim() === '')}
          onPress={() => {
            reason.forget();
            onReason(reason.value.trim());
            onClose();
          }}
        >
          {capital(step.name)}
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

function Consequences({ preview }: { readonly preview: StepPreview }): React.JSX.Element {
  const { refused, drafts, users } = preview;
  return (
    <>
      {refused.length > 0 ? (
        <Trouble as="div">
          Refused, so that none would be changed:
          <List>
            {refused.slice(0, SHOWN).map((one) => (
              <li key={one}>{one}</li>
            ))}
          </List>
          {more(refused.length)}
        </Trouble>
      ) : null}
      {users > 0 ? <Soft>{users === 1 ? 'One item records it.' : `${users} items record it.`}</Soft> : null}
      {drafts.length > 0 ? (
        <Warning role="alert">
          {drafts.length === 1 ? 'One item' : `${drafts.length} items`} below it{' '}
          {drafts.length === 1 ? 'was' : 'were'} never released:
          <List>
            {drafts.slice(0, SHOWN).map(({ number, name, version, state }) => (
              <li key={number}>
                <StateGlyph state={state} /> <Mono>{number}</Mono> <Mono>{version}</Mono> {name}
              </li>
            ))}
          </List>
          {more(drafts.length)}
        </Warning>
      ) : null}
    </>
  );
}

const SHOWN = 12;

function more(count: number): React.JSX.Element | null {
  return count > SHOWN ? <Soft>and {count - SHOWN} more</Soft> : null;
}

const List = styled.ul`
  margin: 4px 0 0;
  padding-left: 18px;
  max-height: 220px;
  overflow: auto;
`;
const Warning = styled.div`
  border-left: 3px solid ${colour.copper};
  background: ${colour.copperSoft};
  padding: 8px 12px;
  border-radius: 2px;
`;
