import type { StructureRow } from '@stem-trace/contract';
import { describe, expect, it } from 'vitest';
import { chainOf, referenceOf, totalOf } from './chain.js';

const row = (number: string, quantity: number): StructureRow => ({
  level: 1,
  number,
  name: number,
  kind: 'part',
  version: 'A/1',
  state: 'draft',
  quantity,
  total: quantity,
  parent: '',
  behind: 0,
  heldBy: null,
  recorded: 'A/1',
  gap: false,
  more: false,
  hidden: false,
});

describe('the chain line', () => {
  it('goes from the focus down, with quantities per parent', () => {
    const chain = chainOf('FM-1@A/2', 'right', [row('FM-2', 2), row('FM-3', 4)]);
    expect(chain).toEqual([
      { number: 'FM-1' },
      { number: 'FM-2', quantity: 2 },
      { number: 'FM-3', quantity: 4 },
    ]);
    expect(totalOf(chain)).toBe(8);
  });

  it('goes from the top down to the focus, where the path leads upwards', () => {
    // FM-2 holds 2 of FM-3, FM-1 holds 3 of FM-2.
    const chain = chainOf('FM-3', 'left', [row('FM-2', 2), row('FM-1', 3)]);
    expect(chain).toEqual([
      { number: 'FM-1' },
      { number: 'FM-2', quantity: 3 },
      { number: 'FM-3', quantity: 2 },
    ]);
    expect(totalOf(chain)).toBe(6);
  });

  it('is just the focus where nothing else is chosen', () => {
    expect(totalOf(chainOf('FM-1', 'right', [undefined]))).toBe(1);
  });

  it('names versions so that the next column is the recorded one', () => {
    expect(referenceOf(row('FM-2', 1))).toBe('FM-2@A/1');
  });
});
