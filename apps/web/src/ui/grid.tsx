/**
 * A table for very many rows: only those in sight are in the page. One row is under the cursor; the cursor moves by
 * keys and by mouse, and screen readers follow it through aria-activedescendant, so the focus itself stays put while
 * rows come and go.
 */
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useId, useRef, type KeyboardEvent, type ReactNode, type RefObject } from 'react';
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
  /**
   * Whether rows that scroll out of sight give their elements to those that come in, which is much faster. Only where no
   * cell keeps anything of its own, as an editor does.
   */
  readonly reuses?: boolean;
}

/** Rows made beyond those in sight, on either side. */
const OVERSCAN = 3;

export function Grid<Row>(props: GridProps<Row>): React.JSX.Element {
  const { label, columns, rowCount, cursor, sort } = props;
  const id = useId();
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rowCount,
    getScrollElement: () => scroll.current,
    estimateSize: () => size.row,
    overscan: OVERSCAN,
    // Rows are drawn with the next frame, once, however many times it was scrolled until then.
    useFlushSync: false,
  });
  const shown = virtual.getVirtualItems();
  const latest = useRef(props);
  latest.current = props;
  // As many as were ever in sight at a time: then each of them finds an element that is free.
  const pool = useRef(1);
  pool.current = Math.max(pool.current, shown.length);
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
            {shown.map(({ index, start }) => {
              const row = props.row(index);
              return (
                <GridRow
                  key={props.reuses ? index % pool.current : index}
                  {...{ latest, index, start, id, template, columns }}
                  row={row}
                  isCursor={cursor === index}
                  isPicked={row !== undefined && (props.isPicked?.(row) ?? false)}
                  isExpanded={row === undefined ? undefined : props.isExpanded?.(row)}
                  ground={row === undefined ? undefined : props.ground?.(row)}
                />
              );
            })}
          </div>
        </Wide>
      </Scroll>
    </Frame>
  );
}

interface RowProps<Row> {
  /** The grid's properties as they are now; what a row looks like hangs on the others alone. */
  readonly latest: RefObject<GridProps<Row>>;
  readonly columns: readonly GridColumn<Row>[];
  readonly row: Row | undefined;
  readonly index: number;
  readonly start: number;
  readonly id: string;
  readonly template: string;
  readonly isCursor: boolean;
  readonly isPicked: boolean;
  readonly isExpanded: boolean | undefined;
  readonly ground: string | undefined;
}

function Row<Row>(props: RowProps<Row>): React.JSX.Element {
  const { latest, columns, row, index } = props;
  const { levelOf, headOf, onPick } = latest.current;
  const head = row === undefined ? undefined : headOf?.(row);
  return (
    <Line
      id={`${props.id}-${index}`}
      role="row"
      aria-rowindex={index + 2}
      aria-level={row !== undefined ? levelOf?.(row) : undefined}
      aria-expanded={props.isExpanded}
      aria-selected={onPick ? props.isPicked : undefined}
      data-cursor={props.isCursor || undefined}
      data-picked={props.isPicked || undefined}
      style={{
        transform: `translateY(${props.start}px)`,
        gridTemplateColumns: props.template,
        background: props.ground,
      }}
      onClick={() => latest.current.onCursor(index)}
      onDoubleClick={() => row !== undefined && latest.current.onOpen?.(row)}
    >
      {head === undefined ? (
        columns.map((column) => (
          <div key={column.key} role="gridcell" data-align={column.align}>
            {row === undefined ? '…' : column.cell(row, index)}
          </div>
        ))
      ) : (
        <div role="gridcell" aria-colspan={columns.length} data-head>
          {head}
        </div>
      )}
    </Line>
  );
}

const GridRow = memo(Row) as typeof Row;

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
  inset: 0 0 auto;
  height: ${size.row}px;
  display: grid;
  /* Nothing in a row changes anything outside of it, so that laying it out stays cheap. */
  contain: strict;
  border-bottom: 1px solid ${colour.line};
  cursor: default;
  &[data-picked] {
    box-shadow: inset 3px 0 0 ${colour.petrol};
  }
  &[data-cursor] {
    background: ${colour.petrolSoft} !important;
  }
  > [role='gridcell'] {
    padding: 0 10px;
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
    overflow: hidden;
    white-space: nowrap;
  }
  > [data-head] {
    grid-column: 1 / -1;
    background: ${colour.surface};
    font-weight: 600;
  }
  > [data-align='right'] {
    justify-content: flex-end;
  }
  > [data-align='center'] {
    justify-content: center;
  }
  > [role='gridcell'] > span {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;
