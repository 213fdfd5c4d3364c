import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MAX_NUMBER_LENGTH, numberKey, uniqueFileName, validateNumber } from './number.js';

describe('numbers', () => {
  it.each(['FM-1000', 'Träger 7', '部品', "O'Ring (12×2)", 'a@b', '*MASTER'])('%j is one', (number) => {
    expect(validateNumber(number)).toBeUndefined();
  });

  it.each([
    ['', /empty/],
    ['   ', /empty/],
    [' A', /begin or end/],
    ['A ', /begin or end/],
    ['A\u0007B', /control/],
    ['A\u2028B', /control/],
    ['A@B/3', /like a version/],
    ['x'.repeat(MAX_NUMBER_LENGTH + 1), /at most/],
  ])('%j is none', (number, why) => {
    expect(validateNumber(number)).toMatch(why);
  });

  it('are the same in any case and any composition', () => {
    expect(numberKey('FM-é')).toBe(numberKey('fm-e\u0301'));
  });
});

describe('file names', () => {
  it('are made unique by a count before the ending', () => {
    expect(uniqueFileName('a.stp', new Set(['a.stp', 'a-2.stp']))).toBe('a-3.stp');
    expect(uniqueFileName('A.STP', new Set(['a.stp']))).toBe('A-2.STP');
    expect(uniqueFileName('noending', new Set(['noending']))).toBe('noending-2');
  });

  it('are unique whatever is taken', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('a.stp', 'a-2.stp', 'b', 'A.stp', '.x'), { maxLength: 30 }),
        (names) => {
          const taken = new Set<string>();
          for (const name of names) {
            const unique = uniqueFileName(name, taken);
            expect(taken.has(unique.toLowerCase())).toBe(false);
            taken.add(unique.toLowerCase());
          }
        },
      ),
    );
  });
});
