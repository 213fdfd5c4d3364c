/** What a bill cannot say, whoever sends it. */
import { isAmount } from '../bom/amount.js';
import { parseDesignators } from '../bom/designators.js';
import { refuseValue } from './edit.js';
import type { BuildBill } from './model.js';

/** @returns the first thing that is wrong with it, in a sentence; undefined where nothing is. `O(rows)` */
export function refuseBill({ rows, columns }: Pick<BuildBill, 'rows' | 'columns'>): string | undefined {
  const ids = new Set<string>();
  let level = 0;
  const columnIds = new Map(columns.map((column) => [column.id, column]));
  if (columnIds.size < columns.length) return 'Two columns have the same id.';
  const names = new Set(columns.map(({ name }) => name.toLowerCase()));
  if (names.size < columns.length) return 'Two columns have the same name. Rename one of them.';
  for (const [at, row] of rows.entries()) {
    const named = row.number || row.name || `Row ${at + 1}`;
    if (row.id === '' || ids.has(row.id)) return `${named}: another row has the same id.`;
    ids.add(row.id);
    if (row.level < 1 || row.level > level + 1)
      return `${named} lies in no row: it is on level ${row.level} below level ${level}.`;
    level = row.level;
    if (row.kind === 'text' ? row.name.trim() === '' : row.number === '') return `${named} names nothing.`;
    if (row.kind === 'engineering' && row.from === undefined)
      return `${named} is from engineering, and does not say from which row.`;
    if (row.isWhole && (rows[at + 1]?.level ?? 0) > row.level)
      return `${named} comes in one piece, so that nothing can lie in it.`;
    if (!isAmount(row.amount)) return `${named}: the quantity is none. Write it anew.`;
    const parsed = parseDesignators(row.designators);
    if (parsed.kind === 'problem') return `${named}: ${parsed.says}.`;
    for (const [id, value] of Object.entries(row.values)) {
      const column = columnIds.get(id);
      if (!column) return `${named} says something in a column that there is not.`;
      const refusal = value === '' ? undefined : refuseValue(column, value);
      if (refusal !== undefined) return `${named}: ${refusal}`;
    }
  }
  return undefined;
}
