import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { GroupLayout } from './use-found.js';

describe('the layout of groups', () => {
  it('has every item once, below its head', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9 }), { maxLength: 12 }), (counts) => {
        const rows = counts.map((count, at) => ({ value: `g${at}`, count }));
        const layout = new GroupLayout('kind', rows);
        const expected = rows.flatMap(({ value, count }) => [
          value,
          ...Array.from({ length: count }, () => ''),
        ]);
        let items = 0;
        expected.forEach((value, index) => {
          expect(layout.headAt(index)?.value ?? '').toBe(value);
          expect(layout.itemsBefore(index)).toBe(items);
          if (value === '') items++;
        });
      }),
    );
  });

  it('is nothing without a group', () => {
    const layout = new GroupLayout(undefined, undefined);
    expect([layout.heads.length, layout.itemsBefore(7), layout.headAt(0)]).toEqual([0, 7, undefined]);
  });
});
