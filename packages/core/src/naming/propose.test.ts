import { describe, expect, it } from 'vitest';
import { countsBehind, rulesLike, stepRules } from './propose.js';
import { applyRules, type NameRule } from './rules.js';

const named = (rules: readonly NameRule[]): string => applyRules('FM-2610', rules, 'numbers');
const first = (last: readonly NameRule[], count: number): string[] => {
  const made: string[] = [];
  for (const rules of rulesLike(last)) {
    made.push(named(rules));
    if (made.length === count) break;
  }
  return made;
};

describe('rules for a new variant', () => {
  it('put a count behind the number where nothing is known', () => {
    expect([...countsBehind()].slice(0, 3).map(named)).toEqual(['FM-2610-2', 'FM-2610-3', 'FM-2610-4']);
    expect(first([], 1)).toEqual([]);
  });

  it.each<[string, NameRule, string[]]>([
    [
      'a suffix with a count',
      { kind: 'put', of: 'numbers', at: 'end', text: '-V2' },
      ['FM-2610-V2', 'FM-2610-V3'],
    ],
    [
      'a suffix with a letter',
      { kind: 'put', of: 'numbers', at: 'end', text: '-B' },
      ['FM-2610-B', 'FM-2610-C'],
    ],
    [
      'zeros before the count',
      { kind: 'put', of: 'numbers', at: 'end', text: '/09' },
      ['FM-2610/09', 'FM-2610/10'],
    ],
    [
      'a series',
      { kind: 'replace', of: 'both', where: 'anywhere', from: 'FM-2', to: 'FM-5' },
      ['FM-5610', 'FM-6610'],
    ],
    ['so much on the count', { kind: 'count', of: 'numbers', run: 'last', by: 100 }, ['FM-2710', 'FM-2810']],
  ])('go on from the last derivation: %s', (_, rule, made) => {
    expect(first([rule], made.length)).toEqual(made);
  });

  it('end where there is nothing to count', () => {
    const mark: NameRule = { kind: 'replace', of: 'numbers', where: 'start', from: 'FM', to: 'FT' };
    expect(stepRules([mark])).toBeUndefined();
    expect(first([mark], 2)).toEqual(['FT-2610']);
    const last: NameRule = { kind: 'put', of: 'numbers', at: 'end', text: '-Z' };
    expect(first([last], 2)).toEqual(['FM-2610-Z']);
  });

  it('come to an end', () => {
    const count: NameRule = { kind: 'count', of: 'numbers', run: 'last', by: 1 };
    expect([...rulesLike([count])].length).toBeLessThan(100);
  });
});
