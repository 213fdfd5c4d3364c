import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { colour, font } from './theme.js';

export interface EditCellProps {
  readonly label: string;
  readonly value: string;
  readonly onCommit: (value: string) => void;
  readonly mono?: boolean;
}

/** A text in a table that can be changed in place; Enter or leaving keeps it, Escape takes it back. */
export function EditCell({ label, value, onCommit, mono }: EditCellProps): React.JSX.Element {
  const [typed, setTyped] = useState(value);
  // What was kept already is not kept again on leaving, before the table has come to know it.
  const known = useRef(value);
  // Keys may come faster than drawing.
  const latest = useRef(value);
  const type = (text: string): void => {
    latest.current = text;
    setTyped(text);
  };
  useEffect(() => {
    latest.current = value;
    setTyped(value);
    known.current = value;
  }, [value]);
  const commit = (): void => {
    if (latest.current === known.current) return;
    known.current = latest.current;
    onCommit(latest.current.trim());
  };
  return (
    <Cell data-mono={mono || undefined}>
      <input
        aria-label={label}
        value={typed}
        onChange={(event) => type(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit();
          if (event.key === 'Escape') type(value);
        }}
      />
    </Cell>
  );
}

const Cell = styled.span`
  flex: 1;
  min-width: 0;
  input {
    width: 100%;
    height: 24px;
    padding: 0 6px;
    border: 1px solid ${colour.line};
    border-radius: 3px;
    background: ${colour.raised};
    color: ${colour.ink};
    font: inherit;
    &:hover,
    &:focus {
      border-color: ${colour.lineStrong};
    }
  }
  &[data-mono] input {
    font-family: ${font.mono};
  }
`;
