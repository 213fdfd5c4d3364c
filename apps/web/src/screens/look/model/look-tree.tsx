import type { SceneNodeView } from '@stem-trace/contract';
import { useEffect, useMemo, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import { Mono, Soft } from '../../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../../ui/grid.js';
import { Tick } from '../../../ui/tick.js';
import { inSight, levelsOf, waysUp } from './uses.js';

interface Row {
  readonly at: number;
  readonly level: number;
  readonly node: SceneNodeView;
  readonly hasInside: boolean;
}

export interface LookTreeProps {
  readonly nodes: readonly SceneNodeView[];
  readonly selected: ReadonlySet<number>;
  readonly hidden: ReadonlySet<number>;
  readonly select: (nodes: readonly number[]) => void;
  readonly toggle: (nodes: readonly number[]) => void;
}

/** The uses that are seen, each with a tick that shows or hides it; Enter selects, Space shows and hides. */
export function LookTree({ nodes, selected, hidden, select, toggle }: LookTreeProps): React.JSX.Element {
  const [closed, close] = useState<ReadonlySet<number>>(new Set());
  const rows = useMemo(() => rowsOf(nodes, closed), [nodes, closed]);
  const cursor = useGridCursor(rows, ({ at }) => String(at));
  const { moveTo } = cursor;
  const [followed, follow] = useState(selected);
  // What is selected in the picture is found in the tree, whatever is folded there.
  useEffect(() => {
    if (followed === selected) return;
    const [first] = selected;
    const around = first === undefined ? [] : waysUp(nodes, first);
    const isFolded = around.some((node) => closed.has(node));
    if (isFolded) {
      close(new Set([...closed].filter((node) => !around.includes(node))));
      return;
    }
    follow(selected);
    const index = rows.findIndex(({ at }) => at === first);
    if (index >= 0) moveTo(index);
  }, [followed, selected, nodes, closed, rows, moveTo]);
  const columns = useMemo(() => columnsOf(hidden, toggle), [hidden, toggle]);
  const fold = (row: Row, isOpen: boolean): boolean => {
    if (!row.hasInside || closed.has(row.at) !== isOpen) return false;
    close(new Set(isOpen ? [...closed].filter((each) => each !== row.at) : [...closed, row.at]));
    return true;
  };
  const onKey = ({ key, shiftKey }: KeyboardEvent, row: Row | undefined): boolean => {
    if (!row) return false;
    if (key === 'ArrowRight' || key === 'ArrowLeft') return fold(row, key === 'ArrowRight');
    if (key !== 'Enter' || !shiftKey) return false;
    select([...selected, row.at]);
    return true;
  };
  return (
    <Sized>
      <Grid
        label="Uses in the picture"
        columns={columns}
        cursor={cursor}
        levelOf={({ level }) => level}
        isExpanded={({ at, hasInside }) => (hasInside ? !closed.has(at) : undefined)}
        isPicked={({ at }) => selected.has(at)}
        onOpen={({ at }) => select([at])}
        onPick={({ at }) => toggle([at])}
        onKey={onKey}
        reuses
      />
    </Sized>
  );
}

function rowsOf(nodes: readonly SceneNodeView[], closed: ReadonlySet<number>): Row[] {
  const levels = levelsOf(nodes);
  const parents = new Set(nodes.map(({ parent }) => parent));
  return inSight(nodes, closed).flatMap((at) => {
    const node = nodes[at];
    return node ? [{ at, node, level: levels[at] ?? 1, hasInside: parents.has(at) }] : [];
  });
}

function columnsOf(hidden: ReadonlySet<number>, toggle: LookTreeProps['toggle']): GridColumn<Row>[] {
  return [
    {
      key: 'number',
      title: 'Use',
      width: 'minmax(120px, 1fr)',
      cell: ({ node: { number, name, use }, level }) => (
        <Indented
          style={{ paddingLeft: (level - 1) * 14 }}
          title={[number, name, use].filter(Boolean).join(' · ')}
        >
          <Mono>{number || 'hidden from you'}</Mono> <Soft>{name}</Soft>
        </Indented>
      ),
    },
    {
      key: 'shown',
      title: 'Shown',
      width: '62px',
      align: 'center',
      cell: ({ at, node: { number } }) => (
        <Tick aria-label={`Show ${number}`} isSelected={!hidden.has(at)} onChange={() => toggle([at])} />
      ),
    },
  ];
}

const Sized = styled.div`
  min-height: 0;
  display: flex;
  flex-direction: column;
`;
const Indented = styled.span`
  display: block;
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
`;
