import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Addresses } from '@stem-trace/contract';
import { PROPERTY_KINDS, type ItemClass, type PropertyDefinition, type PropertyKind } from '@stem-trace/core';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { propertiesQuery } from '../../api/properties.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Soft, Trouble } from '../../ui/controls.js';
import { Grid, type GridColumn } from '../../ui/grid.js';

const DEFINITIONS: readonly GridColumn<PropertyDefinition>[] = [
  { key: 'name', title: 'Property', width: 'minmax(140px, 1fr)', cell: (row) => row.name },
  { key: 'kind', title: 'Kind', width: '90px', cell: (row) => row.kind },
  {
    key: 'unit',
    title: 'Unit, or choices',
    width: 'minmax(140px, 1.4fr)',
    cell: (row) => <Soft>{row.kind === 'choice' ? row.choices.join(', ') : row.unit}</Soft>,
  },
];

const CLASSES: readonly GridColumn<ItemClass>[] = [
  { key: 'name', title: 'Class', width: 'minmax(120px, 0.6fr)', cell: (row) => row.name },
  {
    key: 'properties',
    title: 'Properties; required ones with *',
    width: 'minmax(200px, 1.6fr)',
    cell: (row) => row.properties.map(({ name, isRequired }) => (isRequired ? `${name}*` : name)).join(', '),
  },
];

/** Which properties there are, and which an item of a class has. */
export function PropertiesSection(): React.JSX.Element {
  const queries = useQueryClient();
  const known = useQuery(propertiesQuery);
  const [asking, setAsking] = useState<{ readonly what: 'property' | 'class'; readonly isNew: boolean }>();
  const [definitionAt, setDefinitionAt] = useState(0);
  const [classAt, setClassAt] = useState(0);
  const definitions = known.data?.definitions ?? [];
  const classes = known.data?.classes ?? [];
  const definition = asking?.isNew ? undefined : definitions[definitionAt];
  const itemClass = asking?.isNew ? undefined : classes[classAt];
  const put = async (path: Addresses<'PUT'>, body: unknown): Promise<void> => {
    await send('PUT', path, body);
    await queries.invalidateQueries({ queryKey: ['properties'] });
  };
  return (
    <>
      {known.error ? <Trouble>{known.error.message}</Trouble> : null}
      <Line>
        <Button onPress={() => setAsking({ what: 'property', isNew: true })}>New property …</Button>
        <Button
          isDisabled={definitions.length === 0}
          onPress={() => setAsking({ what: 'property', isNew: false })}
        >
          Change {definitions[definitionAt]?.name ?? ''} …
        </Button>
      </Line>
      <Grid
        label="Properties"
        columns={DEFINITIONS}
        rowCount={definitions.length}
        row={(index) => definitions[index]}
        cursor={definitionAt}
        onCursor={setDefinitionAt}
        onOpen={() => setAsking({ what: 'property', isNew: false })}
      />
      <Line>
        <Button onPress={() => setAsking({ what: 'class', isNew: true })}>New class …</Button>
        <Button isDisabled={classes.length === 0} onPress={() => setAsking({ what: 'class', isNew: false })}>
          Change {classes[classAt]?.name ?? ''} …
        </Button>
      </Line>
      <Grid
        label="Classes"
        columns={CLASSES}
        rowCount={classes.length}
        row={(index) => classes[index]}
        cursor={classAt}
        onCursor={setClassAt}
        onOpen={() => setAsking({ what: 'class', isNew: false })}
      />
      {asking?.what === 'property' ? (
        <AskDialog
          title={definition ? `Change ${definition.name}` : 'New property'}
          action="Save"
          fields={[
            { key: 'name', label: 'Name', value: definition?.name ?? '' },
            {
              key: 'kind',
              label: 'Kind',
              value: definition?.kind ?? 'text',
              options: PROPERTY_KINDS.map((kind) => ({ key: kind, text: kind })),
            },
            { key: 'unit', label: 'Unit, for a number', value: definition?.unit ?? '' },
            {
              key: 'choices',
              label: 'Choices, with commas between',
              value: definition?.choices.join(', ') ?? '',
            },
          ]}
          onAnswer={({ name = '', kind = 'text', unit = '', choices = '' }) =>
            put('/api/properties/definition', {
              name,
              kind: kind as PropertyKind,
              unit,
              choices: listed(choices),
            })
          }
          onClose={() => setAsking(undefined)}
        />
      ) : null}
      {asking?.what === 'class' ? (
        <AskDialog
          title={itemClass ? `Change ${itemClass.name}` : 'New class'}
          action="Save"
          fields={[
            { key: 'name', label: 'Name', value: itemClass?.name ?? '' },
            {
              key: 'properties',
              label: 'Properties with commas between; * behind those that are required',
              value:
                itemClass?.properties
                  .map(({ name, isRequired }) => (isRequired ? `${name}*` : name))
                  .join(', ') ?? '',
            },
          ]}
          onAnswer={({ name = '', properties = '' }) =>
            put('/api/properties/class', {
              name,
              properties: listed(properties).map((text) => ({
                name: text.replace(/\*$/, '').trim(),
                isRequired: text.endsWith('*'),
              })),
            })
          }
          onClose={() => setAsking(undefined)}
        />
      ) : null}
    </>
  );
}

function listed(text: string): string[] {
  return text
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

const Line = styled.div`
  display: flex;
  gap: 10px;
`;
