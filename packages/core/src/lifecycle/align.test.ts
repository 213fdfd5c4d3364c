import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { alignRevisions, takeStated, type RevisionRow, type StatedRevision } from './align.js';
import { revisionCode, revisionPosition } from './revision-scheme.js';

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

describe('taking the codes that versions state', () => {
  type Stating = readonly [code: string, ...stated: string[]];
  const stating = (...given: Stating[]): StatedRevision[] =>
    given.map(([code, ...stated], index) => ({ id: `r${index + 1}`, code, position: index + 1, stated }));
  const taken = (...given: Stating[]): string[] =>
    takeStated(stating(...given)).changes.map(({ from, to }) => `${from} > ${to}`);
  const wrong = (...given: Stating[]): readonly string[] => takeStated(stating(...given)).disagrees;

  it('gives each what it says, however that is written, and leaves alone what says nothing', () => {
    expect(taken(['A', ' c '], ['B'.repeat(1), 'D'])).toEqual(['A > C', 'B > D']);
    expect(taken(['A'], ['B', 'E', 'e'])).toEqual(['B > E']);
    expect(takeStated(stating(['A', '01'], ['B', '02']), 'two digits').changes).toHaveLength(2);
  });

  it('changes nothing where something disagrees, and says what', () => {
    expect(wrong(['A', 'C', 'D'])).toEqual(['versions of A say both C and D']);
    expect(wrong(['A', '1.2'])).toEqual(['A says 1.2, which is no revision of the scheme']);
    expect(wrong(['A', 'C'], ['B'])).toEqual(['B would be B, which is not after C']);
    expect(wrong(['A', 'B'], ['B', 'B'])).toEqual(['B would be B, which is not after B']);
    expect(taken(['A', 'C', 'D'], ['B', 'E'])).toEqual([]);
  });

  it('never leaves two alike or out of order, and is done after it was done once', () => {
    const stated = fc.array(fc.option(fc.integer({ min: 1, max: 40 }), { nil: undefined }), { maxLength: 8 });
    fc.assert(
      fc.property(stated, (positions) => {
        const before = positions.map((position, index) => ({
          ...{ id: `r${index}`, code: revisionCode(index + 1), position: index + 1 },
          stated: position === undefined ? [] : [revisionCode(position)],
        }));
        const { changes, disagrees } = takeStated(before);
        if (disagrees.length > 0) {
          expect(changes).toEqual([]);
          return;
        }
        const to = new Map(changes.map((each) => [each.id, each.to]));
        const after = before.map((row) => ({ ...row, code: to.get(row.id) ?? row.code }));
        const places = after.map(({ code }) => revisionPosition(code) ?? 0);
        expect(places).toEqual([...new Set(places)].sort((a, b) => a - b));
        expect(takeStated(after)).toEqual({ changes: [], disagrees: [] });
      }),
    );
  });
});
