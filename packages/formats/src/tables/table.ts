/** A table on its way out of the store: into a spreadsheet, a list with separators, or a PDF. */

export type Cell = string | number | null;

/** How a row is marked; each has a colour and a sign, so that neither is needed alone. */
export type Mark = 'added' | 'removed' | 'changed' | 'replaced' | 'moved';

export interface OutColumn {
  readonly title: string;
  /** In letters, about. */
  readonly width: number;
  readonly align?: 'right';
  /** Whether the level of a row is seen by how far its cell is moved in. */
  readonly isTree?: boolean;
  /** Whether a text that is longer than its cell goes on below on paper; else it is cut there. */
  readonly wraps?: true;
}

export interface OutRow {
  /** 1 and up. */
  readonly level: number;
  readonly cells: readonly Cell[];
  readonly mark?: Mark;
}

export interface OutTable {
  readonly title: string;
  /** Said below the title: of what, when, under which lens. */
  readonly says: readonly string[];
  readonly columns: readonly OutColumn[];
  readonly rows: readonly OutRow[];
}

export const SIGNS: Readonly<Record<Mark, string>> = {
  added: '+',
  removed: '−',
  changed: '≠',
  replaced: '⇄',
  moved: '↕',
};

/** Ground of marked rows: blue, copper and violet, told apart by people who see no red or no green. RRGGBB. */
export const GROUNDS: Readonly<Record<Mark, string>> = {
  added: 'DCE9F7',
  removed: 'F7E3D6',
  changed: 'E9E1F4',
  replaced: 'E9E1F4',
  moved: 'E9E1F4',
};

/** Marks that a table has, in one order, for its legend. */
export function marksOf({ rows }: OutTable): readonly Mark[] {
  const met = new Set(rows.flatMap(({ mark }) => mark ?? []));
  return (Object.keys(SIGNS) as Mark[]).filter((mark) => met.has(mark));
}
