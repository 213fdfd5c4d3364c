/** What can be done with the rows of a bill. */
import {
  combine,
  dissolve,
  moveRow,
  removeRows,
  takeWhole,
  type BuildRow,
  type Direction,
} from '@stem-trace/core';
import { ChevronDown, Redo2, Save, Undo2 } from 'lucide-react';
import { useState } from 'react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { Button, MenuDrop, PrimaryButton, QuietButton } from '../../ui/controls.js';
import { Asked, type Asking } from './sheet-dialogs.js';
import type { BillDraft } from './use-bill-draft.js';

export interface SheetToolsProps {
  readonly draft: BillDraft;
  /** Id of the row under the cursor. */
  readonly under: string;
  readonly picked: ReadonlySet<string>;
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
    if (key === 'share' || key === 'amount') ask(key);
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
          <MenuItem id="amount">Quantity in full …</MenuItem>
          <MenuItem id="share">Divide the quantity …</MenuItem>
          <MenuItem id="combine">Combine the selected rows</MenuItem>
          <MenuItem id="replace">Find and replace …</MenuItem>
          <MenuItem id="remove">Remove {chosen.size > 1 ? `${chosen.size} rows` : 'the row'}</MenuItem>
        </Menu>
      </MenuDrop>
    </MenuTrigger>
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
