/** What a step sets of the revision, and which programs it tells. */
import { SET_TO, type SetConsequence } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Plus, X } from 'lucide-react';
import { webhooksQuery } from '../../../api/webhooks.js';
import { usePerson } from '../../../frame/person.js';
import { QuietButton, Select } from '../../../ui/controls.js';
import { Tick } from '../../../ui/tick.js';
import { Part, Word, type PartProps } from './step-parts.js';
import { consequences, withThen } from './step-then.js';

const TO: Readonly<Record<SetConsequence['to'], string>> = {
  text: 'these words:',
  person: 'who took it',
  day: 'the day',
  reason: 'the reason',
};

export function SetsAndSends(props: PartProps): React.JSX.Element {
  const { step, onChange } = props;
  const sets = consequences(step, 'set');
  const keep = (next: readonly SetConsequence[]): void => onChange(withThen(step, 'set', next));
  return (
    <>
      {sets.map((each, at) => (
        <Part key={at} says={at === 0 ? 'It sets' : 'and'}>
          <SetValue
            set={each}
            at={at}
            onChange={(next) => keep(sets.with(at, next))}
            onRemove={() => keep(sets.toSpliced(at, 1))}
          />
        </Part>
      ))}
      <Part says={sets.length === 0 ? 'It sets' : ''}>
        <QuietButton onPress={() => keep([...sets, { kind: 'set', property: '', to: 'text', text: '' }])}>
          <Plus size={14} aria-hidden /> A property of the revision
        </QuietButton>
      </Part>
      <Sends {...props} />
    </>
  );
}

interface SetValueProps {
  readonly set: SetConsequence;
  readonly at: number;
  readonly onChange: (set: SetConsequence) => void;
  readonly onRemove: () => void;
}

function SetValue({ set, at, onChange, onRemove }: SetValueProps): React.JSX.Element {
  const named = set.property || 'it';
  return (
    <>
      <Word
        label={`Property that is set, ${at + 1}`}
        value={set.property}
        onChange={(property) => onChange({ ...set, property })}
      />
      <span>to</span>
      <Select
        aria-label={`What ${named} is set to`}
        style={{ width: 'auto' }}
        value={set.to}
        onChange={({ target }) => {
          const to = SET_TO.find((key) => key === target.value);
          if (to) onChange({ ...set, to, text: '' });
        }}
      >
        {SET_TO.map((key) => (
          <option key={key} value={key}>
            {TO[key]}
          </option>
        ))}
      </Select>
      {set.to === 'text' ? (
        <Word
          label={`Words that ${named} is set to`}
          value={set.text}
          onChange={(text) => onChange({ ...set, text })}
        />
      ) : null}
      <QuietButton aria-label={`Do not set ${named}`} onPress={onRemove}>
        <X size={14} aria-hidden />
      </QuietButton>
    </>
  );
}

/** Programs that can be told; nothing where there are none. */
function Sends({ step, onChange }: PartProps): React.JSX.Element | null {
  const isAdministrator = usePerson().role === 'administrator';
  const known = useQuery({ ...webhooksQuery, enabled: isAdministrator }).data ?? [];
  const told = consequences(step, 'webhook').map(({ name }) => name);
  const names = [...new Set([...known.map(({ name }) => name), ...told])];
  if (names.length === 0) return null;
  return (
    <Part says="It tells">
      {names.map((name) => (
        <Tick
          key={name}
          isSelected={told.includes(name)}
          onChange={(isOn) =>
            onChange(
              withThen(
                step,
                'webhook',
                (isOn ? [...told, name] : told.filter((each) => each !== name)).map((each) => ({
                  kind: 'webhook',
                  name: each,
                })),
              ),
            )
          }
        >
          {name}
        </Tick>
      ))}
    </Part>
  );
}
