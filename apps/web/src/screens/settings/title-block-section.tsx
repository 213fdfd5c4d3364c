import { useQuery, useQueryClient } from '@tanstack/react-query';
import { FIELD_MEANINGS, type FieldMeaning, type TitleBlockRule } from '@stem-trace/core';
import { X } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { titleBlockQuery } from '../../api/properties.js';
import { Button, Field, Hint, Pick, PrimaryButton, QuietButton, Trouble } from '../../ui/controls.js';

const MEANINGS: Readonly<Record<FieldMeaning, string>> = {
  number: 'number of the drawing',
  name: 'name of the drawing',
  description: 'description',
  depicts: 'number of what it shows',
  'drawn by': 'who drew it',
  'drawn on': 'the day it was drawn',
  checked: 'who checked it, or when',
  property: 'a property',
  nothing: 'nothing, ignore it',
};

/** Whether a field of this meaning becomes a property, which may be called otherwise than the field. */
const isProperty = (means: FieldMeaning): boolean =>
  ['property', 'drawn by', 'drawn on', 'checked'].includes(means);

/** What the fields of a drawing's title block mean. */
export function TitleBlockSection(): React.JSX.Element {
  const rules = useQuery(titleBlockQuery);
  return (
    <>
      <Hint>
        A field of a title block that is not listed becomes a property of the drawing, called after its tag.
        What is set here holds for drawings that come in from now on. A copied drawing says who derived it and
        when, and that nobody has checked it.
      </Hint>
      {rules.error ? <Trouble>{rules.error.message}</Trouble> : null}
      {rules.data ? <Rules key={JSON.stringify(rules.data)} stored={rules.data.rules} /> : null}
    </>
  );
}

function Rules({ stored }: { readonly stored: readonly TitleBlockRule[] }): React.JSX.Element {
  const queries = useQueryClient();
  const [rules, setRules] = useState(stored);
  const [trouble, setTrouble] = useState('');
  const change = (index: number, given: Partial<TitleBlockRule>): void =>
    setRules(rules.map((rule, at) => (at === index ? { ...rule, ...given } : rule)));
  const save = async (): Promise<void> => {
    setTrouble('');
    try {
      await send('PUT', '/api/settings/title-block', { rules });
      await queries.invalidateQueries({ queryKey: ['title block'] });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <List>
        {rules.map((rule, index) => (
          <li key={index}>
            <Field
              label="Field"
              mono
              value={rule.tag}
              onChange={(tag) => change(index, { tag })}
              width="220px"
            />
            <Pick
              label="Means"
              options={FIELD_MEANINGS.map((meaning) => ({ key: meaning, text: MEANINGS[meaning] }))}
              value={rule.means}
              onChange={(means) => change(index, { means: means as FieldMeaning })}
            />
            {isProperty(rule.means) ? (
              <Field
                label="Called"
                value={rule.property ?? ''}
                onChange={(property) => change(index, { property })}
                width="180px"
              />
            ) : null}
            <QuietButton
              aria-label={`Take ${rule.tag} away`}
              onPress={() => setRules(rules.filter((_, at) => at !== index))}
            >
              <X size={14} aria-hidden />
            </QuietButton>
          </li>
        ))}
      </List>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Line>
        <Button onPress={() => setRules([...rules, { tag: '', means: 'property' }])}>Another field</Button>
        <PrimaryButton isDisabled={rules === stored} onPress={() => void save()}>
          Save
        </PrimaryButton>
      </Line>
    </>
  );
}

const List = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  overflow: auto;
  min-height: 0;
  li {
    display: flex;
    gap: 12px;
    align-items: end;
    padding: 4px 0;
  }
`;
const Line = styled.div`
  display: flex;
  gap: 10px;
`;
