import type { IntakeRowView } from '@stem-trace/contract';
import { describe, expect, it } from 'vitest';
import { filterOptions, filterRows } from './row-filter.js';

const row = (number: string, given: Partial<IntakeRowView> = {}): IntakeRowView => ({
  key: number,
  path: `${number}.stp`,
  number,
  name: number,
  kind: 'part',
  carrier: null,
  status: 'new',
  canOverwrite: false,
  takesOver: false,
  doubtful: [],
  format: 'step',
  properties: [],
  existing: null,
  madeFrom: null,
  belongsTo: null,
  references: { resolved: 0, gaps: 0 },
  notes: [],
  ...given,
});

const ROWS = [
  row('A'),
  row('B', { status: 'problem', notes: ['line 3'] }),
  row('C', { references: { resolved: 1, gaps: 2 } }),
  row('D', { status: 'unchanged', name: 'Bolt M8' }),
];
const numbers = (...given: Parameters<typeof filterRows>): string[] =>
  filterRows(...given).map(({ number }) => number);

describe('rows of a review', () => {
  it('are shown by what becomes of them', () => {
    expect(numbers(ROWS, 'all', '')).toEqual(['A', 'B', 'C', 'D']);
    expect(numbers(ROWS, 'attention', '')).toEqual(['B', 'C']);
    expect(numbers(ROWS, 'problem', '')).toEqual(['B']);
    expect(numbers(ROWS, 'gap', '')).toEqual(['C']);
    expect(numbers(ROWS, 'unchanged', '')).toEqual(['D']);
  });

  it('are shown by every word in path, number, name and notes', () => {
    expect(numbers(ROWS, 'all', 'm8 BOLT')).toEqual(['D']);
    expect(numbers(ROWS, 'all', 'line')).toEqual(['B']);
    expect(numbers(ROWS, 'new', 'line')).toEqual([]);
  });

  it('are counted for each choice that there is', () => {
    expect(filterOptions(ROWS).map(({ text }) => text)).toEqual([
      'All 4',
      'Needs attention 2',
      'Problems 1',
      'Gaps 1',
      'New 2',
      'Left out 1',
    ]);
  });
});
