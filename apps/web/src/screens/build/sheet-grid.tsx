/** The rows of a bill as a sheet: a cursor on a cell, typing, copying and pasting blocks, moving rows by keys. */
import {
  cellOf,
  moveRow,
  moveTo,
  pasteBlock,
  setCells,
  type BillChanges,
  type BuildRow,
  type Direction,
  type Pasted,
} from '@stem-trace/core';
import { useEffect, useMemo, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../frame/desk.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { Soft } from '../../ui/controls.js';
import { Grid, useGridCursor } from '../../ui/grid.js';
import { closedTo, type Dragging } from './row-drag.js';
import { fieldsOf, mayType, sheetColumns, type ActiveCell, type EditedCell } from './sheet-columns.js';
import type { BillDraft } from './use-bill-draft.js';

const KEYS: readonly KeyHint[] = [
  { key: '← →', says: 'Another cell of the row' },
  { key: 'Enter', says: 'Edit the cell; Enter or Tab again keeps it' },
  { key: 'Alt + arrows', says: 'Move the row up, down, into the one above, or out' },
  { key: 'Ctrl + C, Ctrl + V', says: 'Copy and paste a block, also from a spreadsheet' },
  { key: 'Ctrl + D', says: 'Fill the selected rows with what the first says' },
  { key: 'Ctrl + Z, Ctrl + Y', says: 'Undo, redo' },
];

export interface SheetGridProps {
  /** Number of the bill. */
  readonly bill: string;
  readonly draft: BillDraft;
  /** In the order in which they are seen. */
  readonly rows: readonly BuildRow[];
  readonly changes: BillChanges;
  readonly mayEdit: boolean;
  readonly picked: ReadonlySet<string>;
  readonly onPick: (ids: ReadonlySet<string>) => void;
  readonly onCursor: (id: string) => void;
  /** The row that somebody was led to. */
  readonly goTo: string;
}

export function SheetGrid(props: SheetGridProps): React.JSX.Element {
  const { bill, draft, rows, picked, onPick, onCursor, goTo } = props;
  const { pointAt } = useDesk();
  useKeyHints(KEYS);
  const cursor = useGridCursor(rows, ({ id }) => id);
  const under = cursor.row;
  // A row of text is nothing that could be told about.
  const number = under?.number || bill;
  useEffect(() => pointAt(number), [pointAt, number]);
  useEffect(() => onCursor(under?.id ?? ''), [onCursor, under?.id]);
  const { moveTo: goToRow } = cursor;
  useEffect(() => {
    const at = rows.findIndex(({ id }) => id === goTo);
    if (goTo !== '' && at >= 0) goToRow(at);
    // Only when somebody is led there, not whenever the rows change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [goTo]);
  const cells = useCells(props, under, (by) =>
    goToRow(Math.max(0, Math.min(rows.length - 1, cursor.from + by))),
  );
  const { active, edited } = cells;
  const dragging = useDragging(draft);
  const columns = useMemo(
    () =>
      sheetColumns({
        ...{ ...cells, columns: draft.bill.columns, changes: props.changes },
        ...{ dragging: props.mayEdit ? dragging : undefined, closed: closedTo(draft.bill.rows, dragging.id) },
      }),
    // What cells look like hangs on these alone; what they do is looked up when it is done.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [
      draft.bill,
      props.changes,
      props.mayEdit,
      active?.id,
      active?.field,
      edited?.id,
      edited?.field,
      edited?.first,
      dragging.id,
    ],
  );
  return (
    <>
      <Grid
        label="Rows of the bill"
        {...{ columns, cursor }}
        levelOf={({ level }) => level}
        onKey={cells.onKey}
        onPick={({ id }) => onPick(toggled(picked, id))}
        isPicked={({ id }) => picked.has(id)}
        takesFocus={`sheet ${cells.returns}`}
      />
      <Said {...{ under, active, draft }} />
    </>
  );
}

function toggled(ids: ReadonlySet<string>, id: string): ReadonlySet<string> {
  const next = new Set(ids);
  if (!next.delete(id)) next.add(id);
  return next;
}

function useDragging(draft: BillDraft): Dragging {
  const [id, begin] = useState('');
  return {
    ...{ id, begin, end: () => begin('') },
    drop: (moved, beside, where) => draft.rows(moveTo(draft.bill.rows, moved, beside, where)),
  };
}

/** What the cell under the cursor says, for those who do not see it. */
function Said({
  under,
  active,
  draft,
}: {
  readonly under: BuildRow | undefined;
  readonly active: ActiveCell | undefined;
  readonly draft: BillDraft;
}): React.JSX.Element {
  return (
    <Where role="status">
      {under && active ? (
        <Soft>
          {under.number || under.name}: {titleOf(active.field, draft)}{' '}
          {cellOf(under, active.field) || 'empty'}
        </Soft>
      ) : null}
    </Where>
  );
}

const TITLES: Readonly<Record<string, string>> = {
  find: 'find number',
  number: 'number',
  name: 'name',
  amount: 'quantity',
  designators: 'designators',
};

function titleOf(field: string, { bill }: BillDraft): string {
  return TITLES[field] ?? bill.columns.find(({ id }) => id === field)?.name ?? field;
}

interface Cells {
  readonly active: ActiveCell | undefined;
  readonly edited: EditedCell | undefined;
  /** How often the keyboard came back from a cell to the sheet. */
  readonly returns: number;
  readonly put: (cell: ActiveCell) => void;
  readonly edit: (cell: EditedCell) => void;
  readonly keep: (cell: ActiveCell, text: string, move: 'down' | 'right' | 'left' | 'stay') => void;
  readonly leave: () => void;
  readonly onKey: (event: KeyboardEvent, row: BuildRow | undefined) => boolean;
}

const MOVES: Readonly<Record<string, Direction>> = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
};

function useCells(
  { draft, rows, mayEdit, picked }: SheetGridProps,
  under: BuildRow | undefined,
  step: (by: number) => void,
): Cells {
  const [field, go] = useState('amount');
  const [edited, edit] = useState<EditedCell>();
  const [returns, count] = useState(0);
  const fields = fieldsOf(draft.bill.columns);
  const sideways = (by: number): void => {
    const at = Math.max(0, Math.min(fields.length - 1, fields.indexOf(field) + by));
    go(fields[at] ?? field);
  };
  const leave = (): void => {
    edit(undefined);
    count((times) => times + 1);
  };
  const writing = writingOf(draft);
  const keys: Keys = {
    ...{ draft, rows, picked, fields, field, mayEdit, writing, sideways },
    edit: (cell) => {
      if (mayEdit) edit(cell);
    },
  };
  return {
    active: under ? { id: under.id, field } : undefined,
    ...{ edited, returns, leave, edit: keys.edit },
    put: (cell) => go(cell.field),
    keep: (cell, text, move) => {
      if (move === 'stay') edit(undefined);
      else leave();
      writing.write([cell.id], cell.field, text);
      if (move === 'down') step(1);
      if (move === 'right') sideways(1);
      if (move === 'left') sideways(-1);
    },
    onKey: (event, row) =>
      LOOKING.some((key) => key(event, keys, row)) ||
      (mayEdit && EDITING.some((key) => key(event, keys, row))),
  };
}

interface Writing {
  /** Takes what was pasted, and says what could not be. */
  take(pasted: Pasted): void;
  write(ids: readonly string[], field: string, text: string): void;
}

function writingOf(draft: BillDraft): Writing {
  const { rows, columns } = draft.bill;
  const take = ({ rows: next, changed, problems }: Pasted): void => {
    if (changed > 0) draft.rows(next);
    const [first] = problems;
    if (first)
      draft.say(
        `${problems.length === 1 ? 'A cell was' : `${problems.length} cells were`} left as before. ${first.says}`,
      );
  };
  return {
    take,
    write: (ids, field, text) =>
      take(setCells(rows, new Map(ids.map((id) => [id, new Map([[field, text]])])), columns)),
  };
}

interface Keys {
  readonly draft: BillDraft;
  readonly rows: readonly BuildRow[];
  readonly picked: ReadonlySet<string>;
  readonly fields: readonly string[];
  /** The column that keys go to. */
  readonly field: string;
  readonly mayEdit: boolean;
  readonly writing: Writing;
  readonly sideways: (by: number) => void;
  readonly edit: (cell: EditedCell) => void;
}

/** What a key does in the sheet. @returns whether it was one of these */
type Key = (event: KeyboardEvent, keys: Keys, row: BuildRow | undefined) => boolean;

const isCommand = ({ ctrlKey, metaKey }: KeyboardEvent): boolean => ctrlKey || metaKey;

const copies: Key = (event, { rows, picked, fields, field }, row) => {
  if (!isCommand(event) || event.key !== 'c') return false;
  void navigator.clipboard.writeText(blockOf(rows, picked, row, fields, field));
  return true;
};

const goesSideways: Key = (event, { sideways }) => {
  const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
  if (by === 0 || event.altKey || isCommand(event)) return false;
  sideways(by);
  return true;
};

const movesRow: Key = ({ key, altKey }, { draft }, row) => {
  const direction = MOVES[key];
  if (!altKey || !direction || !row) return false;
  draft.rows(moveRow(draft.bill.rows, row.id, direction));
  return true;
};

const undoes: Key = (event, { draft }) => {
  if (!isCommand(event)) return false;
  const key = event.key.toLowerCase();
  if (key === 'z' && !event.shiftKey) draft.undo();
  else if (key === 'y' || key === 'z') draft.redo();
  else return false;
  return true;
};

const pastes: Key = (event, { draft, rows, fields, field, writing }, row) => {
  if (!isCommand(event) || event.key !== 'v' || !row) return false;
  const { columns } = draft.bill;
  const place = { shown: rows.map(({ id }) => id), fields, columns, at: { id: row.id, field } };
  navigator.clipboard.readText().then(
    (text) => writing.take(pasteBlock(draft.bill.rows, blockIn(text), place)),
    () => draft.say('The browser does not let this page read what was copied. Allow it, and paste again.'),
  );
  return true;
};

const fillsDown: Key = (event, { rows, picked, field, writing }, row) => {
  if (!isCommand(event) || event.key !== 'd' || !row) return false;
  const of = rows.filter(({ id }) => picked.has(id) || id === row.id);
  const [first = row] = of;
  writing.write(
    of.map(({ id }) => id),
    field,
    cellOf(first, field),
  );
  return true;
};

const types: Key = (event, { field, edit, writing }, row) => {
  const { key, altKey } = event;
  if (!row || altKey || isCommand(event) || !mayType(row, field)) return false;
  if (key === 'Enter' || key === 'F2') edit({ id: row.id, field, first: cellOf(row, field) });
  else if (key === 'Delete' && field !== 'amount') writing.write([row.id], field, '');
  else if (key.length === 1 && key !== ' ' && key !== '?') edit({ id: row.id, field, first: key });
  else return false;
  return true;
};

const LOOKING: readonly Key[] = [copies, goesSideways];
const EDITING: readonly Key[] = [movesRow, undoes, pastes, fillsDown, types];

/** What a spreadsheet takes: the picked rows whole, or the one cell. */
function blockOf(
  rows: readonly BuildRow[],
  picked: ReadonlySet<string>,
  row: BuildRow | undefined,
  fields: readonly string[],
  field: string,
): string {
  const chosen = rows.filter(({ id }) => picked.has(id));
  if (chosen.length > 0)
    return chosen.map((each) => fields.map((name) => cellOf(each, name)).join('\t')).join('\n');
  return row ? cellOf(row, field) : '';
}

function blockIn(text: string): string[][] {
  return text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .map((line) => line.split('\t'));
}

const Where = styled.div`
  flex: none;
  min-height: 18px;
  font-size: 12px;
`;
