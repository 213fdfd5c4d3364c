/**
 * A table for very many rows: only those in sight are in the page. One row is under the cursor; the cursor moves by
 * keys and by mouse, and screen readers follow it through aria-activedescendant, so the focus itself stays put while
 * rows come and go.
 */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useRef, type KeyboardEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import { colour, size } from './theme.js';

export interface GridColumn<Row> {
  readonly key: string;
  readonly title: string;
  /** CSS grid track, e.g. `120px` or `minmax(160px, 1fr)`. */
  readonly width: string;
  readonly align?: 'right' | 'center';
  readonly sortable?: boolean;
  cell(row: Row, index: number): ReactNode;
}

export interface GridProps<Row> {
  readonly label: string;
  readonly columns: readonly GridColumn<Row>[];
  readonly rowCount: number;
  /** Undefined for a row that has not come yet. */
  row(index: number): Row | undefined;
  readonly cursor: number;
  readonly onCursor: (index: number) => void;
  /** Enter or double click. */
  readonly onOpen?: (row: Row) => void;
  /** Space. */
  readonly onPick?: (row: Row) => void;
  readonly isPicked?: (row: Row) => boolean;
  /** Further keys, before the grid's own; true when taken. */
  readonly onKey?: (event: KeyboardEvent, row: Row | undefined) => boolean;
  readonly sort?: { readonly key: string; readonly order: 'up' | 'down' };
  readonly onSort?: (key: string) => void;
  /** Told which rows are in sight, to fetch them. */
  readonly onSight?: (first: number, last: number) => void;
  readonly ground?: (row: Row) => string | undefined;
  /** Depth in a tree, from 1; makes this a tree grid. */
  readonly levelOf?: (row: Row) => number;
  /** Whether what lies below a row of a tree is open; undefined where there is nothing below. */
  readonly isExpanded?: (row: Row) => boolean | undefined;
  readonly takesFocus?: boolean;
  /** What a row that heads others says, over the whole width; undefined for other rows. */
  readonly headOf?: (row: Row) => ReactNode;
  /** Makes the edges of headings movable. */
  readonly onResize?: (key: string, widthPx: number) => void;
}

export function Grid<Row>(props: GridProps<Row>): React.JSX.Element {
  const { label, columns, rowCount, cursor, sort } = props;
  const id = useId();
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rowCount,
    getScrollElement: () => scroll.current,
    estimateSize: () => size.row,
    overscan: 12,
  });
  const shown = virtual.getVirtualItems();
  const first = shown[0]?.index ?? 0;
  const last = shown.at(-1)?.index ?? 0;
  const { onSight, takesFocus } = props;
  useEffect(() => onSight?.(first, last), [onSight, first, last]);
  useEffect(() => {
    if (cursor >= 0 && cursor < rowCount) virtual.scrollToIndex(cursor, { align: 'auto' });
  }, [virtual, cursor, rowCount]);
  useEffect(() => {
    if (takesFocus) scroll.current?.focus();
  }, [takesFocus]);
  const template = columns.map((column) => column.width).join(' ');
  const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 320) / size.row) - 2);

  return (
    <Frame>
      <Scroll
        ref={scroll}
        tabIndex={0}
        role={props.levelOf ? 'treegrid' : 'grid'}
        aria-label={label}
        aria-rowcount={rowCount + 1}
        aria-colcount={columns.length}
        aria-activedescendant={cursor >= 0 && cursor < rowCount ? `${id}-${cursor}` : undefined}
        onKeyDown={(event) => handleKey(event, props, page)}
      >
        <Wide style={{ minWidth: leastWidth(columns) }}>
          <Head role="row" aria-rowindex={1} style={{ gridTemplateColumns: template }}>
            {columns.map((column) => (
              <HeadCell
                key={column.key}
                role="columnheader"
                data-align={column.align}
                aria-sort={ariaSort(column, sort)}
              >
                {column.sortable ? (
                  <SortButton type="button" tabIndex={-1} onClick={() => props.onSort?.(column.key)}>
                    {column.title}
                    <span aria-hidden>
                      {sort?.key === column.key ? (sort.order === 'up' ? ' ↑' : ' ↓') : ''}
                    </span>
                  </SortButton>
                ) : (
                  column.title
                )}
                {props.onResize && column.title !== '' ? (
                  <Edge
                    aria-hidden
                    onPointerDown={(event) => followEdge(event, (px) => props.onResize?.(column.key, px))}
                  />
                ) : null}
              </HeadCell>
            ))}
          </Head>
          <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {shown.map(({ index, start }) => (
              <GridRow key={index} {...{ props, index, start, id, template }} />
            ))}
          </div>
        </Wide>
      </Scroll>
    </Frame>
  );
}

interface RowProps<Row> {
  readonly props: GridProps<Row>;
  readonly index: number;
  readonly start: number;
  readonly id: string;
  readonly template: string;
}

function GridRow<Row>({ props, index, start, id, template }: RowProps<Row>): React.JSX.Element {
  const row = props.row(index);
  const head = row === undefined ? undefined : props.headOf?.(row);
  const picked = row !== undefined && (props.isPicked?.(row) ?? false);
  return (
    <Line
      id={`${id}-${index}`}
      role="row"
      aria-rowindex={index + 2}
      aria-level={row !== undefined ? props.levelOf?.(row) : undefined}
      aria-expanded={row !== undefined ? props.isExpanded?.(row) : undefined}
      aria-selected={props.onPick ? picked : undefined}
      data-cursor={props.cursor === index || undefined}
      data-picked={picked || undefined}
      style={{
        transform: `translateY(${start}px)`,
        gridTemplateColumns: template,
        background: row === undefined ? undefined : props.ground?.(row),
      }}
      onClick={() => props.onCursor(index)}
      onDoubleClick={() => row !== undefined && props.onOpen?.(row)}
    >
      {head === undefined ? (
        props.columns.map((column) => (
          <Cell key={column.key} role="gridcell" data-align={column.align}>
            {row === undefined ? '…' : column.cell(row, index)}
          </Cell>
        ))
      ) : (
        <Cell role="gridcell" aria-colspan={props.columns.length} data-head>
          {head}
        </Cell>
      )}
    </Line>
  );
}

/** Drags the edge of a heading until the pointer is let go. */
function followEdge(event: React.PointerEvent<HTMLElement>, tell: (widthPx: number) => void): void {
  event.preventDefault();
  const edge = event.currentTarget;
  const left = edge.parentElement?.getBoundingClientRect().left ?? 0;
  edge.setPointerCapture(event.pointerId);
  const move = ({ clientX }: PointerEvent): void => tell(Math.max(MIN_WIDTH, Math.round(clientX - left)));
  edge.addEventListener('pointermove', move);
  edge.addEventListener('lostpointercapture', () => edge.removeEventListener('pointermove', move), {
    once: true,
  });
}

const MIN_WIDTH = 48;

/** Width below which the table scrolls sideways, so that head and rows keep the same tracks. */
function leastWidth(columns: readonly { readonly width: string }[]): number {
  return columns.reduce((sum, { width }) => sum + Number(/(\d+)px/.exec(width)?.[1] ?? 0), 0);
}

function handleKey<Row>(event: KeyboardEvent, props: GridProps<Row>, page: number): void {
  // Keys typed into an editor inside a cell belong to it.
  if (event.target !== event.currentTarget) return;
  const { cursor, rowCount } = props;
  const row = cursor >= 0 ? props.row(cursor) : undefined;
  if (props.onKey?.(event, row)) {
    event.preventDefault();
    return;
  }
  const moves: Readonly<Record<string, number>> = {
    ArrowDown: cursor + 1,
    ArrowUp: cursor - 1,
    PageDown: cursor + page,
    PageUp: cursor - page,
    Home: 0,
    End: rowCount - 1,
  };
  const target = moves[event.key];
  if (target !== undefined && !event.altKey && !event.ctrlKey && !event.metaKey) {
    event.preventDefault();
    if (rowCount > 0) props.onCursor(Math.min(rowCount - 1, Math.max(0, target)));
  } else if (event.key === 'Enter' && row !== undefined && props.onOpen) {
    event.preventDefault();
    props.onOpen(row);
  } else if (event.key === ' ' && row !== undefined && props.onPick) {
    event.preventDefault();
    props.onPick(row);
  }
}

function ariaSort<Row>(
  column: GridColumn<Row>,
  sort: GridProps<Row>['sort'],
): 'ascending' | 'descending' | 'none' | undefined {
  if (!column.sortable) return undefined;
  if (sort?.key !== column.key) return 'none';
  return sort.order === 'up' ? 'ascending' : 'descending';
}

const Frame = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  overflow: hidden;
  &:has(> :focus-visible) {
    outline: 2px solid ${colour.petrol};
    outline-offset: 1px;
  }
`;
const Scroll = styled.div`
  flex: 1;
  overflow: auto;
  position: relative;
  &:focus-visible {
    outline: none;
  }
`;
const Wide = styled.div`
  position: relative;
`;
const Head = styled.div`
  display: grid;
  position: sticky;
  top: 0;
  z-index: 1;
  height: ${size.row}px;
  background: ${colour.surface};
  border-bottom: 1px solid ${colour.line};
  color: ${colour.inkSoft};
  font-size: 12px;
  font-weight: 500;
`;
const HeadCell = styled.div`
  padding: 0 10px;
  display: flex;
  align-items: center;
  white-space: nowrap;
  overflow: hidden;
  position: relative;
  &[data-align='right'] {
    justify-content: flex-end;
  }
  &[data-align='center'] {
    justify-content: center;
  }
`;
const Edge = styled.span`
  position: absolute;
  right: 0;
  top: 6px;
  bottom: 6px;
  width: 7px;
  border-right: 1px solid ${colour.line};
  cursor: col-resize;
  touch-action: none;
  &:hover {
    border-right: 2px solid ${colour.petrol};
  }
`;
const SortButton = styled.button`
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: default;
  white-space: pre;
  &:hover {
    color: ${colour.petrol};
  }
`;
const Line = styled.div`
  position: absolute;
  top: 0;
  left: 0;
  min-width: 100%;
  height: ${size.row}px;
  display: grid;
  border-bottom: 1px solid ${colour.line};
  cursor: default;
  &[data-picked] {
    box-shadow: inset 3px 0 0 ${colour.petrol};
  }
  &[data-cursor] {
    background: ${colour.petrolSoft} !important;
  }
`;
const Cell = styled.div`
  &[data-head] {
    grid-column: 1 / -1;
    background: ${colour.surface};
    font-weight: 600;
  }
  padding: 0 10px;
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  > span {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  &[data-align='right'] {
    justify-content: flex-end;
  }
  &[data-align='center'] {
    justify-content: center;
  }
`;
