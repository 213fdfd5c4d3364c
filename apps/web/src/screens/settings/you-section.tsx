import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { usePerson } from '../../frame/person.js';
import { PicturesChoice } from '../../frame/pictures-choice.js';
import { usePreferences, useSetPreferences } from '../../frame/preferences.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Away } from './away.js';
import { NoticeWays } from './notice-ways.js';
import { Button, Choice, Hint, Soft } from '../../ui/controls.js';

/** One's own password, and how things are shown. */
export function YouSection(): React.JSX.Element {
  const person = usePerson();
  const [isAsking, ask] = useState(false);
  const [isChanged, setChanged] = useState(false);
  return (
    <Form>
      <h1>{person.name}</h1>
      <Soft>
        Signs in as {person.login}, {person.role}
      </Soft>
      <div>
        <Button onPress={() => ask(true)}>Change my password …</Button>{' '}
        {isChanged ? <Soft role="status">Your password is changed.</Soft> : null}
      </div>
      <Showing />
      <NoticeWays />
      <Away />
      {isAsking ? (
        <AskDialog
          title="Change my password"
          action="Change"
          says={<Hint>At least 10 characters. Sessions and tokens that you have go on.</Hint>}
          fields={[
            { key: 'old', label: 'Current password', value: '', type: 'password' },
            { key: 'password', label: 'New password', value: '', type: 'password' },
            { key: 'again', label: 'New password again', value: '', type: 'password' },
          ]}
          onAnswer={async ({ old = '', password = '', again = '' }) => {
            if (password !== again) throw new Error('The new password was not typed the same twice.');
            await send('POST', '/api/password', { old, password });
            setChanged(true);
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </Form>
  );
}

function Showing(): React.JSX.Element {
  const preferences = usePreferences();
  const set = useSetPreferences();
  return (
    <>
      <h2>How things are shown, on every machine</h2>
      <Setting title="Theme">
        <Choice
          label="Theme"
          options={[
            { key: 'system', text: 'As the system' },
            { key: 'light', text: 'Light' },
            { key: 'dark', text: 'Dark' },
          ]}
          value={preferences.theme}
          onChange={(theme) => set({ ...preferences, theme })}
        />
      </Setting>
      <Setting title="Rows of tables">
        <Choice
          label="Rows of tables"
          options={[
            { key: 'usual', text: 'Usual' },
            { key: 'dense', text: 'Dense' },
          ]}
          value={preferences.density}
          onChange={(density) => set({ ...preferences, density })}
        />
      </Setting>
      <Setting title="Pictures in rows">
        <PicturesChoice />
      </Setting>
      <Setting title="Dates">
        <Choice
          label="Dates"
          options={[
            { key: 'said', text: 'Relative: today, 3 Feb' },
            { key: 'exact', text: 'Exact' },
          ]}
          value={preferences.dates}
          onChange={(dates) => set({ ...preferences, dates })}
        />
      </Setting>
      <Units />
    </>
  );
}

function Units(): React.JSX.Element {
  const preferences = usePreferences();
  const set = useSetPreferences();
  return (
    <>
      <Setting title="Masses">
        <Choice
          label="Masses"
          options={[
            { key: 'kg', text: 'kg' },
            { key: 'g', text: 'g' },
            { key: 'lb', text: 'lb' },
          ]}
          value={preferences.mass}
          onChange={(mass) => set({ ...preferences, mass })}
        />
      </Setting>
      <Setting title="Sizes">
        <Choice
          label="Sizes"
          options={[
            { key: 'mm', text: 'mm' },
            { key: 'in', text: 'in' },
          ]}
          value={preferences.length}
          onChange={(length) => set({ ...preferences, length })}
        />
      </Setting>
    </>
  );
}

function Setting({
  title,
  children,
}: {
  readonly title: string;
  readonly children: React.JSX.Element;
}): React.JSX.Element {
  return (
    <Pair>
      <span aria-hidden>{title}</span>
      {children}
    </Pair>
  );
}

const Form = styled.div`
  display: grid;
  gap: 12px;
  max-width: 640px;
`;
const Pair = styled.div`
  display: grid;
  grid-template-columns: 140px auto;
  align-items: center;
`;
