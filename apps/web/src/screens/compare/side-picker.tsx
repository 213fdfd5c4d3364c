import { parseReference, type LensText } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { baselineChoices, baselinesQuery } from '../../api/issued.js';
import { itemQuery } from '../../api/queries.js';
import { useLooked } from '../../frame/desk.js';
import { DocumentButton, isTable, ListButton, ListChosen } from './list-side.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { Soft } from '../../ui/controls.js';
import { colour, font } from '../../ui/theme.js';

export interface SidePickerProps {
  readonly label: string;
  /** `NUMBER` or `NUMBER@B/3` */
  readonly value: string;
  /** Of this side alone; that of the screen where absent. */
  readonly lens: LensText | undefined;
  readonly onChange: (value: string) => void;
  /** Empty for that of the screen. */
  readonly onLens: (lens: LensText) => void;
  /** Said below. */
  readonly children?: ReactNode;
}

/** One side of a comparison: an item, and which of its versions. */
export function SidePicker({
  label,
  value,
  lens,
  onChange,
  onLens,
  children,
}: SidePickerProps): React.JSX.Element {
  const isList = value.startsWith(LIST);
  const { number, version } = parseReference(isList ? '' : value);
  const item = useQuery(itemQuery(number));
  useLooked(item.data);
  const document = item.data?.kind === 'document' && isTable(item.data.versions[0]?.fileName ?? '');
  const shown = version ?? item.data?.version ?? '';
  return (
    <Picker role="group" aria-label={label}>
      <Row>
        {isList ? (
          <ListChosen id={value.slice(LIST.length)} onLeave={() => onChange('')} />
        ) : (
          <>
            <ItemPicker label={label} value={number} onChoose={onChange} width="150px" />
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
            <SideLens {...{ label, number, lens, onLens }} />
          </>
        )}
        <ListButton label={label} onChoose={(id) => onChange(LIST + id)} />
      </Row>
      {document ? <DocumentButton item={value} onChoose={(id) => onChange(LIST + id)} /> : children}
    </Picker>
  );
}

/** What addresses call a list that somebody sent. */
const LIST = 'list:';
const LENSES: readonly { readonly key: string; readonly text: string }[] = [
  { key: '', text: 'screen’s' },
  { key: 'recorded', text: 'as recorded' },
  { key: 'newest', text: 'newest' },
  { key: 'released', text: 'released' },
];

function SideLens({
  label,
  number,
  lens = '',
  onLens,
}: Pick<SidePickerProps, 'label' | 'lens' | 'onLens'> & { readonly number: string }): React.JSX.Element {
  const baselines = useQuery(baselinesQuery(number)).data ?? [];
  const offered = [...LENSES, ...baselineChoices(baselines)];
  // One that is looked at, and not offered, can be seen, and left.
  const all = offered.some(({ key }) => key === lens) ? offered : [...offered, { key: lens, text: lens }];
  return (
    <label>
      <Soft>Lens</Soft>
      <select value={lens} aria-label={`${label}: lens`} onChange={(event) => onLens(event.target.value)}>
        {all.map(({ key, text }) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

const Row = styled.div`
  display: flex;
  gap: 6px;
  align-items: end;
`;
const Picker = styled.div`
  display: grid;
  gap: 3px;
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
