/** A step of a lifecycle: read as a sentence, and changed as one. */
import { sayStep, type Diagram, type DiagramStep } from '@stem-trace/core';
import { PencilLine, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { Box, QuietButton, Select } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { Tick } from '../../../ui/tick.js';
import { WhoPick } from './who-pick.js';

export interface StepSentenceProps {
  readonly step: DiagramStep;
  readonly diagram: Diagram;
  readonly isOpen: boolean;
  /** Absent for those who may only read it. */
  readonly onOpen?: (isOpen: boolean) => void;
  readonly onChange: (step: DiagramStep) => void;
  readonly onRemove: () => void;
}

export function StepSentence({ onOpen, ...props }: StepSentenceProps): React.JSX.Element {
  const { step, isOpen, onRemove } = props;
  return (
    <Row data-open={isOpen || undefined}>
      <Says>
        <span>{sayStep(step)}</span>
        {onOpen ? (
          <QuietButton
            aria-label={isOpen ? `Done with ${step.name}` : `Change ${step.name}`}
            aria-expanded={isOpen}
            onPress={() => onOpen(!isOpen)}
          >
            <PencilLine size={14} aria-hidden /> {isOpen ? 'Done' : 'Change'}
          </QuietButton>
        ) : null}
      </Says>
      {isOpen ? (
        <Sentence role="group" aria-label={`The step ${step.name}`}>
          <WhoMay {...props} />
          <FromTo {...props} />
          <Asks {...props} />
          <Due {...props} />
          <Then {...props} />
          <QuietButton onPress={onRemove}>
            <Trash2 size={14} aria-hidden /> Take the step away
          </QuietButton>
        </Sentence>
      ) : null}
    </Row>
  );
}

type PartProps = Pick<StepSentenceProps, 'step' | 'diagram' | 'onChange'>;

function WhoMay({ step, onChange }: PartProps): React.JSX.Element {
  const { name, who, done, notByAuthors, signatures } = step;
  return (
    <Part says="Who may">
      {signatures ? (
        <span>Whoever signs</span>
      ) : (
        <WhoPick label="Who may" value={who} onChange={(next) => onChange({ ...step, who: next })} />
      )}
      <span>may</span>
      <Word label="Name of the step" value={name} onChange={(next) => onChange({ ...step, name: next })} />
      <span>; the trail says: somebody</span>
      <Word
        label="What the trail says, with … for the item"
        value={done}
        onChange={(next) => onChange({ ...step, done: next })}
      />
      <Tick isSelected={notByAuthors} onChange={(next) => onChange({ ...step, notByAuthors: next })}>
        not an author of it
      </Tick>
    </Part>
  );
}

function FromTo({ step, diagram, onChange }: PartProps): React.JSX.Element {
  const { from, to } = step;
  return (
    <Part says="From">
      {diagram.states.map(({ name }) => (
        <Tick
          key={name}
          isSelected={from.includes(name)}
          onChange={(isFrom) =>
            onChange({ ...step, from: isFrom ? [...from, name] : from.filter((each) => each !== name) })
          }
        >
          {name}
        </Tick>
      ))}
      <span>to</span>
      <StatePick
        label="To"
        value={to}
        diagram={diagram}
        onChange={(next) => onChange({ ...step, to: next })}
      />
    </Part>
  );
}

function Asks({ step, onChange }: PartProps): React.JSX.Element {
  const { signatures: _, ...unsigned } = step;
  const { signatures, asksReason } = step;
  return (
    <Part says="It asks for">
      <Tick isSelected={asksReason} onChange={(next) => onChange({ ...step, asksReason: next })}>
        a reason
      </Tick>
      <Select
        aria-label="Signatures"
        style={{ width: 'auto' }}
        value={signatures?.count ?? 0}
        onChange={({ target }) => {
          const count = Number(target.value);
          const before = signatures ?? { of: step.who, isInOrder: false };
          onChange(count === 0 ? unsigned : { ...step, signatures: { ...before, count } });
        }}
      >
        {[0, 1, 2, 3, 4, 5].map((count) => (
          <option key={count} value={count}>
            {count === 0 ? 'no signature' : count === 1 ? 'a signature' : `${count} signatures`}
          </option>
        ))}
      </Select>
      {signatures ? (
        <>
          <span>of</span>
          <WhoPick
            label="Who signs"
            value={signatures.of}
            onChange={(of) => onChange({ ...step, signatures: { ...signatures, of } })}
          />
          <Tick
            isSelected={signatures.isInOrder}
            onChange={(isInOrder) => onChange({ ...step, signatures: { ...signatures, isInOrder } })}
          >
            in this order
          </Tick>
        </>
      ) : null}
    </Part>
  );
}

function Then({ step, diagram, onChange }: PartProps): React.JSX.Element {
  const told = step.then.flatMap((each) => (each.kind === 'tell' ? each.who : []));
  const older = step.then.flatMap((each) => (each.kind === 'supersede' ? each.to : []))[0] ?? '';
  const issues = step.then.some(({ kind }) => kind === 'issue');
  const set = (next: { told?: DiagramStep['who']; older?: string; issues?: boolean }): void => {
    const all = { told, older, issues, ...next };
    onChange({
      ...step,
      then: [
        ...(all.older === '' ? [] : [{ kind: 'supersede', to: all.older } as const]),
        ...(all.issues ? [{ kind: 'issue' } as const] : []),
        ...(all.told.length === 0 ? [] : [{ kind: 'tell', who: all.told } as const]),
      ],
    });
  };
  const leadsToReleased = diagram.states.some(({ name, isReleased }) => name === step.to && isReleased);
  return (
    <Part says="Then">
      <WhoPick label="Who is told" value={told} onChange={(next) => set({ told: next })} />
      <span>told; older released ones</span>
      <StatePick
        label="Older ones become"
        none="stay"
        value={older}
        diagram={diagram}
        onChange={(next) => set({ older: next })}
      />
      {leadsToReleased || issues ? (
        <Tick isSelected={issues} onChange={(isOn) => set({ issues: isOn })}>
          issued files are made
        </Tick>
      ) : null}
      {leadsToReleased ? (
        <Tick
          isSelected={step.isOverUnreleased}
          onChange={(isOverUnreleased) => onChange({ ...step, isOverUnreleased })}
        >
          also over what is not released
        </Tick>
      ) : null}
    </Part>
  );
}

/** Of what is handed on to a check: by when it is decided, and who is told where it is late. */
function Due({ step, diagram, onChange }: PartProps): React.JSX.Element | null {
  const { due } = step;
  const isHandingOn = diagram.states.some(({ name, lane }) => name === step.to && lane === 'under check');
  if (!isHandingOn && !due) return null;
  return (
    <Part says="Decided">
      <Tick
        isSelected={due !== undefined}
        onChange={(isOn) => {
          const { due: _, ...without } = step;
          onChange(isOn ? { ...step, due: { days: 5, lead: [] } } : without);
        }}
      >
        by a day
      </Tick>
      {due ? (
        <>
          <span>within</span>
          <Select
            aria-label="Days in which it is decided"
            style={{ width: 'auto' }}
            value={due.days}
            onChange={({ target }) => onChange({ ...step, due: { ...due, days: Number(target.value) } })}
          >
            {[...new Set([1, 2, 3, 5, 10, 20, 30, due.days])].map((days) => (
              <option key={days} value={days}>
                {days}
              </option>
            ))}
          </Select>
          <span>days, or else told</span>
          <WhoPick
            label="Who is told where it is late"
            value={due.lead}
            onChange={(lead) => onChange({ ...step, due: { ...due, lead } })}
          />
        </>
      ) : null}
    </Part>
  );
}

function StatePick({
  label,
  value,
  diagram,
  none,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly diagram: Diagram;
  /** Said for no state, where there may be none. */
  readonly none?: string;
  readonly onChange: (value: string) => void;
}): React.JSX.Element {
  return (
    <Select
      aria-label={label}
      style={{ width: 'auto' }}
      value={value}
      onChange={({ target }) => onChange(target.value)}
    >
      {none === undefined ? null : <option value="">{none}</option>}
      {diagram.states.map(({ name }) => (
        <option key={name} value={name}>
          {none === undefined ? name : `become ${name}`}
        </option>
      ))}
    </Select>
  );
}

function Word({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}): React.JSX.Element {
  return (
    <Box
      aria-label={label}
      title={label}
      style={{ width: `${Math.max(10, value.length + 3)}ch` }}
      value={value}
      onChange={({ target }: React.ChangeEvent<HTMLInputElement>) => onChange(target.value)}
    />
  );
}

function Part({
  says,
  children,
}: {
  readonly says: string;
  readonly children: ReactNode;
}): React.JSX.Element {
  return (
    <PartLine>
      <b>{says}</b>
      {children}
    </PartLine>
  );
}

const Row = styled.li`
  border-bottom: 1px solid ${colour.line};
  padding: 2px 0 2px 4px;
  &[data-open] {
    border-left: 3px solid ${colour.petrol};
    padding-left: 10px;
    background: ${colour.raised};
  }
`;
const Says = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  min-height: 30px;
`;
const Sentence = styled.div`
  display: grid;
  gap: 8px;
  padding: 4px 0 10px;
  justify-items: start;
`;
const PartLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  b {
    width: 74px;
    font-weight: 500;
    color: ${colour.inkSoft};
  }
  input {
    height: 26px;
  }
`;
