import { useState } from 'react';
import { beginAt, putOn, settle, type CursorState, type RowSource } from './cursor.js';

/** The rows of a table, and the one that the cursor is on. */
export interface GridCursor<Row> extends RowSource<Row> {
  /** -1 while the row that it was on is not there. */
  readonly index: number;
  /** What is acted on; undefined while it is not there. */
  readonly row: Row | undefined;
  /** Where it goes on from by keys. */
  readonly from: number;
  /** On the row that is at an index now. */
  readonly moveTo: (index: number) => void;
  /** On a row, as somebody sees it. */
  readonly put: (row: Row | undefined, index: number) => void;
}

export interface CursorOptions {
  /** What the rows are about; when that becomes something else, the cursor begins anew. */
  readonly about?: string;
  /**
   * What of them is wanted; when that becomes something else, by whoever looks, the cursor stays where it can and else begins anew.
   */
  readonly within?: string;
  readonly beginsAt?: number;
}

interface Kept<Row> {
  readonly about: string;
  readonly within: string;
  readonly state: CursorState<Row>;
}

/** Keeps the cursor of a table on its row. @param keyOf tells rows apart, whatever has changed in them */
export function useGridCursor<Row>(
  rows: readonly Row[] | Omit<RowSource<Row>, 'keyOf'>,
  keyOf: (row: Row) => string,
  { about = '', within = '', beginsAt = 0 }: CursorOptions = {},
): GridCursor<Row> {
  const begin = beginAt<Row>(beginsAt);
  const [kept, keep] = useState<Kept<Row>>({ about, within, state: begin });
  const source: RowSource<Row> =
    'at' in rows && 'count' in rows
      ? { ...rows, keyOf }
      : { count: rows.length, at: (index) => rows[index], keyOf };
  let settled = settle(kept.about === about ? kept.state : begin, source);
  if (settled.index < 0 && kept.within !== within) settled = settle(begin, source);
  const { state, index, row } = settled;
  // React draws anew at once with what is kept; the second time nothing differs.
  if (state !== kept.state || about !== kept.about || within !== kept.within) keep({ about, within, state });
  const put = (next: CursorState<Row>): void => keep({ about, within, state: next });
  return {
    ...source,
    index,
    row,
    from: state.index,
    moveTo: (to) => put(putOn(to, source.at(to), keyOf)),
    put: (on, at) => put(putOn(at, on, keyOf)),
  };
}
