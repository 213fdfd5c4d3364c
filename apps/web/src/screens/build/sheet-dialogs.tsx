/** What the tools of a bill ask for before they do something. */
import {
  COLUMN_TYPES,
  divide,
  insertRows,
  parseAmount,
  replaceText,
  sayAmount,
  wrap,
  type BuildColumn,
  type BuildRow,
  type ColumnType,
} from '@stem-trace/core';
import { get } from '../../api/client.js';
import { AmountDialog } from '../../frame/amount-dialog.js';
import { itemField } from '../../frame/item-field.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { fieldsOf } from './sheet-columns.js';
import type { BillDraft } from './use-bill-draft.js';

export type Asking =
  'item' | 'text' | 'amount' | 'level' | 'share' | 'column' | 'templates' | 'replace' | 'save' | undefined;

/** Stays the same for ever, and is nobody else's. */
function newId(): string {
  return crypto.randomUUID();
}

interface AskedProps {
  readonly draft: BillDraft;
  readonly picked: ReadonlySet<string>;
  /** Under the cursor. */
  readonly row: BuildRow | undefined;
  readonly asking: Asking;
  readonly onClose: () => void;
}

/** The one question that is open, if any. */
export function Asked(props: AskedProps): React.JSX.Element | null {
  switch (props.asking) {
    case 'item':
    case 'text':
      return <AddDialog {...props} />;
    case 'level':
    case 'share':
      return <LayOutDialog {...props} />;
    case 'amount':
      return <FullAmount {...props} />;
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
        isItem ? itemField('what', 'Item') : { key: 'what', label: 'Text', value: '' },
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

function FullAmount({ draft, row, onClose }: AskedProps): React.JSX.Element | null {
  if (!row) return null;
  return (
    <AmountDialog
      of={row.number || row.name}
      value={sayAmount(row.amount)}
      onAnswer={(said) => {
        const amount = parseAmount(said);
        if (amount) draft.rows(draft.bill.rows.map((each) => (each === row ? { ...each, amount } : each)));
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
  'planned effectivity': 'from when until when it counts, as planned',
  'actual effectivity': 'from when until when it counts, as it came',
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
