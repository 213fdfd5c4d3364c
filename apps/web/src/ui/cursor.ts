/**
 * Where the cursor of a table is. It stands on a row and not on a place: whatever comes in, goes or is sorted by others, it is on the
 * same row or on none, so that nobody acts on what somebody else has put under the cursor.
 */

export interface RowSource<Row> {
  readonly count: number;
  /** Undefined for a row that has not come yet. */
  readonly at: (index: number) => Row | undefined;
  /** Tells rows apart, whatever has changed in them. */
  readonly keyOf: (row: Row) => string;
}

export interface CursorState<Row> {
  /** Of the row that it is on; undefined before that has come. */
  readonly key: string | undefined;
  /** Where that row was last. */
  readonly index: number;
  /** As it was last seen. */
  readonly row: Row | undefined;
}

export interface Settled<Row> {
  readonly state: CursorState<Row>;
  /** -1 while the row is not there. */
  readonly index: number;
  readonly row: Row | undefined;
}

/** How far around its last place a row is looked for. */
const AROUND = 20_000;

/** On the first row that comes at a place. */
export function beginAt<Row>(index: number): CursorState<Row> {
  return { key: undefined, index, row: undefined };
}

/** Finds the row of the cursor among rows as they are now. `O(1)` where it is where it was, else `O(rows around)`. */
export function settle<Row>(state: CursorState<Row>, rows: RowSource<Row>): Settled<Row> {
  const { count, at, keyOf } = rows;
  if (count === 0) return { state, index: -1, row: undefined };
  if (state.key === undefined) {
    const index = Math.min(Math.max(state.index, 0), count - 1);
    const row = at(index);
    const next = row === undefined ? { index } : { key: keyOf(row), index, row };
    return settledOn({ ...state, ...next }, state);
  }
  const here = state.index < count ? at(state.index) : undefined;
  if (here !== undefined && keyOf(here) === state.key) return settledOn({ ...state, row: here }, state);
  const index = search(state, rows);
  if (index >= 0) return settledOn({ ...state, index, row: at(index) }, state);
  // A row that is not loaded any more is still there, as far as anybody knows.
  if (here === undefined && state.index < count) return { state, index: state.index, row: state.row };
  return { state, index: -1, row: undefined };
}

/** The very same state where nothing has changed, so that nothing is drawn anew. */
function settledOn<Row>(next: CursorState<Row>, before: CursorState<Row>): Settled<Row> {
  const isSame = next.key === before.key && next.index === before.index && next.row === before.row;
  const state = isSame ? before : next;
  return { state, index: state.index, row: state.row };
}

/** Index of the row with the key of the cursor, the nearest first; -1 where it is not among those that have come. */
function search<Row>({ key, index }: CursorState<Row>, { count, at, keyOf }: RowSource<Row>): number {
  const isIt = (place: number): boolean => {
    const row = place >= 0 && place < count ? at(place) : undefined;
    return row !== undefined && keyOf(row) === key;
  };
  const furthest = Math.min(AROUND, Math.max(index, count - index));
  for (let distance = 1; distance <= furthest; distance++) {
    if (isIt(index - distance)) return index - distance;
    if (isIt(index + distance)) return index + distance;
  }
  return -1;
}

/** On the row that somebody sees at an index now. */
export function putOn<Row>(
  index: number,
  row: Row | undefined,
  keyOf: (row: Row) => string,
): CursorState<Row> {
  return { key: row === undefined ? undefined : keyOf(row), index, row };
}
