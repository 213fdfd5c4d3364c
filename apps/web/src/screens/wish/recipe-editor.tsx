import type { RecipeView } from '@stem-trace/contract';
import type { Recipe, RecipeProblem } from '@stem-trace/core/recipes';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { checkQuery } from '../../api/wish.js';
import { Button, Choice, Field, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { ExampleRows, RuleRows, WishRows } from './recipe-rows.js';
import { endingOf, withEnding } from './recipe-edit.js';
import { Tick } from '../../ui/tick.js';

export interface RecipeEditorProps {
  readonly view: RecipeView;
  /** Whether the person holds it. */
  readonly isMine: boolean;
}

const WAYS = [
  { key: 'rows', text: 'As rows' },
  { key: 'text', text: 'As text' },
] as const;
type Way = (typeof WAYS)[number]['key'];

/** A recipe in rows or as text, checked while it is typed; whoever holds it saves it as a new version. */
export function RecipeEditor({ view, isMine }: RecipeEditorProps): React.JSX.Element {
  const [recipe, change] = useState<Recipe>(view.recipe);
  const [way, look] = useState<Way>('rows');
  const [comment, say] = useState('');
  const queries = useQueryClient();
  const checked = useDeferredValue(recipe);
  const check = useQuery(checkQuery(checked));
  const problems = check.data ?? view.problems;
  const save = useMutation({
    mutationFn: () =>
      send('PUT', '/api/recipe', { item: view.number, version: view.version, recipe, comment }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['item'] }),
  });
  const hold = useMutation({
    mutationFn: () => send('POST', '/api/holds', { items: [view.number], reason: 'rules' }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const isChanged = recipe !== view.recipe;
  return (
    <Sheet>
      <Line>
        <Choice<Way> label="Way of writing" options={WAYS} value={way} onChange={look} />
        {isMine ? (
          <>
            <Field label="What changed" value={comment} onChange={say} width="220px" />
            <PrimaryButton isDisabled={!isChanged || save.isPending} onPress={() => save.mutate()}>
              Save the recipe
            </PrimaryButton>
          </>
        ) : (
          <Button onPress={() => hold.mutate()}>Check out to change it</Button>
        )}
        <Soft role="status">{sayProblems(problems, check.error)}</Soft>
      </Line>
      {save.error ? <Trouble>{save.error.message}</Trouble> : null}
      {hold.error ? <Trouble>{hold.error.message}</Trouble> : null}
      {way === 'text' ? (
        <AsText recipe={recipe} onChange={change} />
      ) : (
        <>
          <WishRows {...{ recipe, problems }} onChange={change} />
          <RuleRows {...{ recipe, problems }} onChange={change} />
          <NamesAndPlace recipe={recipe} onChange={change} />
          <ExampleRows {...{ recipe, problems }} onChange={change} />
        </>
      )}
    </Sheet>
  );
}

interface PartProps {
  readonly recipe: Recipe;
  readonly onChange: (recipe: Recipe) => void;
}

function NamesAndPlace({ recipe, onChange }: PartProps): React.JSX.Element {
  return (
    <section>
      <h2>Names and place</h2>
      <Line>
        <Field
          label="Behind the numbers of copies"
          value={endingOf(recipe)}
          onChange={(text) => onChange(withEnding(recipe, text))}
          width="260px"
          mono
        />
        <Field
          label="Place of a variant"
          value={recipe.place}
          onChange={(place) => onChange({ ...recipe, place })}
          width="340px"
          mono
        />
      </Line>
      <Tick isSelected={recipe.sendsOn} onChange={(sendsOn) => onChange({ ...recipe, sendsOn })}>
        Send what is made and holds together on to checking
      </Tick>
      <Soft>{'{arm to cm} stands for the value of an expression.'}</Soft>
    </section>
  );
}

function sayProblems(problems: readonly RecipeProblem[], error: Error | null): string {
  if (error) return error.message;
  if (problems.length === 0) return 'Nothing is wrong with it; its examples hold.';
  return `${problems.length} ${problems.length === 1 ? 'thing is' : 'things are'} wrong.`;
}

function AsText({ recipe, onChange }: PartProps): React.JSX.Element {
  const [text, type] = useState(() => JSON.stringify(recipe, null, 2));
  const [trouble, setTrouble] = useState('');
  return (
    <>
      <Text
        aria-label="The recipe as JSON"
        value={text}
        spellCheck={false}
        onChange={({ target: { value } }) => {
          type(value);
          try {
            onChange(JSON.parse(value) as Recipe);
            setTrouble('');
          } catch (error) {
            setTrouble(error instanceof Error ? error.message : String(error));
          }
        }}
      />
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
    </>
  );
}

const Sheet = styled.div`
  display: grid;
  gap: 18px;
  overflow: auto;
  align-content: start;
  h2 {
    margin: 0 0 6px;
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
`;
const Text = styled.textarea`
  min-height: 460px;
  font-family: var(--mono);
  font-size: 12.5px;
  background: ${colour.raised};
  color: ${colour.ink};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 10px;
`;
