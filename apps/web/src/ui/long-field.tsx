import { useId } from 'react';
import styled from 'styled-components';
import { colour } from './theme.js';

export interface LongFieldProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  readonly rows?: number;
  readonly isReadOnly?: boolean;
}

/** A field for several lines of text. */
export function LongField({
  label,
  value,
  onChange,
  rows = 5,
  isReadOnly = false,
}: LongFieldProps): React.JSX.Element {
  const id = useId();
  return (
    <Frame>
      <label htmlFor={id}>{label}</label>
      <textarea
        id={id}
        value={value}
        rows={rows}
        readOnly={isReadOnly}
        onChange={({ target }) => onChange(target.value)}
      />
    </Frame>
  );
}

const Frame = styled.div`
  display: flex;
  flex-direction: column;
  gap: 3px;
  min-width: 0;
  label {
    color: ${colour.inkSoft};
    font-size: 12px;
  }
  textarea {
    font: inherit;
    color: ${colour.ink};
    background: ${colour.raised};
    border: 1px solid ${colour.lineStrong};
    border-radius: 4px;
    padding: 6px 8px;
    resize: vertical;
  }
  textarea[readonly] {
    background: ${colour.surface};
  }
`;
