/**
 * A table for very many rows: only those in sight are in the page. One row is under the cursor; the cursor moves by
 * keys and by mouse, and screen readers follow it through aria-activedescendant, so the focus itself stays put while
 * rows come and go.
 */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useMemo, useRef, useState, type RefObject } from 'react';
import styled from 'styled-components';
import { ColumnEdge } from './grid-edge.js';
import { handleKey } from './grid-keys.js';
import { GridRow } from './grid-row.js';
import type { GridColumn, GridProps } from './grid-types.js';
import { rowHeight, useShowing } from './showing.js';
import { colour, size } from './theme.js';
import { useIsNarrow } from './use-narrow.js';

export type { GridColumn, GridProps } from './grid-types.js';
export { useGridCursor, type GridCursor } from './use-grid-cursor.js';

/** The first columns say what a row is. */
const KEPT_COLUMNS = 3;

/** Width that columns have, as long as the window is narrow; elsewhere they have what they want. */
function useRoom(scroll: RefObject<HTMLDivElement | null>): number {
  const isNarrow = useIsNarrow();
  const [widthPx, setWidth] = useState(Infinity);
  useEffect(() => {
    const element = scroll.current;
    if (!element || !isNarrow) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, [scroll, isNarrow]);
  return isNarrow ? widthPx : Infinity;
}

/** Columns that have room: those that matter less go first, then those further to the right. */
function fitting<Row>(columns: readonly GridColumn<Row>[], room: number): readonly GridColumn<Row>[] {
  const kept = [...columns];
  while (leastWidth(kept) > room && kept.length > KEPT_COLUMNS) {
    const minor = kept.findLastIndex(({ isMinor }) => isMinor);
    kept.splice(minor >= 0 ? minor : kept.length - 1, 1);
  }
  return kept.length === columns.length ? columns : kept;
}

/** Rows made beyond those in sight, on either side. */
const OVERSCAN = 3;

export function Grid<Row>(props: GridProps<Row>): React.JSX.Element {
  const { label, sort } = props;
  const { count: rowCount, index: cursor } = props.cursor;
  const rowPx = rowHeight(
    useShowing(),
    props.columns.some(({ hasPicture }) => hasPicture),
  );
  const id = useId();
  const scroll = useRef<HTMLDivElement>(null);
  const room = useRoom(scroll);
  const columns = useMemo(() => fitting(props.columns, room), [props.columns, room]);
  const virtual = useVirtualizer({
    count: rowCount,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowPx,
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
  // Rows that were measured at another height are laid out anew.
  useEffect(() => virtual.measure(), [virtual, rowPx]);
  // Measured when a key is pressed: while drawing, it would lay the page out once more.
  const inSight = (): number => Math.max(1, Math.floor((scroll.current?.clientHeight ?? 320) / rowPx) - 2);

  return (
    <Frame>
      <Scroll
        ref={scroll}
        tabIndex={0}
        role={props.levelOf ? 'treegrid' : 'grid'}
        aria-label={label}
        aria-rowcount={rowCount + 1}
        aria-colcount={columns.length}
        data-matrix={columns.some(({ isFixed }) => isFixed) || undefined}
        aria-activedescendant={cursor >= 0 && cursor < rowCount ? `${id}-${cursor}` : undefined}
        onKeyDown={(event) => handleKey(event, props, inSight())}
      >
        <Wide style={{ minWidth: leastWidth(columns) }}>
          <Head role="row" aria-rowindex={1} style={{ gridTemplateColumns: template }}>
            {columns.map((column) => (
              <HeadCell
                key={column.key}
                role="columnheader"
                data-align={column.align}
                data-fixed={column.isFixed || undefined}
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
                  <ColumnEdge onResize={(widthPx) => props.onResize?.(column.key, widthPx)} />
                ) : null}
              </HeadCell>
            ))}
          </Head>
          <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {shown.map(({ index, start }) => {
              const row = props.cursor.at(index);
              return (
                <GridRow
                  key={props.reuses ? index % pool.current : index}
                  {...{ latest, index, start, id, template, columns, rowPx }}
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

/** Width below which the table scrolls sideways, so that head and rows keep the same tracks. */
function leastWidth(columns: readonly { readonly width: string }[]): number {
  return columns.reduce((sum, { width }) => sum + Number(/(\d+)px/.exec(width)?.[1] ?? 0), 0);
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
  &[data-fixed] {
    position: sticky;
    left: 0;
    z-index: 1;
    background: inherit;
  }
  &[data-align='right'] {
    justify-content: flex-end;
  }
  &[data-align='center'] {
    justify-content: center;
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
