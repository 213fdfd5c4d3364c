import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { itemQuery } from '../../api/queries.js';
import { Trouble } from '../../ui/controls.js';
import { ColumnsPick, useShownColumns } from '../../ui/columns-pick.js';
import { ChainLine } from './chain-line.js';
import { Column, FIRST_FACTS, ROW_FACTS } from './column.js';
import { Plate } from './plate.js';
import { useTrace } from './use-trace.js';

/**
 * The focus in the middle; what uses it to the left, what it is made of to the right, one column a level. The cursor
 * lies on the focus or on a row of the outermost column that has one.
 */
export function ColumnsView(): React.JSX.Element {
  const trace = useTrace();
  const navigate = useNavigate();
  const [shown, show] = useShownColumns('trace', FIRST_FACTS);
  const focus = useQuery(itemQuery(trace.shown));
  // Said once: what the item is and what uses it are asked for apart, and refused with the same words.
  const trouble = focus.error?.message ?? trace.error;
  const stage = useRef<HTMLDivElement>(null);
  useEffect(() => stage.current?.focus({ preventScroll: true }), [trace.focus]);
  useEffect(() => {
    stage.current?.querySelector('[data-current]')?.scrollIntoView({ inline: 'nearest', block: 'nearest' });
  }, [trace.side, trace.depth]);

  const onKeyDown = (event: React.KeyboardEvent): void => {
    if (event.target instanceof HTMLInputElement || event.altKey || event.ctrlKey || event.metaKey) return;
    const moves: Readonly<Record<string, () => void>> = {
      ArrowRight: trace.outwardsRight,
      ArrowLeft: trace.outwardsLeft,
      ArrowDown: () => trace.step(1),
      ArrowUp: () => trace.step(-1),
      PageDown: () => trace.step(15),
      PageUp: () => trace.step(-15),
      Home: () => trace.step(-Infinity),
      End: () => trace.step(Infinity),
      Enter: trace.refocus,
      Backspace: () => void navigate(-1),
      ' ': trace.pick,
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    move();
  };
  return (
    <>
      <Line>
        <ChainLine chain={trace.chain} />
        <ColumnsPick of={ROW_FACTS} shown={shown} onShow={show} />
      </Line>
      {trouble === undefined ? null : <Trouble>{trouble}</Trouble>}
      <Stage
        ref={stage}
        tabIndex={0}
        role="application"
        aria-label={`Structure around ${trace.focus}. Arrow keys move along it.`}
        onKeyDown={onKeyDown}
      >
        {(focus.error ? [] : [...trace.left].reverse()).map((column) => (
          <Column key={`left ${column.of}`} column={column} trace={trace} shown={shown} />
        ))}
        {focus.error ? null : <Plate item={focus.data} isCurrent={trace.depth === 0} onPoint={trace.home} />}
        {(focus.error ? [] : trace.right).map((column) => (
          <Column key={`right ${column.of}`} column={column} trace={trace} shown={shown} />
        ))}
      </Stage>
    </>
  );
}

const Line = styled.div`
  display: flex;
  align-items: start;
  gap: 12px;
  > :first-child {
    flex: 1;
    min-width: 0;
  }
`;
const Stage = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 10px;
  overflow-x: auto;
  overflow-y: hidden;
  padding: 3px;
  scroll-behavior: smooth;
  &:focus-visible {
    outline-offset: -2px;
    border-radius: 4px;
  }
`;
