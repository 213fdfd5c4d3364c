/** Some people, by what they are, who they are or what they may: taken away and added one by one. */
import { LIFECYCLE_ROLES, RIGHTS, type StepBy } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { Button as AriaButton } from 'react-aria-components';
import styled from 'styled-components';
import { peopleQuery } from '../../../api/queries.js';
import { Select, Soft } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';

export interface WhoPickProps {
  readonly label: string;
  readonly value: readonly StepBy[];
  readonly onChange: (value: readonly StepBy[]) => void;
}

export function WhoPick({ label, value, onChange }: WhoPickProps): React.JSX.Element {
  const people = useQuery(peopleQuery).data ?? [];
  const offers = [
    ...LIFECYCLE_ROLES.map((role): StepBy => ({ kind: 'role', role })),
    { kind: 'sender' } as const,
    ...RIGHTS.map((right): StepBy => ({ kind: 'right', right })),
    ...people.map(({ login, name }): StepBy => ({ kind: 'person', id: login, name })),
  ];
  const taken = new Set(value.map(keyOf));
  return (
    <Line role="group" aria-label={label}>
      {value.length === 0 ? <Soft>nobody</Soft> : null}
      {value.map((who) => (
        <Chip key={keyOf(who)}>
          {sayOf(who)}
          <AriaButton
            aria-label={`${label}: without ${sayOf(who)}`}
            onPress={() => onChange(value.filter((each) => keyOf(each) !== keyOf(who)))}
          >
            <X size={12} aria-hidden />
          </AriaButton>
        </Chip>
      ))}
      <Adding
        aria-label={`${label}: add`}
        value=""
        onChange={({ target }) => {
          const added = offers.find((each) => keyOf(each) === target.value);
          if (added) onChange([...value, added]);
        }}
      >
        <option value="">add …</option>
        {offers.map((each) =>
          taken.has(keyOf(each)) ? null : (
            <option key={keyOf(each)} value={keyOf(each)}>
              {sayOf(each)}
            </option>
          ),
        )}
      </Adding>
    </Line>
  );
}

function keyOf(who: StepBy): string {
  switch (who.kind) {
    case 'role':
      return `role ${who.role}`;
    case 'person':
      return `person ${who.id}`;
    case 'right':
      return `right ${who.right}`;
    case 'sender':
      return 'sender';
  }
}

function sayOf(who: StepBy): string {
  switch (who.kind) {
    case 'role':
      return `a ${who.role}`.replace(/^a (?=[aeiou])/, 'an ');
    case 'person':
      return who.name;
    case 'right':
      return `whoever may ${who.right} there`;
    case 'sender':
      return 'who sent it on';
  }
}

const Line = styled.span`
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
`;
const Chip = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 3px;
  padding: 1px 3px 1px 8px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 12px;
  background: ${colour.raised};
  button {
    border: 0;
    background: none;
    color: ${colour.inkSoft};
    padding: 5px;
    line-height: 0;
    border-radius: 50%;
  }
`;
const Adding = styled(Select)`
  width: auto;
  max-width: 110px;
  height: 26px;
`;
