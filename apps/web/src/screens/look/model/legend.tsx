/** What the colours of the picture mean, and how many there are of each; each can be selected, hidden and shown. */
import styled from 'styled-components';
import { QuietButton, Soft } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { Tick } from '../../../ui/tick.js';
import type { Looking } from './use-looking.js';

export function Legend({ groups, state, change, select, traits }: Looking): React.JSX.Element | null {
  if (state.colouredBy === 'file') return null;
  if (groups.length === 0) return <Card role="status">Looking it up …</Card>;
  const show = (nodes: readonly number[], isShown: boolean): void => {
    const own = new Set(nodes);
    const others = [...state.hidden].filter((node) => !own.has(node));
    change({ hidden: new Set(isShown ? others : [...others, ...nodes]) });
  };
  return (
    <Card role="group" aria-label="What the colours mean">
      {state.colouredBy === 'lineage' ? (
        <Soft>{traits?.origin ? `Derived from ${traits.origin}` : 'It was not derived from anything.'}</Soft>
      ) : null}
      {groups.map(({ key, says, colour: own, nodes }) => (
        <Row key={key}>
          <Tick
            aria-label={`Show what is ${says}`}
            isSelected={nodes.some((node) => !state.hidden.has(node))}
            onChange={(isShown) => show(nodes, isShown)}
          />
          <Patch style={{ background: own }} aria-hidden />
          <QuietButton onPress={() => select(nodes)}>
            {says}: {nodes.length}
          </QuietButton>
        </Row>
      ))}
    </Card>
  );
}

const Card = styled.div`
  position: absolute;
  top: 8px;
  right: 8px;
  z-index: 2;
  max-height: calc(100% - 16px);
  overflow: auto;
  padding: 6px 8px;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
`;
const Row = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
`;
const Patch = styled.i`
  width: 14px;
  height: 14px;
  border-radius: 3px;
  border: 1px solid ${colour.lineStrong};
`;
