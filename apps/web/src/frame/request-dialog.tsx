/** A change request in one step, from wherever somebody sees what is wrong. */
import type { Evidence } from '@stem-trace/core';
import { URGENCIES } from '@stem-trace/core';
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { send } from '../api/client.js';
import { firstContents, lineOf } from '../api/changes.js';
import { AskDialog, type AskedField } from '../ui/ask-dialog.js';
import { Mono, Soft } from '../ui/controls.js';
import { LongField } from '../ui/long-field.js';
import { changeAddress } from './addresses.js';
import { ItemPicker } from './item-picker.js';

export interface RequestDialogProps {
  /** Numbers of items that it shows in; asked for where empty. */
  readonly items: readonly string[];
  readonly why?: string;
  readonly evidence?: readonly Evidence[];
  readonly onClose: () => void;
}

export function RequestDialog({
  items,
  why = '',
  evidence = [],
  onClose,
}: RequestDialogProps): React.JSX.Element {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [first = ''] = items;
  const asked: AskedField[] = items.length > 0 ? [] : [whereField()];
  return (
    <AskDialog
      title={
        items.length > 0
          ? `Request a change of ${first}${items.length > 1 ? ` and ${items.length - 1} more` : ''}`
          : 'New change request'
      }
      action="Raise the request"
      says={<Says items={items} evidence={evidence} />}
      fields={[
        { key: 'name', label: 'In a few words', value: '' },
        whyField(why),
        ...asked,
        {
          key: 'urgency',
          label: 'Urgency',
          value: URGENCIES[0],
          options: URGENCIES.map((key) => ({ key, text: key })),
        },
      ]}
      onAnswer={async ({ name = '', why: said = '', item = '', urgency = '' }) => {
        const shown = items.length > 0 ? items : [item].filter((number) => number !== '');
        const contents = firstContents(
          said,
          shown.map((number) => lineOf('shows in', number)),
          evidence,
        );
        const made = await send('POST', '/api/changes', {
          ...{ kind: 'request', number: '', name, place: '' },
          contents: { ...contents, urgency: URGENCIES.find((each) => each === urgency) ?? URGENCIES[0] },
        });
        await queries.invalidateQueries({ queryKey: ['changes'] });
        void navigate(changeAddress(made.number));
      }}
      onClose={onClose}
    />
  );
}

function Says({
  items,
  evidence,
}: Required<Pick<RequestDialogProps, 'items' | 'evidence'>>): React.JSX.Element | null {
  if (items.length === 0) return null;
  return (
    <Soft>
      It shows in <Mono>{items.join(', ')}</Mono>
      {evidence.length === 0
        ? ''
        : `, with ${evidence.map(({ says }) => `“${says}”`).join(', ')} as evidence`}
      .
    </Soft>
  );
}

export function whyField(value: string): AskedField {
  return {
    ...{ key: 'why', label: 'What is wrong or wanted', value },
    render: (text, onChange) => (
      <LongField label="What is wrong or wanted" value={text} onChange={onChange} rows={4} />
    ),
  };
}

function whereField(): AskedField {
  const label = 'Shows in (may be empty)';
  return {
    ...{ key: 'item', label, value: '' },
    render: (_, onChange) => (
      <ItemPicker label={label} value="" onChoose={onChange} onType={onChange} width="100%" />
    ),
  };
}
