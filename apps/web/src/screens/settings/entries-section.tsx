import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { EntryRow } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { usePerson } from '../../frame/person.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Choice, Mono, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<EntryRow>[] = [
  { key: 'login', title: 'Person', width: '110px', cell: (row) => row.login },
  { key: 'kind', title: 'Kind', width: '90px', cell: (row) => row.kind },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(140px, 1fr)',
    cell: (row) => (
      <>
        {row.name} {row.isThis ? <Soft>· this one</Soft> : null}
      </>
    ),
  },
  {
    key: 'scope',
    title: 'May',
    width: '110px',
    cell: (row) => (row.scope === 'read' ? 'read' : 'everything'),
  },
  { key: 'since', title: 'Since', width: '120px', cell: (row) => <When at={row.since} /> },
  {
    key: 'used',
    title: 'Last used',
    width: '120px',
    cell: (row) => (row.usedAt === null ? <Soft>never</Soft> : <When at={row.usedAt} />),
  },
  {
    key: 'expires',
    title: 'Ends',
    width: '120px',
    cell: (row) => (row.expiresAt === null ? <Soft>does not</Soft> : <When at={row.expiresAt} />),
  },
];

/** Browsers that are signed in and programs with a token; each can be ended. */
export function EntriesSection(): React.JSX.Element {
  const queries = useQueryClient();
  const [whose, setWhose] = useState<Whose>('mine');
  const [isAsking, setAsking] = useState(false);
  const [token, setToken] = useState('');
  const [trouble, setTrouble] = useState('');
  const entries = useQuery({
    queryKey: ['entries', whose],
    queryFn: ({ signal }) => get('/api/entries', { all: whose === 'all' }, signal),
  });
  const rows = entries.data ?? [];
  const cursor = useGridCursor(rows, ({ id }) => id);
  const under = cursor.row;
  const end = async ({ id }: EntryRow): Promise<void> => {
    try {
      await send('DELETE', `/api/entries/${id}`);
      await queries.invalidateQueries({ queryKey: ['entries'] });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <Line>
        <Button isDisabled={!under || under.isThis} onPress={() => under && void end(under)}>
          End {under ? `‘${under.name}’` : 'it'}
        </Button>
        <Button onPress={() => setAsking(true)}>New token for a program …</Button>
        <WhosePick whose={whose} onWhose={setWhose} />
      </Line>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      {token === '' ? null : <MadeToken token={token} />}
      <Grid label="Sessions and tokens" columns={COLUMNS} cursor={cursor} />
      {isAsking ? (
        <TokenDialog
          onMade={(made) => {
            setToken(made);
            void queries.invalidateQueries({ queryKey: ['entries'] });
          }}
          onClose={() => setAsking(false)}
        />
      ) : null}
    </>
  );
}

type Whose = 'mine' | 'all';

/** For administrators, who may end anybody's. */
function WhosePick({
  whose,
  onWhose,
}: {
  readonly whose: Whose;
  readonly onWhose: (whose: Whose) => void;
}): React.JSX.Element | null {
  if (usePerson().role !== 'administrator') return null;
  return (
    <Choice<Whose>
      label="Whose"
      options={[
        { key: 'mine', text: 'Mine' },
        { key: 'all', text: 'Everybody’s' },
      ]}
      value={whose}
      onChange={onWhose}
    />
  );
}

function MadeToken({ token }: { readonly token: string }): React.JSX.Element {
  return (
    <Made role="status">
      The token, shown this once: <Mono>{token}</Mono>
      <br />
      <Soft>A program sends it as “Authorization: Bearer …”. It does what you may do.</Soft>
    </Made>
  );
}

/** What a program's token may, and for how long. */
function TokenDialog({
  onMade,
  onClose,
}: {
  readonly onMade: (token: string) => void;
  readonly onClose: () => void;
}): React.JSX.Element {
  return (
    <AskDialog
      title="New token for a program"
      action="Make it"
      fields={[
        { key: 'name', label: 'What it is for', value: '' },
        {
          key: 'scope',
          label: 'It may',
          value: 'read',
          options: [
            { key: 'read', text: 'read only' },
            { key: 'all', text: 'everything I may do' },
          ],
        },
        {
          key: 'days',
          label: 'It ends',
          value: '90',
          options: [
            { key: '7', text: 'in 7 days' },
            { key: '90', text: 'in 90 days' },
            { key: '365', text: 'in a year' },
            { key: 'never', text: 'never' },
          ],
        },
      ]}
      onAnswer={async ({ name = '', scope = 'read', days = '90' }) => {
        const ends = days === 'never' ? null : Number(days);
        onMade((await send('POST', '/api/tokens', { name, scope, days: ends })).token);
      }}
      onClose={onClose}
    />
  );
}

const Line = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
`;
const Made = styled.p`
  background: ${colour.petrolSoft};
  padding: 8px 12px;
  border-radius: 4px;
  overflow-wrap: anywhere;
`;
