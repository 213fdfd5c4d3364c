import type { BillAnswer, BillRow, LensText } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { billQuery } from '../../../api/bom.js';
import { propertiesQuery } from '../../../api/properties.js';
import { traceAddress, useChangeSearch, useLens } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { ColumnsPick, useShownColumns } from '../../../ui/columns-pick.js';
import { Box, Choice, Hint, Pick, Soft, Trouble } from '../../../ui/controls.js';
import { EditCell } from '../../../ui/edit-cell.js';
import { AttentionMark } from '../../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../../ui/grid.js';
import { sortedBy, useHeadings } from '../../../ui/use-table.js';
import { billColumns, choosable, FIRST_COLUMNS, propertiesOf } from './bill-columns.js';
import { linesOf, type BillLine } from './bill-lines.js';
import { BillTools } from './bill-tools.js';
import { ColumnSets } from './column-sets.js';
import { isEditable, useBillEdit, type BillEdit, type EditedField } from './use-bill-edit.js';

/** The BOM of an item: level by level, or parts only, with everything multiplied. */
export function BillView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [lens] = useLens();
  const [search] = useSearchParams();
  const flat = search.get('parts') === 'alone';
  const [shown, show] = useShownColumns('bill', FIRST_COLUMNS);
  const properties = useMemo(() => propertiesOf(shown), [shown]);
  const answer = useQuery(billQuery({ item: focus, lens, flat, columns: properties }));
  if (answer.error && !answer.data) return <Trouble>{answer.error.message}</Trouble>;
  if (!answer.data) return <Hint role="status">Reading the BOM …</Hint>;
  return (
    <>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      <BillTable key={`${focus} ${lens} ${flat}`} {...{ bill: answer.data, lens, shown }} onShow={show} />
    </>
  );
}

interface BillTableProps {
  readonly bill: BillAnswer;
  readonly lens: LensText;
  readonly shown: ReadonlySet<string>;
  readonly onShow: (columns: ReadonlySet<string>) => void;
}

const LEVELS = ['1', '2', '3', 'all'] as const;

function BillTable({ bill, lens, shown, onShow }: BillTableProps): React.JSX.Element {
  const edit = useBillEdit(bill);
  const [words, seek] = useState('');
  const [levels, showLevels] = useState<(typeof LEVELS)[number]>('all');
  const [group, groupBy] = useState('');
  const [under, setUnder] = useState<BillRow>();
  const values = useMemo(() => billColumns(shown), [shown]);
  const headings = useHeadings('bill', values);
  const { sort } = headings;
  const lines = useMemo(
    () =>
      linesOf(sortedBy(bill.rows, values, sort), {
        words,
        levels: levels === 'all' ? Infinity : Number(levels),
        group: values.find(({ key }) => key === group),
      }),
    [bill, values, sort, words, levels, group],
  );
  return (
    <>
      <Line>
        <FlatChoice isFlat={bill.isFlat} />
        {bill.isFlat ? null : (
          <Choice
            label="Levels shown"
            options={LEVELS.map((key) => ({ key, text: key === 'all' ? 'all levels' : key }))}
            value={levels}
            onChange={showLevels}
          />
        )}
        <Seek
          aria-label="Filter"
          placeholder="Filter"
          value={words}
          onChange={(event) => seek(event.target.value)}
        />
        <Pick
          label="Groups"
          options={[
            { key: '', text: 'no groups' },
            ...values.map(({ key, title }) => ({ key, text: `by ${title.toLowerCase()}` })),
          ]}
          value={group}
          onChange={groupBy}
        />
      </Line>
      <BillTools {...{ bill, lines, edit, lens, under }} columns={values}>
        <ColumnSets shown={shown} onShow={onShow} />
        <Chosen shown={shown} onShow={onShow} />
      </BillTools>
      <Faults bill={bill} />
      <BillGrid {...{ lines, lens, edit }} headings={headings.grid} onCursor={setUnder} />
    </>
  );
}

function FlatChoice({ isFlat }: { readonly isFlat: boolean }): React.JSX.Element {
  const change = useChangeSearch();
  return (
    <Choice
      label="Rows of the BOM"
      options={[
        { key: 'levels', text: 'Level by level' },
        { key: 'alone', text: 'Parts only' },
      ]}
      value={isFlat ? 'alone' : 'levels'}
      onChange={(key) => change({ parts: key === 'alone' ? 'alone' : '' })}
    />
  );
}

type ShownProps = Omit<BillTableProps, 'bill' | 'lens'>;

function Chosen({ shown, onShow }: ShownProps): React.JSX.Element {
  const known = useQuery(propertiesQuery).data?.definitions ?? [];
  return <ColumnsPick of={choosable(known.map(({ name }) => name))} shown={shown} onShow={onShow} />;
}

/** Find numbers and designators that cannot be right; the first few, the others on request. */
function Faults({ bill: { faults } }: { readonly bill: BillAnswer }): React.JSX.Element | null {
  if (faults.length === 0) return null;
  return (
    <Wrong>
      <summary>
        <AttentionMark>
          {faults.length} {faults.length === 1 ? 'thing' : 'things'} to look at
        </AttentionMark>{' '}
        <Soft>
          {faults[0]?.number}: {faults[0]?.says}
        </Soft>
      </summary>
      <ul>
        {faults.map(({ number, says }) => (
          <li key={`${number} ${says}`}>
            {number}: {says}
          </li>
        ))}
      </ul>
    </Wrong>
  );
}

interface BillGridProps {
  readonly lines: readonly BillLine[];
  readonly lens: LensText;
  readonly edit: BillEdit;
  readonly headings: ReturnType<typeof useHeadings<BillRow>>['grid'];
  readonly onCursor: (row: BillRow | undefined) => void;
}

function BillGrid({ lines, lens, edit, headings, onCursor }: BillGridProps): React.JSX.Element {
  const desk = useDesk();
  const { pointAt } = desk;
  const navigate = useNavigate();
  const cursor = useGridCursor(lines, keyOf);
  const row = cursor.row?.kind === 'row' ? cursor.row.row : undefined;
  const under = row ? referenceOf(row) : '';
  useEffect(() => pointAt(under), [pointAt, under]);
  useEffect(() => onCursor(row), [onCursor, row]);
  const { columns, sort, onSort, onResize } = headings;
  return (
    <Grid
      label="Bill of materials"
      columns={useMemo(() => columns.map((column) => lineColumn(column, edit)), [columns, edit])}
      {...(sort ? { sort } : {})}
      {...{ onSort, onResize, cursor }}
      levelOf={(line) => (line.kind === 'row' ? line.row.level : 1)}
      headOf={(line) => (line.kind === 'head' ? <Head line={line} /> : undefined)}
      onOpen={(line) => {
        if (line.kind === 'row' && referenceOf(line.row) !== '')
          void navigate(traceAddress(referenceOf(line.row), lens, 'bill'));
      }}
      onPick={(line) => {
        if (line.kind === 'row' && referenceOf(line.row) !== '') desk.toggleInTray(line.row);
      }}
      isPicked={(line) => line.kind === 'row' && desk.isInTray(line.row.number)}
      takesFocus
    />
  );
}

const EDITED: Readonly<Record<string, EditedField>> = {
  find: 'find',
  amount: 'amount',
  designators: 'designators',
};

/** While somebody edits, what can be said anew is a field; only of the rows that the item itself has. */
function lineColumn(column: GridColumn<BillRow>, edit: BillEdit): GridColumn<BillLine> {
  const { sortBy: _, cell, ...rest } = column;
  const field = EDITED[column.key];
  return {
    ...rest,
    cell: (line, index) => {
      if (line.kind === 'head') return null;
      const { row } = line;
      if (!edit.isOpen || !field || !isEditable(row)) return cell(row, index);
      return (
        <EditCell
          mono
          label={`${column.title} of ${row.number}`}
          value={edit.valueOf(row, field)}
          onCommit={(value) => edit.set(row, field, value)}
        />
      );
    },
  };
}

function Head({ line }: { readonly line: Extract<BillLine, { kind: 'head' }> }): React.JSX.Element {
  return (
    <>
      {line.value} <Soft>{line.says}</Soft>
    </>
  );
}

function keyOf(line: BillLine): string {
  return line.kind === 'row' ? line.row.way : `head ${line.value}`;
}

function referenceOf({ number, version, isGap, isHidden }: BillRow): string {
  return isGap || isHidden ? '' : `${number}@${version}`;
}

const Line = styled.div`
  display: flex;
  align-items: end;
  flex-wrap: wrap;
  gap: 8px 12px;
`;
const Seek = styled(Box)`
  width: 150px;
`;
const Wrong = styled.details`
  flex: none;
  summary {
    cursor: default;
  }
  ul {
    margin: 6px 0;
    max-height: 120px;
    overflow: auto;
  }
`;
