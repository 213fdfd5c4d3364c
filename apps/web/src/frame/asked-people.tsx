/** Whom one asks to decide, and by when, where something is handed on to a check. */
import styled from 'styled-components';
import { usePeople } from '../api/people.js';
import { QuietButton, Select, Soft } from '../ui/controls.js';
import { DayField } from '../ui/day-field.js';

export interface Asked {
  /** Logins; whoever may decide where there are none. */
  readonly people: readonly string[];
  /** Empty for what the lifecycle says. */
  readonly until: string;
}

export const NOBODY_ASKED: Asked = { people: [], until: '' };

export interface AskedPeopleProps {
  readonly value: Asked;
  readonly onChange: (value: Asked) => void;
}

export function AskedPeople({ value, onChange }: AskedPeopleProps): React.JSX.Element {
  const people = usePeople();
  const { people: asked, until } = value;
  const others = people.filter(({ key }) => !asked.includes(key));
  return (
    <Line role="group" aria-label="Who decides">
      <Soft>Decides</Soft>
      <Select
        aria-label="Ask somebody to decide"
        value=""
        onChange={({ target }) => onChange({ ...value, people: [...asked, target.value] })}
      >
        <option value="">{asked.length === 0 ? 'Whoever may decide' : 'and …'}</option>
        {others.map(({ key, text }) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
      {asked.map((login) => (
        <QuietButton
          key={login}
          aria-label={`Do not ask ${nameOf(people, login)}`}
          onPress={() => onChange({ ...value, people: asked.filter((each) => each !== login) })}
        >
          {nameOf(people, login)} ×
        </QuietButton>
      ))}
      <Soft>by</Soft>
      <DayField
        label="Day by which it is to be decided"
        value={until}
        onChange={(day) => onChange({ ...value, until: day })}
        isBare
        mayBeLater
      />
    </Line>
  );
}

function nameOf(people: ReturnType<typeof usePeople>, login: string): string {
  return people.find(({ key }) => key === login)?.text ?? login;
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
`;
