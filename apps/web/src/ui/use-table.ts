/** A table that is sorted by its headings, and whose columns keep the widths that somebody gave them. */
import { useMemo } from 'react';
import type { GridColumn, GridProps } from './grid-types.js';
import { useKept } from './kept.js';

interface KeptTable {
  readonly sort?: { readonly key: string; readonly order: 'up' | 'down' };
  readonly widths: Readonly<Record<string, number>>;
}

const AS_IT_COMES: KeptTable = { widths: {} };

export interface Table<Row> {
  /** In the order that was asked for. */
  readonly rows: readonly Row[];
  /** For the grid. */
  readonly grid: Pick<GridProps<Row>, 'columns' | 'onSort' | 'onResize' | 'sort'>;
}

/**
 * @param name under which sort and widths are kept
 * @param rows in the order in which they make sense by themselves; a heading sorts up, then down, then gives this back
 */
export function useTable<Row>(
  name: string,
  rows: readonly Row[],
  columns: readonly GridColumn<Row>[],
): Table<Row> {
  const { sort, grid } = useHeadings(name, columns);
  const sorted = useMemo(() => sortedBy(rows, columns, sort), [rows, columns, sort]);
  return { rows: sorted, grid };
}

export interface Headings<Row> {
  readonly sort: KeptTable['sort'];
  readonly grid: Table<Row>['grid'];
}

/** Headings by which a table is sorted, where its rows are laid out elsewhere. */
export function useHeadings<Row>(name: string, columns: readonly GridColumn<Row>[]): Headings<Row> {
  const [kept, keep] = useKept(`table.${name}`, isKeptTable, AS_IT_COMES);
  const { sort, widths } = kept;
  const shown = useMemo(
    () =>
      columns.map((column) => ({
        ...column,
        sortable: column.sortBy !== undefined,
        ...(widths[column.key] === undefined ? {} : { width: `${widths[column.key]}px` }),
      })),
    [columns, widths],
  );
  return {
    sort,
    grid: {
      columns: shown,
      ...(sort ? { sort } : {}),
      onSort: (key) => {
        const { sort: _, ...others } = kept;
        if (sort?.key === key && sort.order === 'down') keep(others);
        else keep({ ...kept, sort: { key, order: sort?.key === key ? 'down' : 'up' } });
      },
      onResize: (key, widthPx) => keep({ ...kept, widths: { ...widths, [key]: widthPx } }),
    },
  };
}

const COLLATOR = new Intl.Collator('en-GB', { numeric: true, sensitivity: 'base' });

/** Rows by a column; what says nothing comes last, and equals stay in their order. */
export function sortedBy<Row>(
  rows: readonly Row[],
  columns: readonly GridColumn<Row>[],
  sort: KeptTable['sort'],
): readonly Row[] {
  const valueOf = columns.find(({ key }) => key === sort?.key)?.sortBy;
  if (!sort || !valueOf) return rows;
  const direction = sort.order === 'up' ? 1 : -1;
  return rows
    .map((row) => ({ row, value: valueOf(row) }))
    .sort((a, b) => {
      const [noA, noB] = [isNothing(a.value), isNothing(b.value)];
      if (noA || noB) return Number(noA) - Number(noB);
      return direction * compare(a.value, b.value);
    })
    .map(({ row }) => row);
}

type Value = string | number | null;

function compare(a: Value, b: Value): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : COLLATOR.compare(String(a), String(b));
}

function isNothing(value: Value): boolean {
  return value === null || value === '';
}

function isKeptTable(value: unknown): value is KeptTable {
  return typeof value === 'object' && value !== null && 'widths' in value && typeof value.widths === 'object';
}
