import { useState, useSyncExternalStore } from 'react';
import { Form } from 'react-aria-components';
import styled from 'styled-components';
import { endedSession, send } from '../api/client.js';
import { Field, Hint, PrimaryButton, QuietButton, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { usePerson } from './person.js';

/** Where a session has ended: asks for the password in place, and what was being done goes on. */
export function SignInAgain(): React.JSX.Element | null {
  const person = usePerson();
  const isEnded = useSyncExternalStore(endedSession.subscribe, endedSession.isEnded);
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState('');
  if (!isEnded) return null;
  const signIn = async (): Promise<void> => {
    setTrouble('');
    try {
      await send('POST', '/api/session', { login: person.login, password });
      setPassword('');
      endedSession.resume();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <DialogFrame title="Your session has ended" widthPx={400} onClose={() => undefined}>
      <Fields
        onSubmit={(event) => {
          event.preventDefault();
          void signIn();
        }}
      >
        <Hint>Nothing is lost: what you were doing goes on when you are signed in again.</Hint>
        <Field
          label={`Password of ${person.name}`}
          type="password"
          value={password}
          onChange={setPassword}
          takesFocus
        />
        {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
        <PrimaryButton type="submit">Sign in and go on</PrimaryButton>
        <QuietButton onPress={() => window.location.reload()}>Sign in as somebody else</QuietButton>
      </Fields>
    </DialogFrame>
  );
}

const Fields = styled(Form)`
  display: grid;
  gap: 12px;
`;
