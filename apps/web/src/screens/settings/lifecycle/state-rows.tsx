/** The states of a lifecycle, lane by lane. */
import { GLYPHS, LANES, type Diagram, type DiagramState, type Lane } from '@stem-trace/core';
import { Plus, Trash2 } from 'lucide-react';
import styled from 'styled-components';
import { Box, QuietButton, Select } from '../../../ui/controls.js';
import { Glyph } from '../../../ui/glyphs.js';
import { useStates } from '../../../ui/states.js';
import { colour } from '../../../ui/theme.js';
import { Tick } from '../../../ui/tick.js';
import { withoutState, type LifecycleEdit } from './use-lifecycle-edit.js';

export function StateRows({ edit }: { readonly edit: LifecycleEdit }): React.JSX.Element {
  const { diagram } = edit.draft;
  return (
    <Lanes>
      {LANES.map((lane) => (
        <section key={lane} aria-label={`States that are ${lane}`}>
          <h4>{lane}</h4>
          {diagram.states.map((state, at) =>
            // By its place: its name is being typed.
            state.lane === lane ? <StateRow key={at} {...{ state, at, edit }} /> : null,
          )}
          <QuietButton
            onPress={() => edit.setDiagram({ states: [...diagram.states, newState(lane, diagram)] })}
          >
            <Plus size={14} aria-hidden /> Another state
          </QuietButton>
        </section>
      ))}
    </Lanes>
  );
}

function newState(lane: Lane, { states }: Diagram): DiagramState {
  const names = new Set(states.map(({ name }) => name));
  let count = states.length + 1;
  while (names.has(`state ${count}`)) count++;
  return { name: `state ${count}`, lane, isReleased: false, glyph: 'diamond' };
}

interface StateRowProps {
  readonly state: DiagramState;
  readonly at: number;
  readonly edit: LifecycleEdit;
}

function StateRow({ state, at, edit }: StateRowProps): React.JSX.Element {
  const { diagram } = edit.draft;
  const known = useStates().get(state.name);
  const isFirst = diagram.first === state.name;
  return (
    <Row>
      <Line>
        <Glyph of={state.glyph} />
        <Box
          aria-label={`Name of the state ${state.name}`}
          value={state.name}
          onChange={({ target }: React.ChangeEvent<HTMLInputElement>) =>
            edit.setState(at, { ...state, name: target.value })
          }
        />
        <QuietButton
          aria-label={`Take ${state.name} away`}
          onPress={() => edit.setDiagram(withoutState(diagram, at))}
        >
          <Trash2 size={14} aria-hidden />
        </QuietButton>
      </Line>
      <Line>
        <Select
          aria-label={`Glyph of ${state.name}`}
          value={state.glyph}
          onChange={({ target }) => {
            const glyph = GLYPHS.find((each) => each === target.value);
            if (glyph) edit.setState(at, { ...state, glyph });
          }}
        >
          {GLYPHS.map((glyph) => (
            <option key={glyph}>{glyph}</option>
          ))}
        </Select>
      </Line>
      {state.lane === 'open' ? (
        <Tick
          isSelected={isFirst}
          isDisabled={isFirst}
          onChange={() => edit.setDiagram({ first: state.name })}
        >
          revisions begin here
        </Tick>
      ) : null}
      {state.lane === 'locked' ? (
        <Tick
          isSelected={state.isReleased}
          isDisabled={known !== undefined}
          onChange={(isReleased) => edit.setState(at, { ...state, isReleased })}
        >
          counts as released
        </Tick>
      ) : null}
    </Row>
  );
}

const Lanes = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 12px;
  align-items: start;
  h4 {
    margin: 0 0 4px;
    font-size: 12px;
    color: ${colour.inkSoft};
  }
`;
const Row = styled.div`
  display: grid;
  gap: 4px;
  padding: 4px 0 8px;
  border-bottom: 1px solid ${colour.line};
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
  select {
    margin-left: 22px;
  }
`;
