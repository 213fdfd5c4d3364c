import { effectiveLens, type BillSummary } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Plus } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { billsQuery } from '../../api/build.js';
import { send } from '../../api/client.js';
import { baselineChoices, baselinesQuery } from '../../api/issued.js';
import { buildAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { nameColumn, numberColumn, versionColumn } from '../../frame/item-columns.js';
import { itemField } from '../../frame/item-field.js';
import { today } from '../../frame/lens-choice.js';
import { PlacePicker } from '../../frame/place-picker.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Hint, Mono, Pick, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<BillSummary>[] = [
  numberColumn('minmax(130px, 0.8fr)', ({ state }) => state),
  nameColumn('minmax(150px, 1.2fr)', ({ name }) => name),
  versionColumn(),
  {
    key: 'for',
    title: 'For',
    width: 'minmax(170px, 1.2fr)',
    sortBy: ({ forNumber }) => forNumber,
    cell: ({ forNumber, forName }) =>
      forNumber === '' ? (
        <Soft>not visible to you</Soft>
      ) : (
        <>
          <Mono>{forNumber}</Mono> <MiddleCut text={forName} />
        </>
      ),
  },
  {
    key: 'releases',
    title: 'Releases',
    width: '86px',
    align: 'right',
    sortBy: ({ releases }) => releases,
    cell: ({ releases }) => releases,
  },
  {
    key: 'held',
    title: 'Held by',
    width: '80px',
    sortBy: ({ heldBy }) => heldBy?.name ?? '',
    cell: ({ heldBy }) => (heldBy ? <HolderTag holder={heldBy} /> : null),
  },
  {
    key: 'changed',
    title: 'Changed',
    width: '110px',
    sortBy: ({ changedAt }) => changedAt,
    cell: ({ changedAt, changedBy }) => (
      <Soft title={changedBy}>
        <When at={changedAt} />
      </Soft>
    ),
  },
];

export function BillsList(): React.JSX.Element {
  const bills = useQuery(billsQuery);
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const [isMaking, make] = useState(false);
  const table = useTable('bills', bills.data ?? [], COLUMNS);
  const cursor = useGridCursor(table.rows, ({ number }) => number);
  const under = cursor.row?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Line>
        <h1>Bills: {bills.data?.length ?? '…'}</h1>
        <PrimaryButton onPress={() => make(true)}>
          <Plus size={15} aria-hidden /> New bill …
        </PrimaryButton>
      </Line>
      {bills.error ? <Trouble>{bills.error.message}</Trouble> : null}
      {bills.data?.length === 0 ? (
        <Hint>
          A bill is a manufacturing BOM: it is taken from an engineering BOM, gets rows of its own (adhesive,
          labels, packing), and follows engineering when that moves on. Begin with New bill.
        </Hint>
      ) : null}
      <Grid
        label="Bills"
        {...table.grid}
        cursor={cursor}
        onOpen={({ number }) => void navigate(buildAddress(number))}
        takesFocus
      />
      {isMaking ? <NewBillDialog onClose={() => make(false)} /> : null}
    </>
  );
}

function NewBillDialog({ onClose }: { readonly onClose: () => void }): React.JSX.Element {
  const navigate = useNavigate();
  return (
    <AskDialog
      title="New bill"
      action="Make the bill"
      fields={[
        itemField('item', 'Assembly'),
        {
          key: 'lens',
          label: 'Versions taken',
          value: 'newest',
          render: (value, onChange, { item = '' }) => <TakenVersions {...{ item, value, onChange }} />,
        },
        { key: 'number', label: 'Number of the bill', value: '' },
        { key: 'name', label: 'Name', value: '' },
        {
          key: 'place',
          label: 'Place',
          value: '',
          render: (value, onChange) => (
            <PlacePicker
              label="Place (empty: beside the assembly)"
              width="100%"
              value={value}
              onChange={onChange}
            />
          ),
        },
      ]}
      onAnswer={async ({ item = '', lens = '', number = '', name = '', place = '' }) => {
        const made = await send('POST', '/api/bills', { item, lens, number, name, place });
        void navigate(buildAddress(made.number));
      }}
      onClose={onClose}
    />
  );
}

const TAKEN = [
  { key: 'newest', text: 'the newest of each part' },
  { key: 'released', text: 'the newest released of each part' },
  { key: 'recorded', text: 'as recorded' },
] as const;

interface TakenVersionsProps {
  readonly item: string;
  readonly value: string;
  readonly onChange: (lens: string) => void;
}

/** Which versions a bill is taken with: by a lens, what is in effect today, or what a release of the assembly froze. */
function TakenVersions({ item, value, onChange }: TakenVersionsProps): React.JSX.Element {
  const baselines = useQuery(baselinesQuery(item)).data ?? [];
  const inEffect = effectiveLens({ kind: 'day', day: today() });
  return (
    <Pick
      label="Versions taken"
      value={value}
      options={[...TAKEN, { key: inEffect, text: 'what is in effect today' }, ...baselineChoices(baselines)]}
      onChange={onChange}
    />
  );
}

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  h1 {
    margin: 0;
    font-size: 16px;
    flex: 1;
  }
`;
