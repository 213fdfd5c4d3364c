import { useEffect, useRef, useState, type ReactNode } from 'react';
import { ComboBox, Label, ListBox, ListBoxItem } from 'react-aria-components';
import styled from 'styled-components';
import { Box, Drop } from './controls.js';
import { colour } from './theme.js';

export interface Completion {
  readonly id: string;
  /** What stands in the field once it is chosen. */
  readonly text: string;
}

export interface CompletingFieldProps<C extends Completion> {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  readonly completions: readonly C[];
  readonly onChoose: (chosen: C) => void;
  /** Enter with what was typed, where nothing of the list is under the cursor. */
  readonly onEnter?: () => void;
  readonly render: (completion: C) => ReactNode;
  readonly placeholder?: string;
  readonly width?: string;
  readonly mono?: boolean;
  readonly takesFocus?: boolean;
}

/** A field whose text is completed from a list that opens below it as soon as somebody goes there. */
export function CompletingField<C extends Completion>({
  label,
  value,
  onChange,
  completions,
  onChoose,
  onEnter,
  render,
  placeholder,
  width,
  mono,
  takesFocus,
}: CompletingFieldProps<C>): React.JSX.Element {
  const input = useRef<HTMLInputElement>(null);
  // Once something is chosen the list stays shut until somebody types or comes back.
  const [isQuiet, beQuiet] = useState(false);
  const isChoosing = useRef(false);
  const hasLeft = useRef(false);
  useEffect(() => {
    if (takesFocus) input.current?.focus();
  }, [takesFocus]);
  return (
    <Combo
      items={isQuiet ? [] : completions}
      inputValue={value}
      onInputChange={(text) => {
        // Choosing resets the text as well; what was chosen stands there already.
        if (isChoosing.current || text === value) return;
        beQuiet(false);
        onChange(text);
      }}
      selectedKey={null}
      onSelectionChange={(key) => {
        const chosen = completions.find(({ id }) => id === key);
        if (!chosen) return;
        isChoosing.current = true;
        // Not before the click is over: a list that is gone amid it would make it a click beside the dialog below.
        setTimeout(() => {
          isChoosing.current = false;
          beQuiet(true);
        });
        onChoose(chosen);
      }}
      allowsCustomValue
      menuTrigger="focus"
      style={width === undefined ? undefined : { width }}
    >
      <Label>{label}</Label>
      <Box
        ref={input}
        placeholder={placeholder}
        spellCheck={false}
        onBlur={() => {
          // The list takes the focus in name only, and gives it back some time after something is chosen there.
          hasLeft.current ||= document.activeElement !== input.current;
        }}
        onFocus={() => {
          if (hasLeft.current) beQuiet(false);
          hasLeft.current = false;
        }}
        {...(mono ? { 'data-mono': true } : {})}
        onKeyDown={(event: React.KeyboardEvent<HTMLInputElement>) => {
          if (event.key !== 'Enter' || event.currentTarget.getAttribute('aria-activedescendant')) return;
          if (!onEnter) return;
          event.preventDefault();
          beQuiet(true);
          onEnter();
        }}
      />
      <Completions>
        <ListBox>
          {(completion: C) => (
            <Option id={completion.id} textValue={completion.text}>
              {render(completion)}
            </Option>
          )}
        </ListBox>
      </Completions>
    </Combo>
  );
}

const Combo = styled(ComboBox)`
  display: flex;
  flex-direction: column;
  gap: 3px;
  min-width: 0;
  label {
    color: ${colour.inkSoft};
    font-size: 12px;
  }
`;
const Completions = styled(Drop)`
  min-width: var(--trigger-width);
  max-width: 560px;
  max-height: 340px;
  overflow: auto;
`;
const Option = styled(ListBoxItem)`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 5px 8px;
  border-radius: 3px;
  color: ${colour.ink};
  cursor: default;
  white-space: nowrap;
  &[data-focused] {
    background: ${colour.petrolSoft};
    outline: none;
  }
`;
