import type { BillAnswer, BillRow, LensText } from '@stem-trace/contract';
import { CalendarRange, ClipboardCopy, Download, ListOrdered, Pencil, Replace } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { addressOf } from '../../../api/client.js';
import { AmountDialog } from '../../../frame/amount-dialog.js';
import { Button, MenuDrop, PrimaryButton, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { AlternatesDialog } from './alternates-dialog.js';
import type { BillColumn } from './bill-columns.js';
import type { BillLine } from './bill-lines.js';
import { EffectivityDialog } from './effectivity-dialog.js';
import { isEditable, type BillEdit } from './use-bill-edit.js';

export interface BillToolsProps {
  readonly bill: BillAnswer;
  readonly lines: readonly BillLine[];
  readonly columns: readonly BillColumn[];
  readonly edit: BillEdit;
  readonly lens: LensText;
  /** Where the cursor stands. */
  readonly under: BillRow | undefined;
  /** What columns there are. */
  readonly children: ReactNode;
}

/** What can be done with a BOM as it is shown. */
export function BillTools({
  bill,
  lines,
  columns,
  edit,
  lens,
  under,
  children,
}: BillToolsProps): React.JSX.Element {
  const [said, say] = useState('');
  const count = lines.filter(({ kind }) => kind === 'row').length;
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(asText(lines, columns));
    say(`${count.toLocaleString('en-GB')} rows copied; paste them into a spreadsheet.`);
  };
  if (edit.isOpen) return <Editing edit={edit} under={under} />;
  return (
    <Line>
      <Soft aria-live="polite">
        {said || `${count.toLocaleString('en-GB')} of ${bill.rows.length.toLocaleString('en-GB')} rows`}
      </Soft>
      <Gap />
      {children}
      <Effectivity under={under} />
      <Alternates bill={bill} under={under} />
      {edit.mayOpen ? (
        <Button onPress={edit.open}>
          <Pencil size={14} aria-hidden /> Edit rows
        </Button>
      ) : null}
      <Button onPress={() => void copy()}>
        <ClipboardCopy size={15} aria-hidden /> Copy as a table
      </Button>
      <Export bill={bill} columns={columns} lens={lens} />
    </Line>
  );
}

function Effectivity({ under }: Pick<BillToolsProps, 'under'>): React.JSX.Element {
  const [of, open] = useState<BillRow>();
  // A use by a bill, or what may not be seen, has none that could be said.
  const isUse = under !== undefined && under.position !== null && !under.isHidden;
  return (
    <>
      <Button isDisabled={!isUse} onPress={() => open(under)}>
        <CalendarRange size={15} aria-hidden /> When it counts …
      </Button>
      {of ? <EffectivityDialog row={of} onClose={() => open(undefined)} /> : null}
    </>
  );
}

function Alternates({ bill, under }: Pick<BillToolsProps, 'bill' | 'under'>): React.JSX.Element {
  const [of, open] = useState('');
  const isItem = under !== undefined && !under.isGap && !under.isHidden;
  return (
    <>
      <Button isDisabled={!isItem} onPress={() => open(under?.way ?? '')}>
        <Replace size={15} aria-hidden /> Alternates …
      </Button>
      {of === '' ? null : <AlternatesDialog bill={bill} way={of} onClose={() => open('')} />}
    </>
  );
}

function Editing({ edit, under }: Pick<BillToolsProps, 'edit' | 'under'>): React.JSX.Element {
  const [isAsking, ask] = useState(false);
  const row = under && isEditable(under) ? under : undefined;
  return (
    <>
      {isAsking && row ? (
        <AmountDialog
          of={row.number}
          value={edit.valueOf(row, 'amount')}
          onAnswer={(said) => edit.set(row, 'amount', said)}
          onClose={() => ask(false)}
        />
      ) : null}
      <Line>
        <Soft role="status">
          {edit.count === 0
            ? 'Find numbers, designators and quantities of the first level can be changed. Saving makes a version.'
            : `${edit.count} ${edit.count === 1 ? 'row is' : 'rows are'} changed and not saved.`}
        </Soft>
        <Gap />
        <Button isDisabled={!row} onPress={() => ask(true)}>
          Quantity in full …
        </Button>
        <Button onPress={() => void edit.propose()}>
          <ListOrdered size={15} aria-hidden /> Number the rows
        </Button>
        <PrimaryButton isDisabled={edit.count === 0} onPress={() => void edit.save()}>
          Save as a version
        </PrimaryButton>
        <QuietButton onPress={edit.close}>Discard changes</QuietButton>
      </Line>
      {edit.said === '' ? null : <Soft role="status">{edit.said}</Soft>}
      {edit.gone.length === 0 ? null : (
        <Trouble>
          No longer in the BOM, so that your changes to them are left out: {edit.gone.join(', ')}.
        </Trouble>
      )}
      {edit.trouble === '' ? null : <Trouble>{edit.trouble}</Trouble>}
    </>
  );
}

const FORMATS = [
  { key: 'xlsx', text: 'Spreadsheet (XLSX)' },
  { key: 'csv', text: 'Table (CSV)' },
  { key: 'pdf', text: 'For print (PDF)' },
  { key: 'cyclonedx', text: 'CycloneDX 1.6 (JSON)' },
  { key: 'xml', text: 'XML, with its schema beside it' },
] as const;

function Export({
  bill,
  columns,
  lens,
}: Pick<BillToolsProps, 'bill' | 'columns' | 'lens'>): React.JSX.Element {
  const address = (format: string): string =>
    addressOf('/api/bill/file', {
      ...{ item: `${bill.item.number}@${bill.item.version}`, lens, flat: bill.isFlat, format },
      columns: columns.map(({ key }) => key).join(';'),
    });
  return (
    <MenuTrigger>
      <Button aria-label="Export">
        <Download size={15} aria-hidden />
      </Button>
      <MenuDrop>
        <Menu aria-label="Export as">
          {FORMATS.map(({ key, text }) => (
            <MenuItem key={key} href={address(key)} download="">
              {text}
            </MenuItem>
          ))}
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

/** Rows as a spreadsheet takes them, with their level. */
function asText(lines: readonly BillLine[], columns: readonly BillColumn[]): string {
  const clean = (text: string): string => text.replace(/[\t\n\r]+/g, ' ');
  return [
    ['Level', ...columns.map(({ title }) => title)],
    ...lines.map((line) =>
      line.kind === 'head'
        ? ['', line.value, line.says]
        : [String(line.row.level), ...columns.map(({ text }) => text(line.row))],
    ),
  ]
    .map((cells) => cells.map(clean).join('\t'))
    .join('\n');
}

const Line = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px 12px;
`;
const Gap = styled.span`
  flex: 1;
`;
