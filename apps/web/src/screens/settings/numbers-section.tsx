import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { NumberSchemeRow, RevisionSetting } from '@stem-trace/contract';
import { revisionCode, REVISION_SCHEMES } from '@stem-trace/core';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { propertiesQuery, revisionsQuery, schemesQuery } from '../../api/properties.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Field, Hint, Mono, Pick, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';

const COLUMNS: readonly GridColumn<NumberSchemeRow>[] = [
  { key: 'name', title: 'Scheme', width: 'minmax(140px, 1fr)', cell: (row) => row.name },
  {
    key: 'looks',
    title: 'Looks like',
    width: 'minmax(140px, 1fr)',
    cell: (row) => <Mono>{`${row.prefix}${'0'.repeat(row.digits)}${row.suffix}`}</Mono>,
  },
  { key: 'class', title: 'For the class', width: '130px', cell: (row) => row.class ?? <Soft>any</Soft> },
  { key: 'next', title: 'Next', width: '140px', cell: (row) => <Mono>{row.next}</Mono> },
];

/** Serial numbers: each is given once, used or not. */
export function NumbersSection(): React.JSX.Element {
  const queries = useQueryClient();
  const schemes = useQuery(schemesQuery);
  const classes = useQuery(propertiesQuery).data?.classes ?? [];
  const [asking, setAsking] = useState<'new' | 'change'>();
  const rows = schemes.data ?? [];
  const cursor = useGridCursor(rows, ({ name }) => name);
  const under = asking === 'new' ? undefined : cursor.row;
  return (
    <>
      {schemes.error ? <Trouble>{schemes.error.message}</Trouble> : null}
      <RevisionPick />
      <Line>
        <Button onPress={() => setAsking('new')}>New scheme …</Button>
        <Button isDisabled={!cursor.row} onPress={() => setAsking('change')}>
          Change {cursor.row?.name ?? ''} …
        </Button>
      </Line>
      {rows.length === 0 ? (
        <Hint>No scheme yet. With one, numbers can be given at intake and when deriving.</Hint>
      ) : null}
      <Grid label="Number schemes" columns={COLUMNS} cursor={cursor} onOpen={() => setAsking('change')} />
      {asking ? (
        <AskDialog
          title={under ? `Change ${under.name}` : 'New scheme'}
          action="Save"
          fields={[
            { key: 'name', label: 'Name', value: under?.name ?? '' },
            { key: 'prefix', label: 'Text before the number', value: under?.prefix ?? '' },
            { key: 'digits', label: 'Digits', value: String(under?.digits ?? 5) },
            { key: 'suffix', label: 'Text after the number', value: under?.suffix ?? '' },
            {
              key: 'class',
              label: 'For the class',
              value: under?.class ?? '',
              options: [{ key: '', text: 'any' }, ...classes.map(({ name }) => ({ key: name, text: name }))],
            },
          ]}
          onAnswer={async ({ digits = '', ...scheme }) => {
            await send('PUT', '/api/numbers', { ...scheme, digits: Number(digits) });
            await queries.invalidateQueries({ queryKey: ['numbers'] });
          }}
          onClose={() => setAsking(undefined)}
        />
      ) : null}
    </>
  );
}

/** How revisions are counted. */
function RevisionPick(): React.JSX.Element | null {
  const queries = useQueryClient();
  const revisions = useQuery(revisionsQuery);
  if (!revisions.data) return null;
  return (
    <>
      <Pick
        label="Revisions that are opened from now on"
        options={REVISION_SCHEMES.map((scheme) => ({
          key: scheme,
          text: `${scheme}: ${[1, 2, 3, 9].map((position) => revisionCode(position, scheme)).join(', ')} …`,
        }))}
        value={revisions.data.scheme}
        onChange={(scheme) =>
          void send('PUT', '/api/settings/revisions', { scheme }).then(() =>
            queries.invalidateQueries({ queryKey: ['revisions'] }),
          )
        }
      />
      <RevisionProperty key={revisions.data.property} setting={revisions.data} />
    </>
  );
}

/** The property that a new revision's code is written into. */
function RevisionProperty({ setting }: { readonly setting: RevisionSetting }): React.JSX.Element {
  const queries = useQueryClient();
  const [name, setName] = useState(setting.property);
  const keep = useMutation({
    mutationFn: () =>
      send('PUT', '/api/settings/revisions', { scheme: setting.scheme, property: name.trim() }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['revisions'] }),
  });
  return (
    <>
      <Line>
        <Field
          label="Property that says the revision: written when one is opened after another; empty for none"
          value={name}
          onChange={setName}
        />
        <Button isDisabled={name.trim() === setting.property} onPress={() => keep.mutate()}>
          Save
        </Button>
      </Line>
      {keep.error ? <Trouble>{keep.error.message}</Trouble> : null}
    </>
  );
}

const Line = styled.div`
  display: flex;
  align-items: end;
  gap: 10px;
`;
