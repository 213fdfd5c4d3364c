import { parseReference, type StructureRow } from '@stem-trace/contract';
import { useVirtualizer, type Virtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useRef, type RefObject } from 'react';
import { Input, TextField } from 'react-aria-components';
import styled from 'styled-components';
import { useDesk } from '../../frame/desk.js';
import { Thumb } from '../../pictures/thumb.js';
import { Mono, Soft } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { AtTimes, OnlyIn } from '../../ui/only-in.js';
import { colour } from '../../ui/theme.js';
import { rowKey, type Trace, type TraceColumn } from './use-trace.js';
import { sayGap } from './gap.js';

const ROW_HEIGHT = 46;

/** What a row can show besides number and name. */
export const ROW_FACTS = [
  { key: 'quantity', title: 'Quantity' },
  { key: 'total', title: 'Total, seen from the focus' },
  { key: 'version', title: 'Version' },
  { key: 'recorded', title: 'Version as recorded, where another' },
  { key: 'behind', title: 'Behind' },
  { key: 'configurations', title: 'Configurations, and when it counts' },
  { key: 'held', title: 'Held' },
  { key: 'picture', title: 'Picture' },
] as const;
export const FIRST_FACTS = ['quantity', 'version', 'behind', 'configurations', 'held'] as const;

/** One level: a list with its own filter and count. */
export function Column({
  column,
  trace,
  shown,
}: {
  readonly column: TraceColumn;
  readonly trace: Trace;
  /** What rows show, by key of `ROW_FACTS`. */
  readonly shown: ReadonlySet<string>;
}): React.JSX.Element {
  const { rows, filter } = column;
  const hasCursor = column.side === trace.side && column.depth === trace.depth;
  const chosen = rows.findIndex((row) => rowKey(row) === column.chosen);
  const list = useRef<HTMLDivElement>(null);
  const titleId = useId();
  const virtual = useRowsInSight(list, { column, trace, chosen: hasCursor ? chosen : -1 });
  const owner = parseReference(column.of).number;
  return (
    <Level data-current={hasCursor || undefined} aria-labelledby={titleId}>
      <Head>
        <span id={titleId}>
          {column.side === 'left' ? 'uses' : 'in'} <Mono>{owner}</Mono>
        </span>
        <Soft>
          {filter === '' || Number.isNaN(column.total)
            ? column.fitting.toLocaleString('en-GB')
            : `${column.fitting} of ${column.total}`}
        </Soft>
      </Head>
      {column.total > 8 || filter !== '' ? (
        <Filter
          aria-label={`Filter what ${column.side === 'left' ? 'uses' : 'is in'} ${owner}`}
          value={filter}
          onChange={(next) => trace.setFilter(column, next)}
        >
          <Input placeholder="Filter" />
        </Filter>
      ) : null}
      <List ref={list} {...(rows.length > 0 ? { role: 'listbox', 'aria-labelledby': titleId } : {})}>
        <Beside column={column} />
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            return row ? (
              <Row
                key={`${rowKey(row)} ${index}`}
                {...{ row, column, trace, shown, start }}
                isChosen={index === chosen}
                isUnderCursor={hasCursor && index === chosen}
              />
            ) : null;
          })}
        </div>
      </List>
    </Level>
  );
}

/** What is said where there are no rows, or further ones that one does not see. */
function Beside({ column }: { readonly column: TraceColumn }): React.JSX.Element | null {
  const { rows, filter, side, hidden, isLoading } = column;
  if (side === 'left' && hidden > 0) return <Empty>and {hidden} not visible to you</Empty>;
  if (rows.length > 0 || hidden > 0 || isLoading) return null;
  return <Empty>{emptyText(column, filter)}</Empty>;
}

/** Rows near what is in sight; the chosen one is brought into it, and more are fetched at the end. */
function useRowsInSight(
  list: RefObject<HTMLDivElement | null>,
  { column, trace, chosen }: { column: TraceColumn; trace: Trace; chosen: number },
): Virtualizer<HTMLDivElement, Element> {
  const { rows, fitting } = column;
  const virtual = useVirtualizer<HTMLDivElement, Element>({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 4,
  });
  useEffect(() => {
    if (chosen >= 0) virtual.scrollToIndex(chosen, { align: 'auto' });
  }, [virtual, chosen]);
  const last = virtual.getVirtualItems().at(-1)?.index ?? 0;
  const isAtEnd = last >= rows.length - 20 && rows.length < fitting;
  useEffect(() => {
    if (isAtEnd) trace.showMore(column);
  }, [isAtEnd, column, trace]);
  return virtual;
}

interface RowProps {
  readonly row: StructureRow;
  readonly column: TraceColumn;
  readonly trace: Trace;
  readonly shown: ReadonlySet<string>;
  readonly start: number;
  readonly isChosen: boolean;
  readonly isUnderCursor: boolean;
}

function Row({ row, column, trace, shown, start, isChosen, isUnderCursor }: RowProps): React.JSX.Element {
  const picked = useDesk().isInTray(row.number);
  return (
    <Line
      role="option"
      aria-selected={isUnderCursor}
      data-chosen={isChosen || undefined}
      data-cursor={isUnderCursor || undefined}
      data-gap={row.gap || row.hidden || undefined}
      data-picked={picked || undefined}
      style={{ transform: `translateY(${start}px)` }}
      onClick={() => trace.pointAtRow(column, row)}
      onDoubleClick={() => trace.focusOn(row)}
    >
      {shown.has('picture') && row.version !== null ? (
        <Thumb item={`${row.number}@${row.version}`} size="small" />
      ) : null}
      <StateGlyph state={row.state} />
      <Text>
        <Top>
          <Mono>
            <MiddleCut text={row.number} />
          </Mono>
          <Quantity>
            {shown.has('quantity') ? `×${row.quantity}` : ''}
            {shown.has('total') && row.total !== row.quantity ? ` = ${row.total}` : ''}
          </Quantity>
        </Top>
        <Bottom>
          <MiddleCut text={row.gap && !row.isInStore ? 'not in the store' : row.name} />
          <span>
            {row.gap ? <AttentionMark>{sayGap(row)}</AttentionMark> : null}
            {shown.has('configurations') ? (
              <Brief>
                <OnlyIn configurations={row.configurations} isBrief />
                <AtTimes effectivity={row.effectivity} />
              </Brief>
            ) : null}
            {shown.has('behind') && row.behind > 0 ? (
              <AttentionMark title={`Recorded as ${row.recorded}; there are newer versions`}>
                behind by {row.behind}
              </AttentionMark>
            ) : null}{' '}
            {shown.has('held') ? <HolderTag holder={row.heldBy} /> : null}{' '}
            {shown.has('version') && row.version !== null ? <Mono>{row.version}</Mono> : null}
            {shown.has('recorded') && row.recorded !== null && row.recorded !== row.version ? (
              <Mono title="As recorded"> ({row.recorded})</Mono>
            ) : null}
          </span>
        </Bottom>
      </Text>
      <Further aria-hidden>{row.more ? (column.side === 'left' ? '‹' : '›') : ''}</Further>
    </Line>
  );
}

function emptyText(column: TraceColumn, filter: string): string {
  if (filter !== '') return 'Nothing here fits the filter.';
  return column.side === 'left' ? 'Nothing uses it: a top-level product.' : 'No components.';
}

const Brief = styled.span`
  max-width: 88px;
`;
const Level = styled.section`
  flex: 0 0 218px;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: ${colour.surface};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  &[data-current] {
    border-color: ${colour.petrol};
  }
`;
const Head = styled.header`
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 8px 10px;
  font-size: 12px;
  color: ${colour.inkSoft};
  border-bottom: 1px solid ${colour.line};
`;
const Filter = styled(TextField)`
  padding: 5px 8px;
  border-bottom: 1px solid ${colour.line};
  input {
    width: 100%;
    height: 24px;
    border: 1px solid ${colour.line};
    border-radius: 3px;
    background: ${colour.raised};
    color: ${colour.ink};
    font: inherit;
    padding: 0 6px;
  }
`;
const List = styled.div`
  flex: 1;
  overflow-y: auto;
  overflow-x: hidden;
`;
const Empty = styled.p`
  padding: 10px;
  color: ${colour.inkSoft};
`;
const Line = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  height: ${ROW_HEIGHT}px;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 6px 0 9px;
  border-bottom: 1px solid ${colour.line};
  background: ${colour.raised};
  cursor: default;
  &[data-gap] {
    background: repeating-linear-gradient(-45deg, ${colour.raised} 0 7px, ${colour.copperSoft} 7px 9px);
  }
  &[data-chosen] {
    background: ${colour.petrolSoft};
  }
  &[data-cursor] {
    outline: 2px solid ${colour.petrol};
    outline-offset: -2px;
  }
  &[data-picked] {
    box-shadow: inset 3px 0 0 ${colour.petrol};
  }
`;
const Text = styled.div`
  flex: 1;
  min-width: 0;
  display: grid;
`;
const Top = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 6px;
  min-width: 0;
  > :first-child {
    min-width: 0;
  }
`;
const Bottom = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 6px;
  min-width: 0;
  color: ${colour.inkSoft};
  font-size: 12px;
  > :last-child {
    flex: none;
  }
`;
const Quantity = styled(Mono)`
  color: ${colour.petrol};
  flex: none;
`;
const Further = styled.span`
  width: 10px;
  color: ${colour.inkSoft};
`;
