import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Addresses } from '@stem-trace/contract';
import { PROPERTY_KINDS, type ItemClass, type PropertyDefinition, type PropertyKind } from '@stem-trace/core';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { propertiesQuery } from '../../api/properties.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { useTable } from '../../ui/use-table.js';

const DEFINITIONS: readonly GridColumn<PropertyDefinition>[] = [
  {
    key: 'name',
    title: 'Property',
    width: 'minmax(140px, 1fr)',
    sortBy: ({ name }) => name,
    cell: (row) => row.name,
  },
  { key: 'kind', title: 'Kind', width: '90px', sortBy: ({ kind }) => kind, cell: (row) => row.kind },
  {
    key: 'unit',
    title: 'Unit, or choices',
    width: 'minmax(140px, 1.4fr)',
    cell: (row) => <Soft>{row.kind === 'choice' ? row.choices.join(', ') : row.unit}</Soft>,
  },
];

const CLASSES: readonly GridColumn<ItemClass>[] = [
  {
    key: 'name',
    title: 'Class',
    width: 'minmax(120px, 0.6fr)',
    sortBy: ({ name }) => name,
    cell: (row) => row.name,
  },
  {
    key: 'properties',
    title: 'Properties; required ones with *',
    width: 'minmax(200px, 1.6fr)',
    cell: sayProperties,
  },
];

/** Which properties there are, and which an item of a class has. */
export function PropertiesSection(): React.JSX.Element {
  const known = useQuery(propertiesQuery);
  return (
    <>
      {known.error ? <Trouble>{known.error.message}</Trouble> : null}
      <Definitions rows={known.data?.definitions ?? []} />
      <Classes rows={known.data?.classes ?? []} />
    </>
  );
}

/** Saves a definition or a class, and asks for both anew. */
function usePut(): (path: Addresses<'PUT'>, body: unknown) => Promise<void> {
  const queries = useQueryClient();
  return async (path, body) => {
    await send('PUT', path, body);
    await queries.invalidateQueries({ queryKey: ['properties'] });
  };
}

interface ListedProps<T> {
  readonly what: 'property' | 'class';
  readonly label: string;
  readonly columns: readonly GridColumn<T>[];
  readonly rows: readonly T[];
  /** The dialog in which a new one is made, or one is changed. */
  readonly dialog: (changed: T | undefined, onClose: () => void) => React.JSX.Element;
}

function Listed<T extends { readonly name: string }>({
  what,
  label,
  columns,
  rows,
  dialog,
}: ListedProps<T>): React.JSX.Element {
  const [asking, setAsking] = useState<'new' | 'change'>();
  const table = useTable(`settings.${what}`, rows, columns);
  const cursor = useGridCursor(table.rows, ({ name }) => name);
  return (
    <>
      <Line>
        <Button onPress={() => setAsking('new')}>New {what} …</Button>
        <Button isDisabled={!cursor.row} onPress={() => setAsking('change')}>
          Change {cursor.row?.name ?? ''} …
        </Button>
      </Line>
      <Grid label={label} {...table.grid} cursor={cursor} onOpen={() => setAsking('change')} />
      {asking ? dialog(asking === 'new' ? undefined : cursor.row, () => setAsking(undefined)) : null}
    </>
  );
}

function Definitions({ rows }: { readonly rows: readonly PropertyDefinition[] }): React.JSX.Element {
  const put = usePut();
  return (
    <Listed
      what="property"
      label="Properties"
      columns={DEFINITIONS}
      rows={rows}
      dialog={(changed, onClose) => (
        <AskDialog
          title={changed ? `Change ${changed.name}` : 'New property'}
          action="Save"
          fields={[
            { key: 'name', label: 'Name', value: changed?.name ?? '' },
            {
              key: 'kind',
              label: 'Kind',
              value: changed?.kind ?? 'text',
              options: PROPERTY_KINDS.map((kind) => ({ key: kind, text: kind })),
            },
            { key: 'unit', label: 'Unit, for a number', value: changed?.unit ?? '' },
            {
              key: 'choices',
              label: 'Choices, with commas between',
              value: changed?.choices.join(', ') ?? '',
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
          onClose={onClose}
        />
      )}
    />
  );
}

function Classes({ rows }: { readonly rows: readonly ItemClass[] }): React.JSX.Element {
  const put = usePut();
  return (
    <Listed
      what="class"
      label="Classes"
      columns={CLASSES}
      rows={rows}
      dialog={(changed, onClose) => (
        <AskDialog
          title={changed ? `Change ${changed.name}` : 'New class'}
          action="Save"
          fields={[
            { key: 'name', label: 'Name', value: changed?.name ?? '' },
            {
              key: 'properties',
              label: 'Properties with commas between; * behind those that are required',
              value: changed ? sayProperties(changed) : '',
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
          onClose={onClose}
        />
      )}
    />
  );
}

function sayProperties({ properties }: ItemClass): string {
  return properties.map(({ name, isRequired }) => (isRequired ? `${name}*` : name)).join(', ');
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
