import type { RecipeSummary } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Plus } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { recipesQuery } from '../../api/wish.js';
import { wishAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { nameColumn, numberColumn, versionColumn } from '../../frame/item-columns.js';
import { itemField } from '../../frame/item-field.js';
import { PlacePicker } from '../../frame/place-picker.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Hint, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { useTable } from '../../ui/use-table.js';

const COLUMNS: readonly GridColumn<RecipeSummary>[] = [
  numberColumn('minmax(130px, 0.8fr)', ({ state }) => state),
  nameColumn('minmax(150px, 1.2fr)', ({ name }) => name),
  versionColumn(),
  {
    key: 'of',
    title: 'Variants of',
    width: 'minmax(170px, 1.2fr)',
    sortBy: ({ of }) => of,
    cell: ({ of, ofName }) =>
      of === '' ? (
        <Soft>not visible to you</Soft>
      ) : (
        <>
          <Mono>{of}</Mono> <MiddleCut text={ofName} />
        </>
      ),
  },
  {
    key: 'made',
    title: 'Variants made',
    width: '110px',
    align: 'right',
    sortBy: ({ made }) => made,
    cell: ({ made }) => made,
  },
  {
    key: 'held',
    title: 'Held by',
    width: '80px',
    sortBy: ({ heldBy }) => heldBy?.name ?? '',
    cell: ({ heldBy }) => (heldBy ? <HolderTag holder={heldBy} /> : null),
  },
];

/** All recipes. */
export function RecipesList(): React.JSX.Element {
  const recipes = useQuery(recipesQuery);
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const [isMaking, make] = useState(false);
  const table = useTable('recipes', recipes.data ?? [], COLUMNS);
  const cursor = useGridCursor(table.rows, ({ number }) => number);
  const under = cursor.row?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Line>
        <h1>Recipes: {recipes.data?.length ?? '…'}</h1>
        <PrimaryButton onPress={() => make(true)}>
          <Plus size={15} aria-hidden /> New recipe …
        </PrimaryButton>
      </Line>
      {recipes.error ? <Trouble>{recipes.error.message}</Trouble> : null}
      {recipes.data?.length === 0 ? (
        <Hint>
          A recipe says what wishes do to a variant: a longer arm is swapped in, the heater is left out, the
          number follows. Whoever asks for a station fills in its wish sheet, and the variant is made and
          proved. Begin with New recipe.
        </Hint>
      ) : null}
      <Grid
        label="Recipes"
        {...table.grid}
        cursor={cursor}
        onOpen={({ number }) => void navigate(wishAddress(number))}
        takesFocus
      />
      {isMaking ? <NewRecipeDialog onClose={() => make(false)} /> : null}
    </>
  );
}

function NewRecipeDialog({ onClose }: { readonly onClose: () => void }): React.JSX.Element {
  const navigate = useNavigate();
  return (
    <AskDialog
      title="New recipe"
      action="Make the recipe"
      fields={[
        itemField('item', 'Variants of'),
        { key: 'number', label: 'Number of the recipe', value: '' },
        { key: 'name', label: 'Name', value: '' },
        {
          key: 'place',
          label: 'Place',
          value: '',
          render: (value, onChange) => (
            <PlacePicker label="Place" value={value} placeholder="where the item is" onChange={onChange} />
          ),
        },
      ]}
      onAnswer={async ({ item = '', number = '', name = '', place = '' }) => {
        await send('POST', '/api/recipes', { item, number, name, place });
        await navigate(`${wishAddress(number)}&view=rules`);
      }}
      onClose={onClose}
    />
  );
}

const Line = styled.div`
  display: flex;
  gap: 16px;
  align-items: center;
  h1 {
    margin: 0;
  }
`;
