import type { KeyboardEvent } from 'react';
import type { GridProps } from './grid-types.js';

/** Picks the row under the cursor and the one that it goes to, where they are not picked. */
function pickOn<Row>({ cursor, onPick, isPicked }: GridProps<Row>, target: number | undefined): void {
  if (!onPick || target === undefined) return;
  for (const row of [cursor.row, cursor.at(target)]) if (row !== undefined && !isPicked?.(row)) onPick(row);
}

/** Moves the cursor, opens or picks the row under it. @param page rows that are in sight */
export function handleKey<Row>(event: KeyboardEvent, props: GridProps<Row>, page: number): void {
  // Keys typed into an editor inside a cell belong to it.
  if (event.target !== event.currentTarget) return;
  const { index, from, row, count, moveTo } = props.cursor;
  if (props.onKey?.(event, row)) {
    event.preventDefault();
    return;
  }
  const moves: Readonly<Record<string, number>> = {
    // Where the row is gone, the one that stands there now comes next.
    ArrowDown: index < 0 ? from : index + 1,
    ArrowUp: from - 1,
    PageDown: from + page,
    PageUp: from - page,
    Home: 0,
    End: count - 1,
  };
  const target = moves[event.key];
  if (event.shiftKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) pickOn(props, target);
  if (target !== undefined && !event.altKey && !event.ctrlKey && !event.metaKey) {
    event.preventDefault();
    if (count > 0) moveTo(Math.min(count - 1, Math.max(0, target)));
  } else if (event.key === 'Enter' && row !== undefined && props.onOpen) {
    event.preventDefault();
    props.onOpen(row);
  } else if (event.key === ' ' && row !== undefined && props.onPick) {
    event.preventDefault();
    props.onPick(row);
  }
}
