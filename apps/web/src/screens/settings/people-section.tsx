import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { NewPerson, PersonChange, PersonRow } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { peopleQuery } from '../../api/queries.js';
import { AskDialog, type AskedField } from '../../ui/ask-dialog.js';
import { Button, Mono, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { useTable } from '../../ui/use-table.js';

const COLUMNS: readonly GridColumn<PersonRow>[] = [
  { key: 'initials', title: '', width: '52px', cell: (row) => <Mono>{row.initials}</Mono> },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(160px, 1fr)',
    sortBy: ({ name }) => name,
    cell: (row) => row.name,
  },
  {
    key: 'login',
    title: 'Signs in as',
    width: 'minmax(120px, 0.8fr)',
    cell: (row) => <Mono>{row.login}</Mono>,
  },
  { key: 'role', title: 'Role', width: '140px', sortBy: ({ role }) => role, cell: (row) => row.role },
  {
    key: 'active',
    title: 'May sign in',
    width: '110px',
    cell: (row) => (row.isActive ? 'yes' : <Soft>no</Soft>),
  },
];

const ROLE_FIELD: AskedField = {
  key: 'role',
  label: 'Role',
  value: 'engineer',
  options: ['engineer', 'checker', 'planner', 'viewer', 'administrator'].map((role) => ({
    key: role,
    text: role,
  })),
};

/** What is asked for in a dialog. */
type Asking = 'new' | 'change' | 'password' | undefined;

/** Everybody who may sign in, and who might once. */
export function PeopleSection(): React.JSX.Element {
  const queries = useQueryClient();
  const people = useQuery(peopleQuery);
  const [asking, setAsking] = useState<Asking>();
  const [trouble, setTrouble] = useState('');
  const rows = people.data ?? [];
  const table = useTable('people', rows, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ login }) => login);
  const under = cursor.row;
  const tell = async (method: 'POST' | 'PATCH', request: NewPerson | PersonChange): Promise<void> => {
    await send(method, '/api/people', request);
    await queries.invalidateQueries({ queryKey: ['people'] });
  };
  const toggle = async ({ login, isActive }: PersonRow): Promise<void> => {
    setTrouble('');
    await tell('PATCH', { login, isActive: !isActive }).catch((error: unknown) =>
      setTrouble(error instanceof Error ? error.message : String(error)),
    );
  };
  return (
    <>
      <Line>
        <Button onPress={() => setAsking('new')}>New person …</Button>
        <Button isDisabled={!under} onPress={() => setAsking('change')}>
          Change {under?.name ?? ''} …
        </Button>
        <Button isDisabled={!under} onPress={() => setAsking('password')}>
          New password …
        </Button>
        <Button isDisabled={!under} onPress={() => under && void toggle(under)}>
          {under?.isActive === false ? 'Allow sign-in' : 'Block sign-in'}
        </Button>
      </Line>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Grid label="People" {...table.grid} cursor={cursor} onOpen={() => setAsking('change')} takesFocus />
      <PersonDialog asking={asking} person={under} onTell={tell} onClose={() => setAsking(undefined)} />
    </>
  );
}

interface PersonDialogProps {
  readonly asking: Asking;
  readonly person: PersonRow | undefined;
  readonly onTell: (method: 'POST' | 'PATCH', request: NewPerson | PersonChange) => Promise<void>;
  readonly onClose: () => void;
}

function PersonDialog({ asking, person, onTell, onClose }: PersonDialogProps): React.JSX.Element | null {
  if (asking === 'new')
    return (
      <AskDialog
        title="New person"
        action="Make"
        fields={[
          { key: 'login', label: 'Signs in as', value: '' },
          { key: 'name', label: 'Name', value: '' },
          { key: 'initials', label: 'Initials', value: '' },
          ROLE_FIELD,
          { key: 'password', label: 'First password, ten characters or more', value: '', type: 'password' },
        ]}
        onAnswer={(answers) => onTell('POST', answers as unknown as NewPerson)}
        onClose={onClose}
      />
    );
  if (!asking || !person) return null;
  if (asking === 'change')
    return (
      <AskDialog
        title={`Change ${person.name}`}
        action="Change"
        fields={[
          { key: 'name', label: 'Name', value: person.name },
          { key: 'initials', label: 'Initials', value: person.initials },
          { ...ROLE_FIELD, value: person.role },
        ]}
        onAnswer={(answers) => onTell('PATCH', { login: person.login, ...answers })}
        onClose={onClose}
      />
    );
  return (
    <AskDialog
      title={`New password for ${person.name}; sessions and tokens end`}
      action="Set it"
      fields={[{ key: 'password', label: 'Ten characters or more', value: '', type: 'password' }]}
      onAnswer={({ password = '' }) => onTell('PATCH', { login: person.login, password })}
      onClose={onClose}
    />
  );
}

const Line = styled.div`
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
`;
