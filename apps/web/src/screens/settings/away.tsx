/** Who stands in while one is away. */
import type { Substitution } from '@stem-trace/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { usePeople } from '../../api/people.js';
import { usePerson } from '../../frame/person.js';
import { Button, Select, Soft, Trouble } from '../../ui/controls.js';
import { DayField } from '../../ui/day-field.js';

const QUERY = ['substitute'] as const;

export function Away(): React.JSX.Element {
  const queries = useQueryClient();
  const answer = useQuery({ queryKey: QUERY, queryFn: ({ signal }) => get('/api/substitute', {}, signal) });
  const save = useMutation({
    mutationFn: (next: Substitution) => send('PUT', '/api/substitute', next),
    onSuccess: (saved) => queries.setQueryData(QUERY, saved),
  });
  return (
    <>
      <h2>While I am away</h2>
      <Soft>
        Whoever stands in is told what waits for me, and decides by their own rights: nobody signs for
        another.
      </Soft>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {save.error ? <Trouble>{save.error.message}</Trouble> : null}
      {answer.data ? (
        <Days key={JSON.stringify(answer.data)} saved={answer.data} onSave={(next) => save.mutate(next)} />
      ) : null}
    </>
  );
}

function Days({
  saved,
  onSave,
}: {
  readonly saved: Substitution;
  readonly onSave: (next: Substitution) => void;
}): React.JSX.Element {
  const me = usePerson();
  const people = usePeople();
  const [{ substitute, from, to }, set] = useState(saved);
  const isSame = substitute === saved.substitute && from === saved.from && to === saved.to;
  return (
    <Line>
      <Select
        aria-label="Who stands in for me"
        value={substitute}
        onChange={({ target }) => set({ substitute: target.value, from, to })}
      >
        <option value="">nobody stands in</option>
        {people
          .filter(({ key }) => key !== me.login)
          .map(({ key, text }) => (
            <option key={key} value={key}>
              {text}
            </option>
          ))}
      </Select>
      {substitute === '' ? null : (
        <>
          <span>from</span>
          <DayField
            label="First day away"
            value={from}
            onChange={(day) => set({ substitute, from: day, to })}
            isBare
            mayBeLater
          />
          <span>to</span>
          <DayField
            label="Last day away"
            value={to}
            onChange={(day) => set({ substitute, from, to: day })}
            isBare
            mayBeLater
          />
        </>
      )}
      <Button isDisabled={isSame} onPress={() => onSave({ substitute, from, to })}>
        Save
      </Button>
    </Line>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
`;
