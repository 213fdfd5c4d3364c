import { memo, type RefObject } from 'react';
import styled from 'styled-components';
import type { GridColumn, GridProps } from './grid-types.js';
import { colour } from './theme.js';

export interface RowProps<Row> {
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
  readonly rowPx: number;
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
        height: props.rowPx,
        gridTemplateColumns: props.template,
        background: props.ground,
      }}
      onClick={(event) => pickByClick(event, latest.current, row, index)}
      onDoubleClick={() => row !== undefined && latest.current.onOpen?.(row)}
    >
      {head === undefined ? (
        columns.map((column) => (
          <div
            key={column.key}
            role="gridcell"
            data-align={column.align}
            data-fixed={column.isFixed || undefined}
          >
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

/** A click moves the cursor; with Ctrl it picks the row too, with Shift all from the cursor to it. */
function pickByClick<Row>(
  event: React.MouseEvent,
  { cursor, onPick, isPicked }: GridProps<Row>,
  row: Row | undefined,
  index: number,
): void {
  if (onPick && event.shiftKey && cursor.index >= 0) {
    const [first, last] = [Math.min(cursor.index, index), Math.max(cursor.index, index)];
    for (let at = first; at <= last; at++) {
      const between = cursor.at(at);
      if (between !== undefined && !isPicked?.(between)) onPick(between);
    }
  } else if (onPick && (event.ctrlKey || event.metaKey) && row !== undefined) onPick(row);
  cursor.put(row, index);
}

/** A row of a table, drawn anew only where what it shows has changed. */
export const GridRow = memo(Row) as typeof Row;

const Line = styled.div`
  position: absolute;
  inset: 0 0 auto;
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
  > [data-fixed] {
    position: sticky;
    left: 0;
    background: ${colour.raised};
  }
  &[data-cursor] > [data-fixed] {
    background: ${colour.petrolSoft};
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
