import type { KeyboardEvent, ReactNode } from 'react';
import type { GridCursor } from './use-grid-cursor.js';

export interface GridColumn<Row> {
  readonly key: string;
  readonly title: string;
  /** CSS grid track, e.g. `120px` or `minmax(160px, 1fr)`. */
  readonly width: string;
  readonly align?: 'right' | 'center';
  /** Stays in sight where a matrix is wider than the window: of the first column alone. */
  readonly isFixed?: boolean;
  /** Goes first where there is no room for all columns. */
  readonly isMinor?: boolean;
  /** Whether a picture of the row's item stands in it, where somebody wants these. */
  readonly hasPicture?: boolean;
  readonly sortable?: boolean;
  /** What rows are ordered by, where the table itself sorts them; see `useTable`. */
  readonly sortBy?: (row: Row) => string | number | null;
  cell(row: Row, index: number): ReactNode;
}

export interface GridProps<Row> {
  readonly label: string;
  readonly columns: readonly GridColumn<Row>[];
  /** The rows, and the one that the cursor is on; see `useGridCursor`. */
  readonly cursor: GridCursor<Row>;
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
  /** Takes the focus when it is shown, and again whenever this becomes another text. */
  readonly takesFocus?: boolean | string;
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
