import { describe, expect, it } from 'vitest';
import { mergeUseFacts, type UseFacts } from './carry-merge.js';

describe('what bills say of uses', () => {
  const facts = (find: string, more: Partial<UseFacts> = {}): UseFacts => ({
    find,
    designators: [],
    ...more,
  });
  const of = (all: Record<string, UseFacts>): Map<string, UseFacts> => new Map(Object.entries(all));
  const uses = ['a', 'b', 'c'].map((key) => ({ key, label: key.toUpperCase() }));

  it('is brought together field by field, and what only one side has is left alone', () => {
    const amount = (value: string) => ({ value, unit: 'm', basis: 'each' as const });
    const sides = {
      base: of({ a: facts('10'), b: facts('20', { amount: amount('1') }) }),
      origin: of({ a: facts('11'), b: facts('20', { amount: amount('2') }), c: facts('30') }),
      copy: of({
        a: facts('10', { amount: amount('4'), designators: ['R1'] }),
        b: facts('25', { amount: amount('3') }),
      }),
    };
    const open = mergeUseFacts(uses, sides, new Map());
    expect(Object.fromEntries(open.uses)).toEqual({
      a: { find: '11', amount: amount('4'), designators: ['R1'] },
      b: { find: '25', amount: amount('3'), designators: [] },
      c: facts('30'),
    });
    expect(open.contradictions).toEqual([{ field: 'amount of B', base: '1 m', origin: '2 m', copy: '3 m' }]);
    expect(open.kept).toEqual(['amount of A', 'designators of A', 'find number of B', 'amount of B']);
    const decided = mergeUseFacts(uses, sides, new Map([['amount of b', 'origin']]));
    expect(decided.uses.get('b')?.amount).toEqual(amount('2'));
  });
});
