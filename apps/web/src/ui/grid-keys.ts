import type { KeyboardEvent } from 'react';
import type { GridProps } from './grid-types.js';

/** Moves the cursor, opens or picks the row under it. @param page rows that are in sight */
export function handleKey<Row>(event: KeyboardEvent, props: GridProps<Row>, page: number): void {
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
