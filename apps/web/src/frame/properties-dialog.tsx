import { useQuery, useQueryClient } from '@tanstack/react-query';
import { sayValue, type ItemClass, type PropertyDefinition, type PropertyValue } from '@stem-trace/core';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { propertiesQuery } from '../api/properties.js';
import { Button, Field, Pick, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { isText, isTexts, Restored, useDraft } from '../ui/draft.js';
import { Tick } from '../ui/tick.js';

export interface PropertiesDialogProps {
  /** Numbers; all of them are changed. */
  readonly items: readonly string[];
  /** What the one item has; nothing where there are several. */
  readonly values: readonly PropertyValue[];
  readonly itemClass: string | null;
  readonly onClose: () => void;
}

/** Class and properties of held items; each item gets a new version with the same file. */
export function PropertiesDialog(props: PropertiesDialogProps): React.JSX.Element {
  const known = useQuery(propertiesQuery);
  const { items } = props;
  const title = items.length === 1 ? `Properties of ${items[0]}` : `Properties of ${items.length} items`;
  return (
    <DialogFrame title={title} widthPx={560} onClose={props.onClose}>
      {known.error ? <Trouble>{known.error.message}</Trouble> : null}
      {known.data ? <Editing {...props} {...known.data} /> : <Soft>Looking them up …</Soft>}
    </DialogFrame>
  );
}

/** What is entered: a class, and values by name. */
interface Entered {
  readonly class: string;
  readonly set: Readonly<Record<string, string>>;
}

function isEntered(value: unknown): value is Entered {
  return (
    typeof value === 'object' &&
    value !== null &&
    'class' in value &&
    isText(value.class) &&
    'set' in value &&
    isTexts(value.set)
  );
}

interface EditingProps extends PropertiesDialogProps {
  readonly definitions: readonly PropertyDefinition[];
  readonly classes: readonly ItemClass[];
}

function Editing(props: EditingProps): React.JSX.Element {
  const { items, values, itemClass, definitions, classes, onClose } = props;
  const draft = useDraft(`properties ${items.join(' ')}`, isEntered, { class: itemClass ?? '', set: {} });
  const { class: chosen, set: entered } = draft.value;
  const [added, setAdded] = useState<readonly string[]>([]);
  const [takesOut, takeOut] = useState(items.length > 1);
  const hasOtherClass = chosen !== (itemClass ?? '');
  const end = (): void => {
    draft.forget();
    onClose();
  };
  const { save, trouble } = useSaving(
    { items, set: entered, checkOut: takesOut, ...(hasOtherClass ? { class: chosen } : {}) },
    end,
  );
  const own = classes.find(({ name }) => name === chosen);
  const names = unique([
    ...(own?.properties.map(({ name }) => name) ?? []),
    ...values.map(({ name }) => name),
    ...Object.keys(entered),
    ...added,
  ]);
  return (
    <>
      <Restored draft={draft} />
      <Pick
        label="Class"
        options={[{ key: '', text: 'none' }, ...classes.map(({ name }) => ({ key: name, text: name }))]}
        value={chosen}
        onChange={(key) => draft.set({ class: key, set: entered })}
      />
      <Fields>
        {names.map((name) => (
          <Entry
            key={name}
            label={isRequired(own, name) ? `${name}, required` : name}
            definition={definitions.find(isNamed(name))}
            value={entered[name] ?? saidBefore(values.find(isNamed(name)))}
            onChange={(text) => draft.set({ class: chosen, set: { ...entered, [name]: text } })}
          />
        ))}
      </Fields>
      <AnotherProperty
        definitions={definitions.filter(({ name }) => !names.includes(name))}
        onAdd={(name) => setAdded([...added, name])}
      />
      {items.length > 1 ? <ForSeveral takesOut={takesOut} onTakeOut={takeOut} /> : null}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <DialogButtons>
        <Button onPress={end}>Cancel</Button>
        <PrimaryButton
          isDisabled={Object.keys(entered).length === 0 && !hasOtherClass}
          onPress={() => void save()}
        >
          Save as new {items.length === 1 ? 'version' : 'versions'}
        </PrimaryButton>
      </DialogButtons>
    </>
  );
}

function ForSeveral({
  takesOut,
  onTakeOut,
}: {
  readonly takesOut: boolean;
  readonly onTakeOut: (takesOut: boolean) => void;
}): React.JSX.Element {
  return (
    <>
      <Soft>What is left empty stays as it is in each item.</Soft>
      <Tick isSelected={takesOut} onChange={onTakeOut}>
        Check out those that are free, save, and let them go again
      </Tick>
    </>
  );
}

function AnotherProperty({
  definitions,
  onAdd,
}: {
  readonly definitions: readonly PropertyDefinition[];
  readonly onAdd: (name: string) => void;
}): React.JSX.Element {
  return (
    <Pick
      label="Another property"
      options={[{ key: '', text: 'choose …' }, ...definitions.map(({ name }) => ({ key: name, text: name }))]}
      value=""
      onChange={(name) => name !== '' && onAdd(name)}
    />
  );
}

/** Saves what was entered and goes; what is in the way is told. */
function useSaving(
  request: {
    readonly items: readonly string[];
    readonly set: Readonly<Record<string, string>>;
    readonly class?: string;
    readonly checkOut: boolean;
  },
  onSaved: () => void,
): { readonly save: () => Promise<void>; readonly trouble: string } {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState('');
  const save = async (): Promise<void> => {
    try {
      await send('POST', '/api/items/properties', request);
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return { save, trouble };
}

/** Names mean the same in capitals or not. */
function isNamed(wanted: string): (each: { readonly name: string }) => boolean {
  return ({ name }) => name.toLowerCase() === wanted.toLowerCase();
}

function isRequired(itemClass: ItemClass | undefined, name: string): boolean {
  return itemClass?.properties.some((each) => each.name === name && each.isRequired) ?? false;
}

function saidBefore(value: PropertyValue | undefined): string {
  return value ? sayValue(value) : '';
}

function Entry({
  label,
  definition,
  value,
  onChange,
}: {
  readonly label: string;
  readonly definition: PropertyDefinition | undefined;
  readonly value: string;
  readonly onChange: (text: string) => void;
}): React.JSX.Element {
  const choices = definition?.kind === 'yes/no' ? ['yes', 'no'] : (definition?.choices ?? []);
  if (choices.length > 0) {
    return (
      <Pick
        label={label}
        options={[{ key: '', text: '–' }, ...choices.map((choice) => ({ key: choice, text: choice }))]}
        value={value}
        onChange={onChange}
      />
    );
  }
  const unit = definition?.kind === 'number' ? definition.unit : '';
  const hint = definition?.kind === 'date' ? '2026-03-31' : unit;
  return (
    <Field
      label={unit === '' ? label : `${label}, in ${unit} or a unit of its own`}
      value={value}
      onChange={onChange}
      placeholder={hint}
    />
  );
}

function unique(names: readonly string[]): string[] {
  const seen = new Set<string>();
  return names.filter((name) => {
    const key = name.toLowerCase();
    return seen.has(key) ? false : seen.add(key);
  });
}

const Fields = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 14px;
  overflow: auto;
`;
