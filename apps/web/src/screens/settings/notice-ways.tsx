/** Where mail goes, and what one wants to be told how. */
import {
  NOTICE_KINDS,
  NOTICE_WAYS,
  type NoticeKind,
  type NoticeSetting,
  type NoticeWay,
} from '@stem-trace/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Button, Choice, Field, Soft, Trouble } from '../../ui/controls.js';

const KIND_SAYS: Readonly<Record<NoticeKind, string>> = {
  'to check': 'Something waits for my decision',
  decided: 'What became of what I sent or made',
  given: 'A task or a change is given to me',
  asked: 'Somebody wants what I hold',
  watched: 'Something happens to what I watch',
  searches: 'A kept search finds something else',
};
const WAY_SAYS: Readonly<Record<NoticeWay, string>> = {
  desk: 'Desk',
  'at once': 'Mail at once',
  daily: 'One mail a day',
  none: 'Not at all',
};

const QUERY = ['notice ways'] as const;

export function NoticeWays(): React.JSX.Element {
  const queries = useQueryClient();
  const answer = useQuery({ queryKey: QUERY, queryFn: ({ signal }) => get('/api/notices/ways', {}, signal) });
  const save = useMutation({
    mutationFn: (setting: NoticeSetting) => send('PUT', '/api/notices/ways', setting),
    onSuccess: (saved) => queries.setQueryData(QUERY, saved),
  });
  if (answer.error) return <Trouble>{answer.error.message}</Trouble>;
  if (!answer.data) return <Soft role="status">Reading how you are told …</Soft>;
  const { mail, ways, isSent, problem } = answer.data;
  return (
    <>
      <h2>What I am told</h2>
      <Soft>Whatever goes by mail stands on the desk, too.</Soft>
      {isSent ? null : (
        <Soft>This server sends no mail; ask an administrator for a mail server (STEM_MAIL).</Soft>
      )}
      {problem === null ? null : (
        <Trouble>The last mail was not taken, and is tried again: {problem}</Trouble>
      )}
      {save.error ? <Trouble>{save.error.message}</Trouble> : null}
      <Address mail={mail} onSave={(next) => save.mutate({ mail: next, ways })} />
      {NOTICE_KINDS.map((kind) => (
        <Line key={kind}>
          <span aria-hidden>{KIND_SAYS[kind]}</span>
          <Choice
            label={KIND_SAYS[kind]}
            options={NOTICE_WAYS.map((key) => ({
              ...{ key, text: WAY_SAYS[key] },
              disabled: mail === '' && (key === 'at once' || key === 'daily'),
            }))}
            value={ways[kind]}
            onChange={(way) => save.mutate({ mail, ways: { ...ways, [kind]: way } })}
          />
        </Line>
      ))}
    </>
  );
}

function Address({
  mail,
  onSave,
}: {
  readonly mail: string;
  readonly onSave: (mail: string) => void;
}): React.JSX.Element {
  const [typed, type] = useState(mail);
  return (
    <Form
      onSubmit={(event) => {
        event.preventDefault();
        onSave(typed.trim());
      }}
    >
      <Field
        label="My mail address"
        value={typed}
        onChange={type}
        placeholder="name@example.org"
        width="280px"
      />
      <Button type="submit" isDisabled={typed.trim() === mail}>
        Save
      </Button>
    </Form>
  );
}

const Form = styled.form`
  display: flex;
  align-items: end;
  gap: 8px;
`;
const Line = styled.div`
  display: grid;
  grid-template-columns: 260px auto;
  align-items: center;
  gap: 8px;
  @media (max-width: 900px) {
    grid-template-columns: 1fr;
  }
`;
