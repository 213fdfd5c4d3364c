import { parseReference } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { itemQuery } from '../../api/queries.js';
import { useLooked } from '../../frame/desk.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { Soft } from '../../ui/controls.js';
import { colour, font } from '../../ui/theme.js';

export interface SidePickerProps {
  readonly label: string;
  /** `NUMBER` or `NUMBER@B/3` */
  readonly value: string;
  readonly onChange: (value: string) => void;
}

/** One side of a comparison: an item, and which of its versions. */
export function SidePicker({ label, value, onChange }: SidePickerProps): React.JSX.Element {
  const { number, version } = parseReference(value);
  const item = useQuery(itemQuery(number));
  useLooked(item.data);
  const shown = version ?? item.data?.version ?? '';
  return (
    <Picker role="group" aria-label={label}>
      <ItemPicker label={label} value={number} onChoose={onChange} width="210px" />
      <label>
        <Soft>Version</Soft>
        <select
          value={shown}
          disabled={!item.data}
          aria-label={`${label}: version`}
          onChange={(event) => onChange(`${number}@${event.target.value}`)}
        >
          {item.data?.versions.map(({ version: label, comment }) => (
            <option key={label} value={label} title={comment}>
              {label}
            </option>
          ))}
        </select>
      </label>
    </Picker>
  );
}

const Picker = styled.div`
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
