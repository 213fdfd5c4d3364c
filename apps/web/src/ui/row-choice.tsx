import { useId } from 'react';
import styled from 'styled-components';
import { colour } from './theme.js';

export interface RowChoiceProps<K extends string> {
  readonly label: string;
  readonly options: readonly { readonly key: K; readonly text: string }[];
  readonly value: K;
  readonly isDisabled: boolean;
  readonly onChange: (key: K) => void;
}

/** One of a few in a row of a table: as `Choice`, of plain radio buttons, for there are as many as rows are in sight. */
export function RowChoice<K extends string>({
  label,
  options,
  value,
  isDisabled,
  onChange,
}: RowChoiceProps<K>): React.JSX.Element {
  const name = useId();
  return (
    <Options role="radiogroup" aria-label={label}>
      {options.map(({ key, text }) => (
        <label key={key}>
          <input
            type="radio"
            name={name}
            checked={key === value}
            disabled={isDisabled}
            onChange={() => onChange(key)}
          />
          {text}
        </label>
      ))}
    </Options>
  );
}

const Options = styled.span`
  display: inline-flex;
  border: 1px solid ${colour.lineStrong};
  border-radius: 3px;
  overflow: hidden;
  label {
    position: relative;
    padding: 1px 5px;
    background: ${colour.raised};
  }
  label + label {
    border-left: 1px solid ${colour.lineStrong};
  }
  input {
    position: absolute;
    inset: 0;
    margin: 0;
    opacity: 0;
  }
  label:has(:checked) {
    background: ${colour.petrol};
    color: ${colour.raised};
  }
  label:has(:disabled) {
    background: ${colour.surface};
    color: ${colour.inkSoft};
  }
  label:has(:checked:disabled) {
    background: ${colour.lineStrong};
    color: ${colour.ink};
  }
  label:has(:focus-visible) {
    outline: 2px solid ${colour.petrol};
    outline-offset: -2px;
  }
`;
