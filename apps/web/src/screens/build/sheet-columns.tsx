/** What the sheet of a bill shows: cells, with what they said before. */
import {
  cellOf,
  ROW_FIELDS,
  sayAmount,
  type BillChanges,
  type BuildColumn,
  type BuildRow,
} from '@stem-trace/core';
import styled from 'styled-components';
import { Mono } from '../../ui/controls.js';
import { SIGN } from '../../ui/glyphs.js';
import type { GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { DragHandle, DropOver, type Dragging } from './row-drag.js';
import { CellEditor, Shown } from './sheet-cell.js';

/** The cell that keys go to. */
export interface ActiveCell {
  readonly id: string;
  readonly field: string;
}

/** A cell that is being typed into. */
export interface EditedCell extends ActiveCell {
  readonly first: string;
}

export interface SheetState {
  readonly columns: readonly BuildColumn[];
  readonly active: ActiveCell | undefined;
  readonly edited: EditedCell | undefined;
  readonly changes: BillChanges;
  readonly put: (cell: ActiveCell) => void;
  readonly edit: (cell: EditedCell) => void;
  readonly keep: (cell: ActiveCell, text: string, move: 'down' | 'right' | 'left' | 'stay') => void;
  readonly leave: () => void;
  /** Absent where rows cannot be moved. */
  readonly dragging: Dragging | undefined;
  /** Rows that the one on its way cannot be dropped on. */
  readonly closed: ReadonlySet<string>;
}

/** Headings of the fields that every row has, with their widths. */
const FIELDS: Readonly<
  Record<(typeof ROW_FIELDS)[number], { readonly title: string; readonly width: string }>
> = {
  find: { title: 'Find', width: '62px' },
  number: { title: 'Number', width: 'minmax(126px, 0.8fr)' },
  name: { title: 'Name', width: 'minmax(140px, 1.4fr)' },
  amount: { title: 'Quantity', width: '126px' },
  designators: { title: 'Designators', width: '84px' },
};

/** Fields in the order in which they stand. */
export function fieldsOf(columns: readonly BuildColumn[]): string[] {
  return [...ROW_FIELDS, ...columns.map(({ id }) => id)];
}

/** Whether something can be typed into a cell. */
export function mayType(row: BuildRow, field: string): boolean {
  return field === 'number' ? false : field === 'name' ? row.kind === 'text' : true;
}

export function sheetColumns(state: SheetState): GridColumn<BuildRow>[] {
  return [
    {
      key: 'mark',
      title: '',
      width: state.dragging ? '46px' : '26px',
      align: 'center',
      cell: (row) => (
        <>
          {state.dragging ? <DragHandle row={row} dragging={state.dragging} /> : null}
          <RowMark row={row} changes={state.changes} />
          {state.dragging && state.dragging.id !== '' && !state.closed.has(row.id) ? (
            <DropOver row={row} dragging={state.dragging} />
          ) : null}
        </>
      ),
    },
    ...ROW_FIELDS.map((field): GridColumn<BuildRow> => ({
      key: field,
      ...FIELDS[field],
      ...(field === 'amount' ? { align: 'right' as const } : {}),
      cell: (row) => <SheetCell {...{ row, field, state }} title={FIELDS[field].title} />,
    })),
    ...state.columns.map((column): GridColumn<BuildRow> => ({
      key: column.id,
      title: column.unit === '' ? column.name : `${column.name} (${column.unit})`,
      width: 'minmax(70px, 0.8fr)',
      ...(column.type === 'number' ? { align: 'right' as const } : {}),
      cell: (row) => (
        <SheetCell {...{ row, state }} field={column.id} title={column.name} choices={column.choices} />
      ),
    })),
  ];
}

function RowMark({
  row,
  changes,
}: {
  readonly row: BuildRow;
  readonly changes: BillChanges;
}): React.JSX.Element | null {
  const change = changes.rows.get(row.id)?.change ?? 'same';
  if (change === 'same') return null;
  const { mark, ink } = SIGN[change === 'divided' ? 'changed' : change];
  return (
    <Sign style={{ color: ink }} title={change} role="img" aria-label={change}>
      {change === 'divided' ? '÷' : mark}
    </Sign>
  );
}

interface SheetCellProps {
  readonly row: BuildRow;
  readonly field: string;
  readonly title: string;
  readonly state: SheetState;
  readonly choices?: readonly string[];
}

function SheetCell({ row, field, title, state, choices = [] }: SheetCellProps): React.JSX.Element {
  const { active, edited, changes, put, edit, keep, leave } = state;
  const cell = { id: row.id, field };
  if (edited?.id === row.id && edited.field === field)
    return (
      <CellEditor
        label={`${title} of ${row.number || row.name}`}
        first={edited.first}
        choices={choices}
        onKeep={(text, move) => keep(cell, text, move)}
        onLeave={leave}
      />
    );
  const was = changes.rows.get(row.id)?.was[field];
  const isActive = active?.id === row.id && active.field === field;
  return (
    <Shown
      data-active={isActive || undefined}
      data-changed={was === undefined ? undefined : true}
      data-align={field === 'amount' ? 'right' : undefined}
      title={was === undefined ? undefined : `before: ${was === '' ? 'empty' : was}`}
      onMouseDown={() => put(cell)}
      onDoubleClick={() => {
        if (mayType(row, field)) edit({ ...cell, first: cellOf(row, field) });
      }}
    >
      <CellText {...{ row, field }} />
      {was !== undefined && was !== '' ? <s>{was}</s> : null}
    </Shown>
  );
}

function CellText({ row, field }: Pick<SheetCellProps, 'row' | 'field'>): React.JSX.Element {
  if (field === 'number')
    return (
      <Number style={{ paddingLeft: (row.level - 1) * 16 }}>
        {row.kind === 'text' ? <i>text</i> : <Mono>{row.number}</Mono>}
        {row.isPhantom ? (
          <Tag title="Nobody stocks it: its rows are taken to where it is used">phantom</Tag>
        ) : null}
        {row.isWhole ? <Tag title="Comes in one piece: its rows are not listed">in one piece</Tag> : null}
      </Number>
    );
  if (field === 'name') return <MiddleCut text={row.name} />;
  if (field === 'amount') return <Mono>{sayAmount(row.amount)}</Mono>;
  return <Mono title={cellOf(row, field)}>{cellOf(row, field)}</Mono>;
}

const Sign = styled.span`
  font-weight: 700;
`;
const Number = styled.span`
  display: flex;
  gap: 6px;
  align-items: center;
`;
const Tag = styled.span`
  font-size: 11px;
  border: 1px solid currentColor;
  border-radius: 3px;
  padding: 0 4px;
  opacity: 0.75;
`;
