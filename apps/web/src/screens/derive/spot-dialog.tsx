import type { AddChoice, UseChoice } from '@stem-trace/contract';
import type { Decision } from '@stem-trace/core';
import { ItemPicker } from '../../frame/item-picker.js';
import { AskDialog, type AskedField } from '../../ui/ask-dialog.js';
import { Soft } from '../../ui/controls.js';

/** What a dialog about a spot begins with. */
export interface SpotAsk {
  readonly chain: readonly string[];
  readonly quantity: number;
  readonly occurrences: readonly number[];
  readonly decision: Decision;
  readonly where: 'everywhere' | 'here';
  readonly isTop: boolean;
  readonly own: boolean;
  readonly to: string;
  /** Numbers that stand in it. */
  readonly below: readonly string[];
  readonly adds?: boolean;
}

export interface SpotDialogProps {
  readonly ask: SpotAsk;
  /** A decision about the item wherever it stands. */
  readonly onEverywhere: (number: string, decision: Decision, to: string) => void;
  readonly onHere: (choice: UseChoice) => void;
  /** Lets the spot become what is decided about the item everywhere. */
  readonly onAsEverywhere: (chain: readonly string[]) => void;
  readonly onAdd: (choice: AddChoice) => void;
  readonly onClose: () => void;
}

const DECISIONS = [
  { key: 'copy', text: 'Copy' },
  { key: 'share', text: 'Share' },
  { key: 'swap', text: 'Swap for another item' },
  { key: 'omit', text: 'Leave out' },
] as const;

/** Decides about one spot of the tree, or about its item everywhere; or adds something to what stands there. */
export function SpotDialog(props: SpotDialogProps): React.JSX.Element {
  return props.ask.adds || props.ask.isTop ? <AddDialog {...props} /> : <DecideDialog {...props} />;
}

function decideFields({ chain, quantity, ...ask }: SpotAsk): AskedField[] {
  const parent = chain.at(-2) ?? '';
  return [
    { key: 'decision', label: 'What the variant does with it', value: ask.decision, options: DECISIONS },
    {
      key: 'where',
      label: 'Where',
      value: ask.where,
      options: [
        { key: 'everywhere', text: 'Everywhere in the variant' },
        { key: 'here', text: `Only here, in ${parent}` },
        ...(ask.own ? [{ key: 'as', text: 'As everywhere: take back what was decided here' }] : []),
      ],
    },
    ...(quantity > 1 || ask.occurrences.length > 0
      ? [
          {
            key: 'places',
            label: `Which of the places here, such as 2, 4; empty for all`,
            value: ask.occurrences.join(', '),
          },
        ]
      : []),
    {
      key: 'to',
      label: 'Swap for',
      value: ask.to,
      render: (value, onChange) => (
        <ItemPicker label="Swap for" value={value} onChoose={onChange} onType={onChange} width="100%" />
      ),
    },
  ];
}

function DecideDialog({
  ask,
  onEverywhere,
  onHere,
  onAsEverywhere,
  onClose,
}: SpotDialogProps): React.JSX.Element {
  const { chain } = ask;
  const number = chain.at(-1) ?? '';
  return (
    <AskDialog
      title={`Decide about ${number}`}
      action="Decide"
      fields={decideFields(ask)}
      onAnswer={({ decision, where, places = '', to = '' }) => {
        const decided = DECISIONS.find(({ key }) => key === decision)?.key ?? 'share';
        const occurrences = places.split(/[\s,;]+/).flatMap((text) => (text === '' ? [] : Number(text)));
        if (where === 'as') onAsEverywhere(chain);
        else if (occurrences.some((at) => !Number.isInteger(at) || at < 1))
          return Promise.reject(new Error('Name the places by their count, such as 2, 4.'));
        else if (decided === 'swap' && to.trim() === '')
          return Promise.reject(new Error('Say which item takes its place.'));
        else if (where === 'here' || occurrences.length > 0)
          onHere({
            ...{ chain, decision: decided, occurrences },
            ...(decided === 'swap' ? { to: to.trim() } : {}),
          });
        else onEverywhere(number, decided, to.trim());
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

function AddDialog({ ask, onAdd, onClose }: SpotDialogProps): React.JSX.Element {
  const { chain, below } = ask;
  const number = chain.at(-1) ?? '';
  return (
    <AskDialog
      title={`Add something to ${number}`}
      action="Add"
      says={<Soft>It is placed like what it is told to follow, moved by so many millimetres.</Soft>}
      fields={[
        {
          key: 'item',
          label: 'Item to add',
          value: '',
          render: (value, onChange) => (
            <ItemPicker
              label="Item to add"
              value={value}
              onChoose={onChange}
              onType={onChange}
              width="100%"
              takesFocus
            />
          ),
        },
        {
          key: 'like',
          label: 'Placed like',
          value: '',
          options: [
            { key: '', text: `the origin of ${number}` },
            ...below.map((key) => ({ key, text: key })),
          ],
        },
        { key: 'at', label: 'Moved by x, y, z in mm', value: '0, 0, 0' },
        { key: 'name', label: 'Name of the place', value: '' },
      ]}
      onAnswer={({ item = '', like = '', at = '', name = '' }) => {
        const moved = at
          .split(/[\s,;]+/)
          .filter((text) => text !== '')
          .map(Number);
        if (item.trim() === '') return Promise.reject(new Error('Say which item is added.'));
        if (moved.length !== 3 || !moved.every(Number.isFinite))
          return Promise.reject(new Error('Enter three numbers, such as 0, 0, 250.'));
        onAdd({ in: chain, item: item.trim(), name: name.trim(), like, at: moved });
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}
