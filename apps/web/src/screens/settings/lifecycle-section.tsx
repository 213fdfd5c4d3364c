/** The lifecycle as it stands: lanes by what is locked in them, and each step as a sentence. */
import { LANES, sayStep, SHIPPED, type Lane } from '@stem-trace/core';
import styled from 'styled-components';
import { Hint, Soft } from '../../ui/controls.js';
import { StateGlyph } from '../../ui/glyphs.js';
import { colour } from '../../ui/theme.js';

const MEANS: Readonly<Record<Lane, string>> = {
  open: 'It can be held and changed.',
  'under check': 'It stands still until somebody decides.',
  locked: 'It never changes; change goes on in a new revision.',
  'out of use': 'Nothing goes on from it.',
};

export function LifecycleSection(): React.JSX.Element {
  return (
    <>
      <Hint>
        A revision begins as {SHIPPED.first} and moves along the steps below. Every item goes by this
        lifecycle; it cannot be changed here yet.
      </Hint>
      <Lanes aria-label="States by what is locked in them">
        {LANES.map((lane) => (
          <li key={lane}>
            <h3>{lane}</h3>
            <Soft>{MEANS[lane]}</Soft>
            <ul aria-label={`States that are ${lane}`}>
              {SHIPPED.states.map((state) =>
                state.lane === lane ? (
                  <li key={state.name}>
                    <StateGlyph state={state.name} /> {state.name}
                    {state.isReleased ? <Soft>, counts as released</Soft> : null}
                  </li>
                ) : null,
              )}
            </ul>
          </li>
        ))}
      </Lanes>
      <h3>Steps</h3>
      <Steps aria-label="Steps">
        {SHIPPED.steps.map((step) => (
          <li key={step.name}>{sayStep(step)}</li>
        ))}
      </Steps>
    </>
  );
}

const Lanes = styled.ul`
  list-style: none;
  margin: 12px 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 8px;
  & > li {
    border: 1px solid ${colour.line};
    border-radius: 4px;
    background: ${colour.raised};
    padding: 10px 12px;
  }
  ul {
    list-style: none;
    margin: 8px 0 0;
    padding: 0;
    display: grid;
    gap: 6px;
  }
`;
const Steps = styled.ul`
  margin: 4px 0;
  padding-left: 20px;
  display: grid;
  gap: 4px;
`;
