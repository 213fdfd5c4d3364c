import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { recipeQuery } from '../../api/wish.js';
import { useChangeSearch } from '../../frame/addresses.js';
import { usePerson } from '../../frame/person.js';
import { Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { RecipeEditor } from './recipe-editor.js';
import { RecipesList } from './recipes-list.js';
import { SheetsTable } from './sheets-table.js';
import { WishForm } from './wish-form.js';

const VIEWS = [
  { key: 'ask', text: 'Wishes' },
  { key: 'sheets', text: 'Sheets' },
  { key: 'rules', text: 'Recipe' },
] as const;
type View = (typeof VIEWS)[number]['key'];

/** From wishes to variants: all recipes, or one of them. */
export function WishScreen(): React.JSX.Element {
  const [search] = useSearchParams();
  const recipe = search.get('recipe') ?? '';
  return recipe === '' ? <RecipesList /> : <OneRecipe key={recipe} item={recipe} />;
}

function OneRecipe({ item }: { readonly item: string }): React.JSX.Element {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const { login } = usePerson();
  const view = VIEWS.find(({ key }) => key === search.get('view'))?.key ?? 'ask';
  const { data, error } = useQuery(recipeQuery(item));
  if (!data)
    return error ? <Trouble>{error.message}</Trouble> : <Hint role="status">Reading the recipe …</Hint>;
  const { number, name, version, heldBy, recipe } = data;
  return (
    <>
      <Line>
        <h1>
          <Mono>{number}</Mono> {name}
        </h1>
        <Soft>
          <Mono>{version}</Mono>, variants of <Mono>{recipe.of}</Mono>
        </Soft>
        {heldBy ? <HolderTag holder={heldBy} /> : null}
        <Choice<View> label="View" options={VIEWS} value={view} onChange={(next) => change({ view: next })} />
      </Line>
      {view === 'ask' ? <WishForm recipe={data} onOrdered={() => change({ view: 'sheets' })} /> : null}
      {view === 'sheets' ? <SheetsTable recipe={number} /> : null}
      {view === 'rules' ? <RecipeEditor key={version} view={data} isMine={heldBy?.login === login} /> : null}
    </>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  h1 {
    margin: 0;
  }
`;
