import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { effectQuery } from '../../../api/net.js';
import { Button, Mono, PrimaryButton, Soft, Trouble } from '../../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../../ui/dialog-frame.js';
import { StateGlyph } from '../../../ui/glyphs.js';
import { Tick } from '../../../ui/tick.js';

export interface EffectDialogProps {
  /** What is to be changed. */
  readonly items: readonly string[];
  readonly onChosen: (items: readonly string[]) => void;
  readonly onClose: () => void;
}

const MOST = 500;

/** What a change of these touches, to choose from. */
export function EffectDialog({ items, onChosen, onClose }: EffectDialogProps): React.JSX.Element {
  const answer = useQuery(effectQuery({ items, lens: 'newest', levels: 0 }));
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set());
  const rows = (answer.data?.rows ?? []).slice(0, MOST);
  const toggle = (number: string): void => {
    const next = new Set(chosen);
    if (!next.delete(number)) next.add(number);
    choose(next);
  };
  return (
    <DialogFrame title={`What a change of ${items.join(', ')} touches`} widthPx={720} onClose={onClose}>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.data ? null : <Soft>Working out what it touches …</Soft>}
      {answer.data && rows.length === 0 ? <Soft>It touches nothing else.</Soft> : null}
      <List aria-label="What is touched">
        {rows.map(({ number, name, part, state, quantity }) => (
          <li key={number}>
            <Tick isSelected={chosen.has(number)} onChange={() => toggle(number)}>
              <StateGlyph state={state} /> <Mono>{number}</Mono> {name}
            </Tick>
            <Soft>
              {part}
              {quantity === null ? '' : `, ×${quantity}`}
            </Soft>
          </li>
        ))}
      </List>
      <DialogButtons>
        <Button slot="close">Cancel</Button>
        <PrimaryButton
          isDisabled={chosen.size === 0}
          onPress={() => {
            onChosen([...chosen]);
            onClose();
          }}
        >
          Add {chosen.size}
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
  li {
    display: flex;
    justify-content: space-between;
    padding: 2px 0;
  }
`;
