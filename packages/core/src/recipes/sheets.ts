/** Wish sheets out of tables: which column is which wish, whatever the table calls it. */
import type { WishDefinition } from './recipe.js';

/** What a column stands for: a wish by its name, who asks, or nothing. */
export type SheetColumn = { readonly wish: string } | 'for' | 'nothing';

/** Heads of columns, by `headKey`, that somebody has said the meaning of: the name of a wish, `for`, or empty for nothing. */
export type KnownColumns = Readonly<Record<string, string>>;

export interface TableSheet {
  readonly for: string;
  readonly wishes: Readonly<Record<string, string>>;
}

/** Capitals and space around a head do not count. */
export const headKey = (head: string): string => head.trim().toLowerCase();

/** What parts the cells of a table: a tab where its first row has one, else a semicolon, so that decimal commas stay whole. */
export function delimiterOf(text: string): '\t' | ';' | ',' {
  const head = /^[^\r\n]*/.exec(text.trimStart())?.[0] ?? '';
  if (head.includes('\t')) return '\t';
  return head.includes(';') ? ';' : ',';
}

/**
 * What a head stands for: as somebody said, else who asks where it is `for`, else the wish of that name or label.
 *
 * @returns undefined where it is not understood
 */
export function columnOf(
  head: string,
  wishes: readonly WishDefinition[],
  known: KnownColumns,
): SheetColumn | undefined {
  const key = headKey(head);
  const byName = (text: string): SheetColumn | undefined => {
    if (text === 'for') return 'for';
    const found =
      wishes.find(({ name }) => headKey(name) === text) ??
      wishes.find(({ label }) => headKey(label) === text);
    return found && { wish: found.name };
  };
  const said = Object.hasOwn(known, key) ? known[key] : undefined;
  if (said !== undefined) return said === '' ? 'nothing' : byName(headKey(said));
  return key === '' ? 'nothing' : byName(key);
}

/** A sheet of each row that says anything; empty cells are wishes that nobody has. */
export function sheetsOf(
  rows: readonly (readonly string[])[],
  columns: readonly (SheetColumn | undefined)[],
): TableSheet[] {
  return rows.flatMap((row) => {
    let askedFor = '';
    const wishes: [string, string][] = [];
    for (const [at, column] of columns.entries()) {
      const cell = (row[at] ?? '').trim();
      if (cell === '' || column === undefined || column === 'nothing') continue;
      if (column === 'for') askedFor = cell;
      else wishes.push([column.wish, cell]);
    }
    return askedFor === '' && wishes.length === 0
      ? []
      : [{ for: askedFor, wishes: Object.fromEntries(wishes) }];
  });
}
