import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { NewPerson, PersonChange, PersonRow } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { AskDialog, type AskedField } from '../../ui/ask-dialog.js';
import { Button, Mono, Soft, Trouble } from '../../ui/controls.js';
import { Grid, type GridColumn } from '../../ui/grid.js';

const COLUMNS: readonly GridColumn<PersonRow>[] = [
  { key: 'initials', title: '', width: '52px', cell: (row) => <Mono>{row.initials}</Mono> },
  { key: 'name', title: 'Name', width: 'minmax(160px, 1fr)', cell: (row) => row.name },
  {
    key: 'login',
    title: 'Signs in as',
    width: 'minmax(120px, 0.8fr)',
    cell: (row) => <Mono>{row.login}</Mono>,
  },
  { key: 'role', title: 'Role', width: '140px', cell: (row) => row.role },
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

/** Everybody who may sign in, and who might once. */
export function PeopleSection(): React.JSX.Element {
  const queries = useQueryClient();
  const people = useQuery({
    queryKey: ['people'],
    queryFn: ({ signal }) => get('/api/people', {}, signal),
  });
  const [cursor, setCursor] = useState(0);
  const [asking, setAsking] = useState<'new' | 'change' | 'password'>();
  const [trouble, setTrouble] = useState('');
  const rows = people.data ?? [];
  const under = rows[Math.min(cursor, rows.length - 1)];
  const change = async (request: PersonChange): Promise<void> => {
    await send('PATCH', '/api/people', request);
    await queries.invalidateQueries({ queryKey: ['people'] });
  };
  const create = async (request: NewPerson): Promise<void> => {
    await send('POST', '/api/people', request);
    await queries.invalidateQueries({ queryKey: ['people'] });
  };
  const toggle = async ({ login, isActive }: PersonRow): Promise<void> => {
    setTrouble('');
    await change({ login, isActive: !isActive }).catch((error: unknown) =>
      setTrouble(error instanceof Error ? error.message : String(error)),
    );
  };
  const close = (): void => setAsking(undefined);
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
          {under?.isActive === false ? 'Let in again' : 'Let in no more'}
        </Button>
      </Line>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Grid
        label="People"
        columns={COLUMNS}
        rowCount={rows.length}
        row={(index) => rows[index]}
        cursor={Math.min(cursor, rows.length - 1)}
        onCursor={setCursor}
        onOpen={() => setAsking('change')}
        takesFocus
      />
      {asking === 'new' ? (
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
          onAnswer={(answers) => create(answers as unknown as NewPerson)}
          onClose={close}
        />
      ) : null}
      {asking === 'change' && under ? (
        <AskDialog
          title={`Change ${under.name}`}
          action="Change"
          fields={[
            { key: 'name', label: 'Name', value: under.name },
            { key: 'initials', label: 'Initials', value: under.initials },
            { ...ROLE_FIELD, value: under.role },
          ]}
          onAnswer={(answers) => change({ login: under.login, ...answers })}
          onClose={close}
        />
      ) : null}
      {asking === 'password' && under ? (
        <AskDialog
          title={`New password for ${under.name}; sessions and tokens end`}
          action="Set it"
          fields={[{ key: 'password', label: 'Ten characters or more', value: '', type: 'password' }]}
          onAnswer={({ password = '' }) => change({ login: under.login, password })}
          onClose={close}
        />
      ) : null}
    </>
  );
}

const Line = styled.div`
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
`;
