import type { ColumnSet } from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../../../api/client.js';
import { columnSetsQuery } from '../../../api/bom.js';
import { AskDialog } from '../../../ui/ask-dialog.js';
import { Button, Select } from '../../../ui/controls.js';

const KEEP = '\u0000keep';

/** Columns under a name: chosen, kept, shared. */
export function ColumnSets({
  shown,
  onShow,
}: {
  readonly shown: ReadonlySet<string>;
  readonly onShow: (columns: ReadonlySet<string>) => void;
}): React.JSX.Element {
  const sets = useQuery(columnSetsQuery).data ?? [];
  const [isKeeping, keep] = useState(false);
  const here = sets.find((set) => isSame(set.columns, shown));
  return (
    <>
      <Select
        aria-label="Set of columns"
        value={here ? keyOf(here) : ''}
        onChange={({ target }) => {
          const set = sets.find((each) => keyOf(each) === target.value);
          if (target.value === KEEP) keep(true);
          else if (set) onShow(new Set(set.columns));
        }}
      >
        <option value="">custom columns</option>
        {sets.map((set) => (
          <option key={keyOf(set)} value={keyOf(set)}>
            {set.by === null ? set.name : `${set.name}, by ${set.by}`}
          </option>
        ))}
        <option value={KEEP}>save as a set …</option>
      </Select>
      {here?.by === null ? <Forget name={here.name} /> : null}
      {isKeeping ? <KeepDialog columns={[...shown]} onClose={() => keep(false)} /> : null}
    </>
  );
}

function Forget({ name }: { readonly name: string }): React.JSX.Element {
  const queries = useQueryClient();
  const forget = async (): Promise<void> => {
    const left = await send(
      'DELETE',
      `/api/column-sets?name=${encodeURIComponent(name)}` as '/api/column-sets',
    );
    queries.setQueryData(columnSetsQuery.queryKey, left);
  };
  return <Button onPress={() => void forget()}>Delete “{name}”</Button>;
}

function KeepDialog({
  columns,
  onClose,
}: {
  readonly columns: readonly string[];
  readonly onClose: () => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  return (
    <AskDialog
      title="Save column set"
      action="Save"
      fields={[
        { key: 'name', label: 'Name, such as: for purchasing', value: '' },
        {
          key: 'shared',
          label: 'For',
          value: 'mine',
          options: [
            { key: 'mine', text: 'only me' },
            { key: 'all', text: 'everybody' },
          ],
        },
      ]}
      onAnswer={async ({ name = '', shared }) => {
        const sets = await send('PUT', '/api/column-sets', { name, columns, isShared: shared === 'all' });
        queries.setQueryData(columnSetsQuery.queryKey, sets);
      }}
      onClose={onClose}
    />
  );
}

function keyOf({ name, by }: ColumnSet): string {
  return `${by ?? ''}\n${name}`;
}

function isSame(columns: readonly string[], shown: ReadonlySet<string>): boolean {
  return columns.length === shown.size && columns.every((key) => shown.has(key));
}
