import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Form } from 'react-aria-components';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { sessionQuery, welcomeQuery } from '../../api/queries.js';
import { Button, Field, Hint, PrimaryButton, Trouble } from '../../ui/controls.js';
import { colour, font } from '../../ui/theme.js';

export function SignIn(): React.JSX.Element {
  const queries = useQueryClient();
  const welcome = useQuery(welcomeQuery);
  const [login, setLogin] = useState('');
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState('');
  const signIn = async (who: { login: string; password: string }): Promise<void> => {
    setTrouble('');
    try {
      queries.setQueryData(sessionQuery.queryKey, await send('POST', '/api/session', who));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const demo = welcome.data?.demo ?? [];
  return (
    <Page>
      <Card>
        <img src="/icon.svg" alt="" width={40} height={40} />
        <h1>Stem Trace</h1>
        <Form
          onSubmit={(event) => {
            event.preventDefault();
            void signIn({ login, password });
          }}
        >
          <Field label="Name" value={login} onChange={setLogin} />
          <Field label="Password" type="password" value={password} onChange={setPassword} />
          <PrimaryButton type="submit">Sign in</PrimaryButton>
        </Form>
        {trouble ? <Trouble>{trouble}</Trouble> : null}
      </Card>
      {demo.length > 0 ? (
        <Card>
          <h2>People of the demo organisation</h2>
          <Hint>Fenmark Hydrometrics is made up. Sign in as one of its people:</Hint>
          {demo.map((person) => (
            <Button
              key={person.login}
              onPress={() => void signIn({ login: person.login, password: person.password })}
            >
              {person.name}, {person.role}{' '}
              <code>
                {person.login} / {person.password}
              </code>
            </Button>
          ))}
        </Card>
      ) : null}
    </Page>
  );
}

const Page = styled.main`
  height: 100%;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 16px;
`;
const Card = styled.section`
  width: 440px;
  display: grid;
  gap: 10px;
  padding: 22px 26px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 6px;
  form {
    display: grid;
    gap: 10px;
  }
  button {
    justify-content: space-between;
  }
  button[type='submit'] {
    justify-content: center;
  }
  code {
    font-family: ${font.mono};
    font-size: 12px;
    color: ${colour.inkSoft};
    font-weight: 400;
  }
`;
