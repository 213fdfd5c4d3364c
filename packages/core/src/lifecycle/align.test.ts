import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { alignRevisions, type RevisionRow } from './align.js';

const rows = (...codes: string[]): RevisionRow[] =>
  codes.map((code, index) => ({ id: `r${index + 1}`, code, position: index + 1 }));
const said = (...given: Parameters<typeof alignRevisions>): string[] =>
  alignRevisions(...given).map(({ from, to }) => `${from} > ${to}`);

describe('aligning revisions', () => {
  it('gives each its code in the scheme and leaves alone what has it', () => {
    expect(said(rows('A', 'B'))).toEqual([]);
    expect(said(rows('00', '01', 'C'))).toEqual(['00 > A', '01 > B']);
    expect(said(rows('1', '2'), 3)).toEqual(['1 > C', '2 > D']);
    expect(said(rows('A', '02'), 1, 'two digits')).toEqual(['A > 01']);
  });

  it('goes by their order, not by how they are listed', () => {
    const [first, second] = rows('x', 'y');
    expect(first && second && said([second, first])).toEqual(['x > A', 'y > B']);
  });

  it('is done after it was done once, and never gives one code twice', () => {
    const code = fc.oneof(fc.stringMatching(/^[A-Z]{1,2}$/), fc.stringMatching(/^\d{1,3}$/));
    fc.assert(
      fc.property(
        fc.uniqueArray(code, { maxLength: 30 }),
        fc.integer({ min: 1, max: 20 }),
        (codes, start) => {
          const before = rows(...codes);
          const changes = new Map(alignRevisions(before, start).map(({ id, to }) => [id, to]));
          const after = before.map((row) => ({ ...row, code: changes.get(row.id) ?? row.code }));
          expect(alignRevisions(after, start)).toEqual([]);
          expect(new Set(after.map((row) => row.code)).size).toBe(codes.length);
        },
      ),
    );
  });
});
