/** A step of a lifecycle: read as a sentence, and changed as one. */
import { sayStep, type Diagram } from '@stem-trace/core';
import { PencilLine, Trash2 } from 'lucide-react';
import styled from 'styled-components';
import { QuietButton, Select } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { Tick } from '../../../ui/tick.js';
import { SetsAndSends } from './sets-and-sends.js';
import { Part, Word, type PartProps } from './step-parts.js';
import { consequences, withThen } from './step-then.js';
import { WhoPick } from './who-pick.js';

export interface StepSentenceProps extends PartProps {
  readonly isOpen: boolean;
  /** Absent for those who may only read it. */
  readonly onOpen?: (isOpen: boolean) => void;
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
          <SetsAndSends {...props} />
          <QuietButton onPress={onRemove}>
            <Trash2 size={14} aria-hidden /> Take the step away
          </QuietButton>
        </Sentence>
      ) : null}
    </Row>
  );
}

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

function Then(props: PartProps): React.JSX.Element {
  const { step, diagram, onChange } = props;
  const told = consequences(step, 'tell').flatMap(({ who }) => who);
  const older = consequences(step, 'supersede')[0]?.to ?? '';
  const lands = diagram.states.find(({ name }) => name === step.to);
  const has = (kind: 'issue' | 'revise'): boolean => consequences(step, kind).length > 0;
  return (
    <Part says="Then">
      <WhoPick
        label="Who is told"
        value={told}
        onChange={(who) => onChange(withThen(step, 'tell', who.length === 0 ? [] : [{ kind: 'tell', who }]))}
      />
      <span>told; older released ones</span>
      <StatePick
        label="Older ones become"
        none="stay"
        value={older}
        diagram={diagram}
        onChange={(to) => onChange(withThen(step, 'supersede', to === '' ? [] : [{ kind: 'supersede', to }]))}
      />
      {lands?.isReleased || has('issue') ? (
        <Tick
          isSelected={has('issue')}
          onChange={(isOn) => onChange(withThen(step, 'issue', isOn ? [{ kind: 'issue' }] : []))}
        >
          issued files are made
        </Tick>
      ) : null}
      {lands?.lane === 'locked' || has('revise') ? (
        <Tick
          isSelected={has('revise')}
          onChange={(isOn) => onChange(withThen(step, 'revise', isOn ? [{ kind: 'revise' }] : []))}
        >
          the next revision is opened
        </Tick>
      ) : null}
      {lands?.isReleased ? (
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
