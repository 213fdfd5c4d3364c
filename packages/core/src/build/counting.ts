/** From when until when the rows of a bill count, as its columns say. */
import { effectivityFrom, isInEffect, type EffectiveAt } from '../model/effectivity.js';
import { parentsOf, type BuildBill, type BuildColumn, type BuildRow } from './model.js';

type Said = Pick<BuildBill, 'rows' | 'columns'>;

/** The first column that says what is planned, and the first of what became of it; those that there are. */
export function effectivityColumns(columns: readonly BuildColumn[]): readonly BuildColumn[] {
  return (['planned effectivity', 'actual effectivity'] as const).flatMap(
    (type) => columns.find((column) => column.type === type) ?? [],
  );
}

/** What is said of each row, in their order, or why that cannot be read. `O(rows)` */
export function effectivitiesOf({ rows, columns }: Said): ReturnType<typeof effectivityFrom>[] {
  const known = effectivityColumns(columns);
  const says = ({ values }: BuildRow, type: BuildColumn['type']): string => {
    const column = known.find((each) => each.type === type);
    return column ? (values[column.id] ?? '') : '';
  };
  return rows.map((row) =>
    effectivityFrom(says(row, 'planned effectivity'), says(row, 'actual effectivity')),
  );
}

/**
 * Rows that count on a day, or in a piece of a product. What stands below a row that does not count does not count either; a row of which
 * cannot be read when it counts stays. `O(rows)`
 */
export function rowsThatCount(bill: Said, at: EffectiveAt): readonly BuildRow[] {
  const parents = parentsOf(bill.rows);
  const counts: boolean[] = [];
  for (const [index, read] of effectivitiesOf(bill).entries()) {
    const isWithin = counts[parents[index] ?? -1] ?? true;
    counts.push(isWithin && ('says' in read || isInEffect(read.effectivity, at)));
  }
  return bill.rows.filter((_, index) => counts[index]);
}
