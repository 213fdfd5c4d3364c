/** Who sees to a change, until when, how urgent it is, and from when on it is built. */
import { effectivityOf, sayTakesEffect, URGENCIES, type TakesEffect } from '@stem-trace/core';
import styled from 'styled-components';
import { Field, Hint, Pick, Soft } from '../../../ui/controls.js';
import { DayField } from '../../../ui/day-field.js';
import type { PartProps } from './change-form.js';
import { Part } from './parts.js';
import { usePeople } from '../../../api/people.js';

const EFFECTS: readonly { readonly key: TakesEffect['kind']; readonly text: string }[] = [
  { key: 'when released', text: 'when it is released' },
  { key: 'when used up', text: 'when the stock is used up' },
  { key: 'on', text: 'on a day' },
  { key: 'from serial', text: 'from a serial number' },
];

export function Frame(props: PartProps): React.JSX.Element {
  const { view, contents, isLocked, set } = props;
  const people = usePeople();
  const { owner, until, urgency } = contents;
  if (isLocked)
    return (
      <Part title="Who and when">
        <Soft>
          {people.find(({ key }) => key === owner)?.text ?? (owner || 'nobody yet')}
          {until === '' ? '' : `, until ${until}`}; {urgency}
          {view.kind === 'order' ? `; takes effect ${sayTakesEffect(contents.takesEffect)}` : ''}
        </Soft>
      </Part>
    );
  return (
    <Part title="Who and when">
      <Two>
        <Pick
          label="In the hands of"
          options={[{ key: '', text: 'nobody yet' }, ...people]}
          value={owner}
          onChange={(next) => set({ owner: next })}
        />
        <DayField label="To be done by" value={until} onChange={(day) => set({ until: day })} mayBeLater />
        <Pick
          label="Urgency"
          options={URGENCIES.map((key) => ({ key, text: key }))}
          value={urgency}
          onChange={(key) => set({ urgency: URGENCIES.find((each) => each === key) ?? URGENCIES[0] })}
        />
        {view.kind === 'order' ? (
          <Pick
            label="Takes effect"
            options={EFFECTS}
            value={contents.takesEffect.kind}
            onChange={(kind) => set({ takesEffect: effectOf(kind) })}
          />
        ) : null}
      </Two>
      {view.kind === 'order' ? (
        <EffectFields effect={contents.takesEffect} onChange={(takesEffect) => set({ takesEffect })} />
      ) : null}
    </Part>
  );
}

function effectOf(kind: string): TakesEffect {
  switch (kind) {
    case 'on':
      return { kind, day: new Date().toISOString().slice(0, 10) };
    case 'from serial':
      return { kind, product: '', serial: '' };
    case 'when used up':
      return { kind };
    default:
      return { kind: 'when released' };
  }
}

function EffectFields({
  effect,
  onChange,
}: {
  readonly effect: TakesEffect;
  readonly onChange: (effect: TakesEffect) => void;
}): React.JSX.Element | null {
  if (effect.kind === 'on')
    return (
      <>
        <DayField label="On" value={effect.day} onChange={(day) => onChange({ ...effect, day })} mayBeLater />
        <Hint>{COUNTS} that day on.</Hint>
      </>
    );
  if (effect.kind !== 'from serial') return null;
  return (
    <Two>
      <Field
        label="Product"
        value={effect.product}
        onChange={(product) => onChange({ ...effect, product })}
        mono
      />
      <Field
        label="Serial number"
        value={effect.serial}
        onChange={(serial) => onChange({ ...effect, serial })}
        mono
      />
      <Wide>
        {effect.serial.trim() === '' || effectivityOf(effect)
          ? `${COUNTS} that piece on.`
          : 'Only a whole number can be counted from: under Effective on, what it makes counts from its release on.'}
      </Wide>
    </Two>
  );
}

const COUNTS = 'Under Effective on, what it makes counts from';

const Wide = styled(Hint)`
  grid-column: 1 / -1;
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 8px;
  width: 100%;
  select {
    width: 100%;
  }
`;
