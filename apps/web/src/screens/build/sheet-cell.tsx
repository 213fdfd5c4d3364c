import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { colour, font } from '../../ui/theme.js';

export interface CellEditorProps {
  readonly label: string;
  /** What stands in it first: what the cell says, or what was typed to begin. */
  readonly first: string;
  readonly choices: readonly string[];
  /** @param move where the cursor goes on to */
  readonly onKeep: (text: string, move: 'down' | 'right' | 'left' | 'stay') => void;
  readonly onLeave: () => void;
}

/** The one cell that is being typed into: Enter and Tab keep it and go on, Escape leaves it as it was. */
export function CellEditor({ label, first, choices, onKeep, onLeave }: CellEditorProps): React.JSX.Element {
  const input = useRef<HTMLInputElement>(null);
  const isOver = useRef(false);
  const [text, type] = useState(first);
  useEffect(() => {
    input.current?.focus();
    input.current?.setSelectionRange(first.length, first.length);
  }, [first]);
  const end = (act: () => void): void => {
    if (isOver.current) return;
    isOver.current = true;
    act();
  };
  return (
    <>
      <Editing
        ref={input}
        aria-label={label}
        value={text}
        list={choices.length > 0 ? 'build choices' : undefined}
        spellCheck={false}
        onChange={(event) => type(event.target.value)}
        onBlur={(event) => {
          const { value } = event.target;
          end(() => onKeep(value, 'stay'));
        }}
        onKeyDown={(event) => {
          const { value } = event.currentTarget;
          if (event.key === 'Enter') end(() => onKeep(value, 'down'));
          else if (event.key === 'Tab') end(() => onKeep(value, event.shiftKey ? 'left' : 'right'));
          else if (event.key === 'Escape') end(onLeave);
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
      {choices.length > 0 ? (
        <datalist id="build choices">
          {choices.map((choice) => (
            <option key={choice} value={choice} />
          ))}
        </datalist>
      ) : null}
    </>
  );
}

const Editing = styled.input`
  width: 100%;
  height: 24px;
  padding: 0 5px;
  border: 2px solid ${colour.petrol};
  border-radius: 2px;
  background: ${colour.raised};
  color: ${colour.ink};
  font-family: ${font.mono};
  font-size: inherit;
`;

/** A cell as it stands: what it says, what it said before, and whether keys go to it. */
export const Shown = styled.span`
  display: flex;
  flex: 1;
  align-self: stretch;
  align-items: center;
  gap: 5px;
  min-width: 0;
  overflow: hidden;
  padding: 0 4px;
  margin: 2px -6px;
  border: 2px solid transparent;
  border-radius: 2px;
  &[data-align='right'] {
    justify-content: flex-end;
  }
  &[data-changed] {
    background: ${colour.changedSoft};
    border-bottom-color: ${colour.changed};
  }
  &[data-active] {
    border-color: ${colour.petrol};
  }
  s {
    color: ${colour.inkSoft};
  }
`;
