import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import { colour } from './theme.js';

export interface BlockFieldProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
}

/** A field for a block of cells from a spreadsheet; it has the focus. */
export function BlockField({ label, value, onChange }: BlockFieldProps): React.JSX.Element {
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => field.current?.focus(), []);
  return (
    <Block
      ref={field}
      aria-label={label}
      value={value}
      rows={10}
      spellCheck={false}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

const Block = styled.textarea`
  font: inherit;
  font-family: var(--mono);
  background: ${colour.surface};
  color: ${colour.ink};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 6px;
`;
