import type { WishDefinition } from '@stem-trace/core/recipes';
import { useState } from 'react';
import styled from 'styled-components';
import { BlockField } from '../../ui/block-field.js';
import { Button, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';

export interface PastedSheet {
  readonly for: string;
  readonly wishes: Readonly<Record<string, string>>;
}

export interface PasteSheetsDialogProps {
  readonly wishes: readonly WishDefinition[];
  readonly onSheets: (sheets: readonly PastedSheet[]) => void;
  readonly onClose: () => void;
}

/** Sheets from a block of cells: the first row names the wishes, `for` says who asks; every other row is a sheet. */
export function sheetsIn(block: string): PastedSheet[] {
  const [head = '', ...rows] = block.split(/\r?\n/).filter((row) => row.trim() !== '');
  const apart = head.includes('\t') ? '\t' : /[;,]/;
  const names = head.split(apart).map((name) => name.trim());
  return rows.map((row) => {
    const cells = row.split(apart).map((cell) => cell.trim());
    const said = names
      .map((name, at) => [name, cells[at] ?? ''] as const)
      .filter(([name, cell]) => name !== '' && cell !== '');
    return {
      for: said.find(([name]) => name.toLowerCase() === 'for')?.[1] ?? '',
      wishes: Object.fromEntries(said.filter(([name]) => name.toLowerCase() !== 'for')),
    };
  });
}

/** Many wish sheets at once, pasted from a spreadsheet or chosen as a file. */
export function PasteSheetsDialog({ wishes, onSheets, onClose }: PasteSheetsDialogProps): React.JSX.Element {
  const [block, type] = useState('');
  const sheets = sheetsIn(block);
  const known = new Set(wishes.flatMap(({ name, label }) => [name.toLowerCase(), label.toLowerCase()]));
  const unknown = [...new Set(sheets.flatMap((sheet) => Object.keys(sheet.wishes)))].filter(
    (name) => !known.has(name.toLowerCase()),
  );
  return (
    <DialogFrame title="Many wish sheets" widthPx={560} onClose={onClose}>
      <Fields>
        <Soft>
          Paste cells from a spreadsheet. The first row names the wishes: for,{' '}
          {wishes.map(({ name }) => name).join(', ')}.
        </Soft>
        <BlockField label="Wish sheets" value={block} onChange={type} />
        <input
          type="file"
          accept=".csv,.tsv,.txt"
          aria-label="File with wish sheets"
          onChange={(event) => void event.target.files?.[0]?.text().then(type)}
        />
        <span role="status">
          {sheets.length === 0
            ? 'No sheet yet.'
            : `${sheets.length} ${sheets.length === 1 ? 'sheet' : 'sheets'}.`}
        </span>
        {unknown.length === 0 ? null : (
          <Trouble>The recipe knows no wish called {unknown.join(', ')}.</Trouble>
        )}
        <Buttons>
          <Button onPress={onClose}>Cancel</Button>
          <PrimaryButton
            isDisabled={sheets.length === 0 || unknown.length > 0}
            onPress={() => {
              onSheets(sheets);
              onClose();
            }}
          >
            Make {sheets.length === 1 ? 'the variant' : `${sheets.length} variants`}
          </PrimaryButton>
        </Buttons>
      </Fields>
    </DialogFrame>
  );
}

const Fields = styled.div`
  display: grid;
  gap: 10px;
`;
const Buttons = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
`;
