import { parseReference } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Form } from 'react-aria-components';
import styled from 'styled-components';
import { itemQuery } from '../../api/queries.js';
import { Field, Soft } from '../../ui/controls.js';
import { colour, font } from '../../ui/theme.js';

export interface SidePickerProps {
  readonly label: string;
  /** `NUMBER` or `NUMBER@B/3` */
  readonly value: string;
  readonly onChange: (value: string) => void;
}

/** One side of a comparison: a number, and which of its versions. */
export function SidePicker({ label, value, onChange }: SidePickerProps): React.JSX.Element {
  const { number, version } = parseReference(value);
  const [typed, setTyped] = useState(number);
  useEffect(() => setTyped(number), [number]);
  const item = useQuery(itemQuery(number));
  const shown = version ?? item.data?.version ?? '';
  return (
    <Picker
      onSubmit={(event) => {
        event.preventDefault();
        onChange(typed.trim());
      }}
    >
      <Field label={`${label}: number`} value={typed} onChange={setTyped} mono width="200px" />
      <label>
        <Soft>Version</Soft>
        <select
          value={shown}
          disabled={!item.data}
          aria-label={`${label}: version`}
          onChange={(event) => onChange(`${number}@${event.target.value}`)}
        >
          {item.data?.versions.map(({ version, comment }) => (
            <option key={version} value={version} title={comment}>
              {version}
            </option>
          ))}
        </select>
      </label>
    </Picker>
  );
}

const Picker = styled(Form)`
  display: flex;
  gap: 6px;
  align-items: end;
  label {
    display: grid;
    gap: 3px;
    font-size: 12px;
  }
  select {
    height: 30px;
    font: 13px ${font.mono};
    border: 1px solid ${colour.lineStrong};
    border-radius: 4px;
    background: ${colour.raised};
    color: ${colour.ink};
    min-width: 70px;
  }
`;
