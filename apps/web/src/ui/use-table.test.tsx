// @vitest-environment happy-dom
import { act, cleanup, renderHook } from '@testing-library/react';
import fc from 'fast-check';
import { afterEach, expect, it } from 'vitest';
import type { GridColumn } from './grid-types.js';
import { readKept } from './kept.js';
import { sortedBy, useTable } from './use-table.js';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

interface Row {
  readonly number: string;
  readonly mass: number | null;
}

const COLUMNS: readonly GridColumn<Row>[] = [
  {
    key: 'number',
    title: 'Number',
    width: '80px',
    sortBy: ({ number }) => number,
    cell: ({ number }) => number,
  },
  { key: 'mass', title: 'Mass', width: '80px', sortBy: ({ mass }) => mass, cell: ({ mass }) => mass },
  { key: 'plain', title: 'Plain', width: '80px', cell: () => '' },
];
const ROWS: readonly Row[] = [
  { number: 'FM-10', mass: null },
  { number: 'FM-9', mass: 2 },
  { number: 'fm-9', mass: 0.5 },
];

it('sorts up, down, and gives the order back that the rows came in', () => {
  const { result } = renderHook(() => useTable('t', ROWS, COLUMNS));
  const numbers = (): string[] => result.current.rows.map(({ number }) => number);
  expect(result.current.grid.columns.map(({ sortable }) => sortable)).toEqual([true, true, false]);
  act(() => result.current.grid.onSort?.('mass'));
  expect(numbers()).toEqual(['fm-9', 'FM-9', 'FM-10']);
  act(() => result.current.grid.onSort?.('mass'));
  // What says nothing comes last either way.
  expect(numbers()).toEqual(['FM-9', 'fm-9', 'FM-10']);
  act(() => result.current.grid.onSort?.('mass'));
  expect(numbers()).toEqual(['FM-10', 'FM-9', 'fm-9']);
});

it('keeps sort and widths for the next time, and takes nothing else for them', () => {
  const first = renderHook(() => useTable('t', ROWS, COLUMNS));
  act(() => first.result.current.grid.onSort?.('number'));
  act(() => first.result.current.grid.onResize?.('mass', 120));
  const second = renderHook(() => useTable('t', ROWS, COLUMNS)).result.current;
  expect(second.rows.map(({ number }) => number)).toEqual(['FM-9', 'fm-9', 'FM-10']);
  expect(second.grid.columns[1]?.width).toBe('120px');
  localStorage.setItem('stem-trace.table.t', '[7]');
  expect(renderHook(() => useTable('t', ROWS, COLUMNS)).result.current.rows).toBe(ROWS);
});

it('loses no row, keeps equals in their order, and is the same when it is done again', () => {
  const row = fc.record({
    number: fc.string({ maxLength: 4 }),
    mass: fc.option(fc.integer({ min: 0, max: 3 })),
  });
  fc.assert(
    fc.property(
      fc.array(row),
      fc.constantFrom('number', 'mass', 'plain', 'unknown'),
      fc.constantFrom('up', 'down'),
      (rows, key, order) => {
        const sorted = sortedBy<Row>(rows, COLUMNS, { key, order });
        expect(new Set(sorted)).toEqual(new Set(rows));
        expect(sortedBy(sorted, COLUMNS, { key, order })).toEqual(sorted);
        const same = sorted.filter(({ mass }) => mass === 1);
        if (key === 'mass') expect(same).toEqual(rows.filter(({ mass }) => mass === 1));
      },
    ),
  );
});

it('what is kept is read only where it is what it should be', () => {
  const isNumber = (value: unknown): value is number => typeof value === 'number';
  for (const text of ['', 'null', '{', '"7"', '[7]']) {
    localStorage.setItem('stem-trace.x', text);
    expect(readKept('x', isNumber)).toBeUndefined();
  }
  localStorage.setItem('stem-trace.x', '7');
  expect(readKept('x', isNumber)).toBe(7);
});
