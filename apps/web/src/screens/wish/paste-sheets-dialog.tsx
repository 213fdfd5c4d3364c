import {
  columnOf,
  delimiterOf,
  headKey,
  sheetsOf,
  type KnownColumns,
  type SheetColumn,
  type TableSheet,
} from '@stem-trace/core';
import type { WishDefinition } from '@stem-trace/core/recipes';
import { parse } from 'csv-parse/browser/esm/sync';
import { useState } from 'react';
import styled from 'styled-components';
import { BlockField } from '../../ui/block-field.js';
import { Button, Pick, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../ui/dialog-frame.js';
import { isTexts } from '../../ui/draft.js';
import { useKept } from '../../ui/kept.js';

export interface PasteSheetsDialogProps {
  /** Number of the recipe: what its columns are called is kept with it. */
  readonly recipe: string;
  readonly wishes: readonly WishDefinition[];
  readonly onSheets: (sheets: readonly TableSheet[]) => void;
  readonly onClose: () => void;
}

interface ReadSheets {
  readonly heads: readonly { readonly head: string; readonly column: SheetColumn | undefined }[];
  readonly sheets: readonly TableSheet[];
  /** What is wrong with the table as such; empty where nothing is. */
  readonly trouble: string;
}

/** Sheets from a table (RFC 4180, or cells of a spreadsheet): the first row names the wishes, every other row is a sheet. */
export function readSheets(
  table: string,
  wishes: readonly WishDefinition[],
  known: KnownColumns = {},
): ReadSheets {
  let rows: string[][];
  try {
    rows = parse(table, {
      ...{ delimiter: delimiterOf(table), bom: true, skip_empty_lines: true },
      ...{ relax_column_count: true, relax_quotes: true },
    });
  } catch (error) {
    const says = error instanceof Error ? error.message : String(error);
    return { heads: [], sheets: [], trouble: `This is no table: ${says}.` };
  }
  const [first = [], ...rest] = rows;
  const heads = first.map((head) => ({ head: head.trim(), column: columnOf(head, wishes, known) }));
  const sheets = sheetsOf(
    rest,
    heads.map(({ column }) => column),
  );
  const meant = heads.flatMap(({ column }) => (typeof column === 'object' ? column.wish : []));
  const twice = meant.find((wish, at) => meant.indexOf(wish) !== at);
  return {
    ...{ heads, sheets },
    trouble: twice === undefined ? '' : `Two columns say ${twice}. Leave one of them out.`,
  };
}

/** Many wish sheets at once, pasted from a spreadsheet or chosen as a file; what a column is called is said once. */
export function PasteSheetsDialog({
  recipe,
  wishes,
  onSheets,
  onClose,
}: PasteSheetsDialogProps): React.JSX.Element {
  const [table, type] = useState('');
  const [known, keepKnown] = useKept<KnownColumns>(`wish columns ${recipe}`, isTexts, NONE);
  const { heads, sheets, trouble } = readSheets(table, wishes, known);
  const isUnclear = heads.some(({ column }) => column === undefined);
  return (
    <DialogFrame title="Many wish sheets" widthPx={560} onClose={onClose}>
      <Fields>
        <Soft>
          Paste cells from a spreadsheet. The first row names the wishes: for,{' '}
          {wishes.map(({ name }) => name).join(', ')}.
        </Soft>
        <BlockField label="Wish sheets" value={table} onChange={type} />
        <input
          type="file"
          accept=".csv,.tsv,.txt"
          aria-label="File with wish sheets"
          onChange={(event) => void event.target.files?.[0]?.text().then(type)}
        />
        <Columns
          {...{ heads, wishes, known }}
          onSay={(head, wish) => keepKnown((before) => ({ ...before, [headKey(head)]: wish }))}
        />
        <span role="status">
          {sheets.length === 0
            ? 'No sheet yet.'
            : `${sheets.length} ${sheets.length === 1 ? 'sheet' : 'sheets'}.`}
        </span>
        {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
        <DialogButtons>
          <Button onPress={onClose}>Cancel</Button>
          <PrimaryButton
            isDisabled={sheets.length === 0 || isUnclear || trouble !== ''}
            onPress={() => {
              onSheets(sheets);
              onClose();
            }}
          >
            Make {sheets.length === 1 ? 'the variant' : `${sheets.length} variants`}
          </PrimaryButton>
        </DialogButtons>
      </Fields>
    </DialogFrame>
  );
}

const NONE: KnownColumns = {};

/** Not yet said what a column is. */
const UNSAID = 'unsaid';

interface ColumnsProps {
  readonly heads: ReadSheets['heads'];
  readonly wishes: readonly WishDefinition[];
  readonly known: KnownColumns;
  readonly onSay: (head: string, wish: string) => void;
}

/** Columns whose heads the recipe does not know, and those that somebody has said the meaning of. */
function Columns({ heads, wishes, known, onSay }: ColumnsProps): React.JSX.Element | null {
  const asked = heads.filter(
    ({ head, column }) => head !== '' && (column === undefined || Object.hasOwn(known, headKey(head))),
  );
  if (asked.length === 0) return null;
  return (
    <Line role="group" aria-label="Columns">
      {asked.map(({ head, column }, at) => (
        <Pick
          key={`${at} ${head}`}
          label={`Column “${head}” is`}
          value={column === undefined ? UNSAID : (known[headKey(head)] ?? UNSAID)}
          options={[
            ...(column === undefined ? [{ key: UNSAID, text: 'choose …' }] : []),
            ...wishes.map(({ name, label }) => ({ key: name, text: label || name })),
            { key: 'for', text: 'who asks' },
            { key: '', text: 'left out' },
          ]}
          onChange={(wish) => wish !== UNSAID && onSay(head, wish)}
        />
      ))}
    </Line>
  );
}

const Fields = styled.div`
  display: grid;
  gap: 10px;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
`;
