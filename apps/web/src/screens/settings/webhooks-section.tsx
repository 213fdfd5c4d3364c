/** Other programs that are told what happens: where, of what, and what came of it. */
import { AUDIT_KINDS, type AuditKind, type DeliveryRow, type WebhookRow } from '@stem-trace/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Plus, Trash2, Zap } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { webhooksQuery } from '../../api/webhooks.js';
import { Button, Field, Hint, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { Tick } from '../../ui/tick.js';
import { When } from '../../ui/when.js';

const COLUMNS: readonly GridColumn<WebhookRow>[] = [
  { key: 'name', title: 'Name', width: 'minmax(120px, 1fr)', cell: ({ name }) => name },
  {
    key: 'address',
    title: 'Address',
    width: 'minmax(180px, 1.5fr)',
    cell: ({ address }) => <Mono>{address}</Mono>,
  },
  { key: 'kinds', title: 'Told of', width: 'minmax(140px, 1fr)', cell: ({ kinds }) => kinds.join(', ') },
  {
    key: 'waiting',
    title: 'State',
    width: '150px',
    cell: ({ waiting, givenUp, problem }) => (
      <span title={problem ?? ''}>
        {problem === null ? null : <AttentionMark>not taken</AttentionMark>}{' '}
        {waiting > 0 ? `${waiting} wait` : givenUp > 0 ? `${givenUp} given up` : 'all taken'}
      </span>
    ),
  },
];

export function WebhooksSection(): React.JSX.Element {
  const hooks = useQuery(webhooksQuery);
  const [isMaking, make] = useState(false);
  const rows = hooks.data ?? [];
  const cursor = useGridCursor(rows, ({ id }) => id);
  return (
    <>
      {hooks.error ? <Trouble>{hooks.error.message}</Trouble> : null}
      <Line>
        <Button onPress={() => make(true)}>
          <Plus size={15} aria-hidden /> New webhook …
        </Button>
      </Line>
      {hooks.data?.length === 0 ? (
        <Hint>
          A webhook tells another program what happens, as the audit trail says it: posted as JSON, signed,
          again and again until it is taken.
        </Hint>
      ) : (
        <Few>
          <Grid label="Webhooks" columns={COLUMNS} cursor={cursor} />
        </Few>
      )}
      {cursor.row ? <OneWebhook key={cursor.row.id} hook={cursor.row} /> : null}
      {isMaking ? <NewWebhook onClose={() => make(false)} /> : null}
    </>
  );
}

const LOG: readonly GridColumn<DeliveryRow>[] = [
  { key: 'at', title: 'Happened', width: '120px', cell: ({ at }) => <When at={at} /> },
  { key: 'kind', title: 'What', width: '100px', cell: ({ kind }) => kind },
  { key: 'says', title: 'In words', width: 'minmax(180px, 1.6fr)', cell: ({ says }) => says },
  {
    key: 'state',
    title: 'State',
    width: 'minmax(150px, 1fr)',
    cell: ({ sentAt, isGivenUp, tries, problem }) => (
      <span title={problem ?? ''}>
        {sentAt !== null ? 'taken' : isGivenUp ? 'given up' : tries === 0 ? 'waits' : `tried ${tries} times`}
        {problem === null ? '' : `: ${problem}`}
      </span>
    ),
  },
];

function OneWebhook({ hook: { id, name } }: { readonly hook: WebhookRow }): React.JSX.Element {
  const queries = useQueryClient();
  const key = ['webhooks', 'log', id];
  const log = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => get(`/api/webhooks/${id}/log`, {}, signal),
    refetchInterval: 5000,
  });
  const test = useMutation({
    mutationFn: () => send('POST', '/api/webhooks/test', { id }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['webhooks'] }),
  });
  const remove = useMutation({
    mutationFn: () => send('DELETE', `/api/webhooks/${id}`),
    onSuccess: (rows) => queries.setQueryData(webhooksQuery.queryKey, rows),
  });
  const rows = log.data ?? [];
  const cursor = useGridCursor(rows, (row) => row.id);
  const error = log.error ?? test.error ?? remove.error;
  return (
    <Log aria-label={name}>
      <Line>
        <h2>{name}: what it was sent</h2>
        <Button isDisabled={test.isPending} onPress={() => test.mutate()}>
          <Zap size={15} aria-hidden /> Send a test
        </Button>
        <Button isDisabled={remove.isPending} onPress={() => remove.mutate()}>
          <Trash2 size={15} aria-hidden /> Tell it nothing more
        </Button>
        {test.data ? (
          <Soft role="status">
            {test.data.problem === null
              ? 'The test was taken.'
              : `The test was not taken: ${test.data.problem}`}
          </Soft>
        ) : null}
      </Line>
      {error ? <Trouble>{error.message}</Trouble> : null}
      <Grid label="What it was sent" columns={LOG} cursor={cursor} />
    </Log>
  );
}

function NewWebhook({ onClose }: { readonly onClose: () => void }): React.JSX.Element {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [address, setAddress] = useState('');
  const [kinds, setKinds] = useState<ReadonlySet<AuditKind>>(new Set(['step']));
  const make = useMutation({
    mutationFn: () =>
      send('POST', '/api/webhooks', { name, address, kinds: AUDIT_KINDS.filter((kind) => kinds.has(kind)) }),
    onSuccess: ({ rows }) => queries.setQueryData(webhooksQuery.queryKey, rows),
  });
  const toggle = (kind: AuditKind): void => {
    const next = new Set(kinds);
    if (!next.delete(kind)) next.add(kind);
    setKinds(next);
  };
  if (make.data)
    return (
      <DialogFrame title="The secret of the webhook" widthPx={520} onClose={onClose}>
        <p>
          What is sent is signed with it. It is told now and never again: keep it where the other program
          finds it.
        </p>
        <Mono>{make.data.secret}</Mono>
        <DialogButtons>
          <PrimaryButton slot="close">I have kept it</PrimaryButton>
        </DialogButtons>
      </DialogFrame>
    );
  return (
    <DialogFrame title="New webhook" widthPx={560} onClose={onClose}>
      <Field label="Name" value={name} onChange={setName} takesFocus />
      <Field label="Address" value={address} onChange={setAddress} placeholder="https://" mono />
      <Kinds role="group" aria-label="Told of">
        {AUDIT_KINDS.map((kind) => (
          <Tick key={kind} isSelected={kinds.has(kind)} onChange={() => toggle(kind)}>
            {kind}
          </Tick>
        ))}
      </Kinds>
      {kinds.size === 0 ? <Soft>Told only of steps that name it in their lifecycle.</Soft> : null}
      {make.error ? <Trouble>{make.error.message}</Trouble> : null}
      <DialogButtons>
        <Button slot="close">Cancel</Button>
        <PrimaryButton
          isDisabled={name.trim() === '' || address === '' || make.isPending}
          onPress={() => make.mutate()}
        >
          Make it
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  margin: 8px 0;
  h2 {
    margin: 0;
    font-size: 14px;
    flex: 1;
  }
`;
/** There are a few of them; what was sent has the room. */
const Few = styled.div`
  display: flex;
  flex-direction: column;
  height: 180px;
`;
const Log = styled.section`
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
`;
const Kinds = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
  gap: 2px;
`;
