/** What can be done with the rows of a bill. */
import {
  combine,
  COLUMN_TYPES,
  dissolve,
  divide,
  insertRows,
  moveRow,
  parseAmount,
  removeRows,
  replaceText,
  sayAmount,
  takeWhole,
  wrap,
  type BuildColumn,
  type BuildRow,
  type ColumnType,
  type Direction,
} from '@stem-trace/core';
import { ChevronDown, Redo2, Save, Undo2 } from 'lucide-react';
import { useState } from 'react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { get } from '../../api/client.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, MenuDrop, PrimaryButton, QuietButton } from '../../ui/controls.js';
import { fieldsOf } from './sheet-columns.js';
import type { BillDraft } from './use-bill-draft.js';

type Asking = 'item' | 'text' | 'level' | 'share' | 'column' | 'templates' | 'replace' | 'save' | undefined;

export interface SheetToolsProps {
  readonly draft: BillDraft;
  /** Id of the row under the cursor. */
  readonly under: string;
  readonly picked: ReadonlySet<string>;
}

/** Stays the same for ever, and is nobody else's. */
function newId(): string {
  return crypto.randomUUID();
}

export function SheetTools(props: SheetToolsProps): React.JSX.Element {
  const { draft, under } = props;
  const [asking, ask] = useState<Asking>();
  const row = draft.bill.rows.find(({ id }) => id === under);
  return (
    <Line>
      <Button onPress={() => ask('item')}>Add item …</Button>
      <Button onPress={() => ask('text')}>Add text row …</Button>
      <ColumnMenu draft={draft} ask={ask} />
      <RowMenu {...props} row={row} ask={ask} />
      <QuietButton aria-label="Undo" isDisabled={!draft.canUndo} onPress={draft.undo}>
        <Undo2 size={15} aria-hidden />
      </QuietButton>
      <QuietButton aria-label="Redo" isDisabled={!draft.canRedo} onPress={draft.redo}>
        <Redo2 size={15} aria-hidden />
      </QuietButton>
      <Gap />
      <QuietButton isDisabled={!draft.isChanged} onPress={draft.discard}>
        Discard
      </QuietButton>
      <PrimaryButton isDisabled={!draft.isChanged} onPress={() => ask('save')}>
        <Save size={15} aria-hidden /> Save …
      </PrimaryButton>
      <Asked {...props} row={row} asking={asking} onClose={() => ask(undefined)} />
    </Line>
  );
}

/** Columns of the bill, and what its releases are made from. */
function ColumnMenu({
  draft,
  ask,
}: Pick<SheetToolsProps, 'draft'> & Pick<RowMenuProps, 'ask'>): React.JSX.Element {
  const { columns, rows } = draft.bill;
  const remove = (id: string): void =>
    draft.change({
      columns: columns.filter((column) => column.id !== id),
      rows: rows.map(({ values, ...row }) => ({
        ...row,
        values: Object.fromEntries(Object.entries(values).filter(([column]) => column !== id)),
      })),
    });
  return (
    <MenuTrigger>
      <Button>
        Columns <ChevronDown size={14} aria-hidden />
      </Button>
      <MenuDrop>
        <Menu
          aria-label="Columns"
          onAction={(key) => {
            if (key === 'add') ask('column');
            else if (key === 'templates') ask('templates');
            else remove(String(key).slice('remove '.length));
          }}
        >
          <MenuItem id="add">Add column …</MenuItem>
          {columns.map(({ id, name }) => (
            <MenuItem key={id} id={`remove ${id}`}>
              Remove {name}
            </MenuItem>
          ))}
          <MenuItem id="templates">Templates of its releases …</MenuItem>
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

interface RowMenuProps extends SheetToolsProps {
  readonly row: BuildRow | undefined;
  readonly ask: (asking: Asking) => void;
}

const MOVES: readonly { readonly to: Direction; readonly text: string }[] = [
  { to: 'up', text: 'Move up (Alt+↑)' },
  { to: 'down', text: 'Move down (Alt+↓)' },
  { to: 'in', text: 'Move into the row above (Alt+→)' },
  { to: 'out', text: 'Move out of its level (Alt+←)' },
];

function RowMenu({ draft, row, picked, ask }: RowMenuProps): React.JSX.Element {
  const { rows } = draft.bill;
  const chosen = picked.size > 0 ? picked : new Set(row ? [row.id] : []);
  const replaceRow = (next: BuildRow): void =>
    draft.rows(rows.map((each) => (each.id === next.id ? next : each)));
  const act = (key: string): void => {
    if (key === 'remove') draft.rows(removeRows(rows, chosen));
    if (key === 'combine') draft.rows(combine(rows, chosen));
    if (key === 'level') ask('level');
    if (key === 'replace') ask('replace');
    if (!row) return;
    if (key === 'share') ask('share');
    if (key === 'dissolve') draft.rows(dissolve(rows, row.id));
    if (key === 'whole')
      draft.rows(
        row.isWhole
          ? rows.map((each) => (each === row ? { ...row, isWhole: false } : each))
          : takeWhole(rows, row.id),
      );
    if (key === 'phantom') replaceRow({ ...row, isPhantom: !row.isPhantom });
    const move = MOVES.find(({ to }) => to === key);
    if (move) draft.rows(moveRow(rows, row.id, move.to));
  };
  return (
    <MenuTrigger>
      <Button isDisabled={!row}>
        Rows <ChevronDown size={14} aria-hidden />
      </Button>
      <MenuDrop>
        <Menu onAction={(key) => act(String(key))} aria-label="Rows">
          {MOVES.map(({ to, text }) => (
            <MenuItem key={to} id={to}>
              {text}
            </MenuItem>
          ))}
          <MenuItem id="level">Put a level around {chosen.size > 1 ? 'these rows' : 'this row'} …</MenuItem>
          <MenuItem id="dissolve">Dissolve this level</MenuItem>
          <MenuItem id="phantom">{row?.isPhantom ? 'No longer a phantom' : 'Make it a phantom'}</MenuItem>
          <MenuItem id="whole">{row?.isWhole ? 'No longer in one piece' : 'Take it in one piece'}</MenuItem>
          <MenuItem id="share">Divide the quantity …</MenuItem>
          <MenuItem id="combine">Combine the selected rows</MenuItem>
          <MenuItem id="replace">Find and replace …</MenuItem>
          <MenuItem id="remove">Remove {chosen.size > 1 ? `${chosen.size} rows` : 'the row'}</MenuItem>
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

interface AskedProps extends SheetToolsProps {
  readonly row: BuildRow | undefined;
  readonly asking: Asking;
  readonly onClose: () => void;
}

function Asked(props: AskedProps): React.JSX.Element | null {
  switch (props.asking) {
    case 'item':
    case 'text':
      return <AddDialog {...props} />;
    case 'level':
    case 'share':
      return <LayOutDialog {...props} />;
    case 'column':
      return <ColumnDialog {...props} />;
    case 'templates':
      return <TemplatesDialog {...props} />;
    case 'replace':
      return <ReplaceDialog {...props} />;
    case 'save':
      return <SaveDialog {...props} />;
    default:
      return null;
  }
}

const PLACES = [
  { key: 'below', text: 'below the row under the cursor' },
  { key: 'above', text: 'above it' },
  { key: 'inside', text: 'inside it' },
] as const;

function plainRow(row: Partial<BuildRow> & Pick<BuildRow, 'kind' | 'name'>): BuildRow {
  return {
    ...{
      id: newId(),
      level: 1,
      number: '',
      version: '',
      find: '',
      designators: '',
      isPhantom: false,
      isWhole: false,
    },
    ...{ values: {}, amount: { value: '1', unit: '', basis: 'each' } },
    ...row,
  };
}

function AddDialog({ draft, row, asking, onClose }: AskedProps): React.JSX.Element {
  const isItem = asking === 'item';
  return (
    <AskDialog
      title={isItem ? 'Add an item' : 'Add a row of text'}
      action="Add"
      fields={[
        isItem
          ? {
              key: 'what',
              label: 'Item',
              value: '',
              render: (_, onChange) => (
                <ItemPicker
                  label="Item"
                  value=""
                  onChoose={onChange}
                  onType={onChange}
                  width="100%"
                  takesFocus
                />
              ),
            }
          : { key: 'what', label: 'Text', value: '' },
        { key: 'amount', label: 'Quantity, such as 2, 0.4 m or as required', value: '1' },
        { key: 'where', label: 'Where', value: 'below', options: PLACES },
      ]}
      onAnswer={async ({ what = '', amount: said = '', where = 'below' }) => {
        const amount = parseAmount(said);
        if (!amount) throw new Error(`“${said}” is no quantity, such as 4, 0.4 m or as required.`);
        if (what.trim() === '') throw new Error(isItem ? 'Choose an item.' : 'A row of text needs a text.');
        const fresh = isItem
          ? await itemRow(what.trim(), amount)
          : plainRow({ kind: 'text', name: what.trim(), amount });
        draft.rows(
          insertRows(draft.bill.rows, [fresh], row?.id ?? '', where as 'above' | 'below' | 'inside'),
        );
      }}
      onClose={onClose}
    />
  );
}

async function itemRow(item: string, amount: BuildRow['amount']): Promise<BuildRow> {
  const { number, name } = await get('/api/item', { item });
  return plainRow({ kind: 'item', number, name, amount });
}

function LayOutDialog({ draft, row, picked, asking, onClose }: AskedProps): React.JSX.Element {
  const isLevel = asking === 'level';
  return (
    <AskDialog
      title={isLevel ? 'Put a level around the rows' : `Divide ${row?.number || row?.name || ''}`}
      action={isLevel ? 'Make the level' : 'Divide'}
      fields={[
        isLevel
          ? { key: 'text', label: 'Name of the level', value: '' }
          : {
              key: 'text',
              label: `Share of ${row ? sayAmount(row.amount) : ''} for a row of its own`,
              value: '',
            },
      ]}
      onAnswer={({ text = '' }) => {
        const ids = picked.size > 0 ? picked : new Set(row ? [row.id] : []);
        if (isLevel && text.trim() === '') return Promise.reject(new Error('A level needs a name.'));
        const edited = isLevel
          ? wrap(draft.bill.rows, ids, plainRow({ kind: 'text', name: text.trim(), isPhantom: true }))
          : divide(draft.bill.rows, row?.id ?? '', text, newId());
        if (edited.kind === 'problem') return Promise.reject(new Error(edited.says));
        draft.rows(edited);
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

const TYPE_NAMES: Readonly<Record<ColumnType, string>> = {
  text: 'text',
  number: 'number, with a unit',
  choice: 'choice',
  person: 'person',
  day: 'day',
  link: 'link',
};

function ColumnDialog({ draft, onClose }: AskedProps): React.JSX.Element {
  return (
    <AskDialog
      title="Add a column"
      action="Add"
      fields={[
        { key: 'name', label: 'Name', value: '' },
        {
          key: 'type',
          label: 'Holds',
          value: 'text',
          options: COLUMN_TYPES.map((key) => ({ key, text: TYPE_NAMES[key] })),
        },
        { key: 'unit', label: 'Unit of a number', value: '' },
        { key: 'choices', label: 'Choices, with commas', value: '' },
        {
          key: 'required',
          label: 'Before release',
          value: 'no',
          options: [
            { key: 'no', text: 'may be empty' },
            { key: 'yes', text: 'must be filled in' },
          ],
        },
      ]}
      onAnswer={({ name = '', type = 'text', unit = '', choices = '', required = 'no' }) => {
        const { columns } = draft.bill;
        const wanted = name.trim();
        if (wanted === '') return Promise.reject(new Error('A column needs a name.'));
        if (columns.some((column) => column.name.toLowerCase() === wanted.toLowerCase()))
          return Promise.reject(new Error(`There is a column ${wanted} already.`));
        const column: BuildColumn = {
          ...{ id: newId(), name: wanted, type: type as ColumnType, isRequired: required === 'yes' },
          unit: type === 'number' ? unit.trim() : '',
          choices: type === 'choice' ? choices.split(',').flatMap((each) => each.trim() || []) : [],
        };
        draft.change({ columns: [...columns, column] });
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

function ReplaceDialog({ draft, onClose }: AskedProps): React.JSX.Element {
  const { rows, columns } = draft.bill;
  return (
    <AskDialog
      title="Find and replace"
      action="Replace all"
      fields={[
        { key: 'find', label: 'Text', value: '' },
        { key: 'by', label: 'Replace with', value: '' },
      ]}
      onAnswer={({ find = '', by = '' }) => {
        const fields = fieldsOf(columns).filter((field) => !['number', 'amount'].includes(field));
        const { rows: next, changed, problems } = replaceText(rows, { find, by, fields, columns });
        if (changed === 0)
          return Promise.reject(
            new Error(problems[0]?.says ?? `No cell that can be changed says “${find}”.`),
          );
        draft.rows(next);
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

function TemplatesDialog({ draft, onClose }: AskedProps): React.JSX.Element {
  const own = draft.bill.outputs.filter((template) => template !== '');
  return (
    <AskDialog
      title="Templates of its releases"
      action="Keep"
      says="Each release fills in these workbooks, which are documents of the store. Their cells say {{bill.number}}, and one row says {{row.number}} and the like."
      fields={[
        {
          key: 'standard',
          label: 'The template that ships',
          value: draft.bill.outputs.includes('') ? 'yes' : 'no',
          options: [
            { key: 'yes', text: 'is filled in too' },
            { key: 'no', text: 'is not used' },
          ],
        },
        { key: 'own', label: 'Numbers of your own templates, with commas', value: own.join(', ') },
      ]}
      onAnswer={({ standard = 'yes', own: said = '' }) => {
        const numbers = said.split(',').flatMap((each) => each.trim() || []);
        draft.change({ outputs: [...(standard === 'yes' ? [''] : []), ...numbers] });
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

function SaveDialog({ draft, onClose }: AskedProps): React.JSX.Element {
  return (
    <AskDialog
      title="Save as a version"
      action="Save"
      fields={[{ key: 'comment', label: 'What was changed, and why', value: '' }]}
      onAnswer={({ comment = '' }) => draft.save(comment)}
      onClose={onClose}
    />
  );
}

const Line = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
`;
const Gap = styled.span`
  flex: 1;
`;
