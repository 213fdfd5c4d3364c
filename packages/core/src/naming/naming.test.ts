import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rulesByExample, withRules, type RuleCandidate } from './by-example.js';
import { applyRule, applyRules, sayRule, type NameRule } from './rules.js';

const replace = (where: 'start' | 'end' | 'word' | 'anywhere', from: string, to: string): NameRule => ({
  kind: 'replace',
  of: 'numbers',
  where,
  from,
  to,
});

describe('a rule', () => {
  it.each([
    [replace('start', 'FM', 'FT'), 'FM-FM-1', 'FT-FM-1'],
    [replace('start', 'FM', 'FT'), 'XFM-1', 'XFM-1'],
    [replace('end', '-A', ''), 'FM-A-A', 'FM-A'],
    [replace('word', '1.2', '1.6'), 'Arm 1.2 m, 11.2, 1.25, 1.2.3, 1.2', 'Arm 1.6 m, 11.2, 1.25, 1.2.3, 1.6'],
    [replace('word', 'Arm', 'Boom'), 'Arm Armature Arm', 'Boom Armature Boom'],
    [replace('word', '-2-', '-3-'), 'A-2-2-B', 'A-3-2-B'],
    [replace('anywhere', '.', '$&'), 'a.b', 'a$&b'],
    [replace('anywhere', '', 'x'), 'abc', 'abc'],
  ])('%j makes of %j %j', (rule, text, made) => {
    expect(applyRule(text, rule)).toBe(made);
  });

  it.each<[Extract<NameRule, { kind: 'count' }>['run'], number, string, string]>([
    ['last', 100, 'FM-0099-07', 'FM-0099-107'],
    ['first', 100, 'FM-0099-07', 'FM-0199-07'],
    ['last', 1, 'A-099', 'A-100'],
    ['last', 1, 'A-999', 'A-1000'],
    ['last', -1, 'A-000', 'A-000'],
    ['last', 1, 'no digits', 'no digits'],
    ['last', 1, '99999999999999999999', '100000000000000000000'],
  ])('adds to the %s count: %d to %j gives %j', (run, by, text, made) => {
    expect(applyRule(text, { kind: 'count', of: 'both', run, by })).toBe(made);
  });

  it('is said in a line', () => {
    expect(sayRule(replace('start', 'FM', 'FT'))).toBe('“FM” at the start becomes “FT”');
    expect(sayRule(replace('word', ' old', ''))).toBe('“ old” as a word is left out');
    expect(sayRule({ kind: 'put', of: 'numbers', at: 'count', text: '-B' })).toBe(
      '“-B” is put after the last number',
    );
    expect(sayRule({ kind: 'count', of: 'numbers', run: 'last', by: -10 })).toBe('−10 on the last count');
    expect(sayRule({ kind: 'case', of: 'names', to: 'upper' })).toBe('all in capitals');
  });

  it('leaves the other names alone', () => {
    const rules = [replace('start', 'FM', 'FT')];
    expect(applyRules('FM-1', rules, 'numbers')).toBe('FT-1');
    expect(applyRules('FM-1', rules, 'names')).toBe('FM-1');
  });
});

/** What a candidate makes of each line. */
function outcome(candidate: RuleCandidate | undefined, lines: readonly string[]): string[] {
  return lines.map((line) => applyRules(line, candidate?.rules ?? [], 'numbers'));
}

describe('rules by example', () => {
  // Each: what was edited, what it became, the other lines, and what those should become by the first reading.
  it.each([
    ['a mark at the start', 'FM-2610', 'FT-2610', ['FM-2611', 'FM-9'], ['FT-2611', 'FT-9']],
    [
      'a length in a name',
      'Arm 1.2 m',
      'Arm 1.6 m',
      ['Tube 1.2 m', 'Bolt 11.2'],
      ['Tube 1.6 m', 'Bolt 11.2'],
    ],
    ['a suffix', 'FM-2610', 'FM-2610-B', ['FM-2611', 'X'], ['FM-2611-B', 'X-B']],
    ['a prefix', 'FM-2610', 'ALT-FM-2610', ['FM-1', 'Q7'], ['ALT-FM-1', 'ALT-Q7']],
    ['a counter', 'FM-0099', 'FM-0199', ['FM-0007', 'FM-1950'], ['FM-0107', 'FM-2050']],
    ['a number in the middle', 'A-2610-X', 'A-3610-X', ['A-2620-X', 'A-0310-Y'], ['A-3620-X', 'A-1310-Y']],
    ['something in the middle', 'FM-2610', 'FM-V2-2610', ['FM-26', 'FM-7-1'], ['FM-V2-26', 'FM-V2-7-1']],
    ['something left out', 'FM-2610-OLD', 'FM-2610', ['FM-1-OLD', 'FM-2'], ['FM-1', 'FM-2']],
    ['capitals', 'arm left', 'ARM LEFT', ['base', 'Rod'], ['BASE', 'ROD']],
    ['two spots at once', 'FM-2610-A', 'FT-2610-B', ['FM-2611-A', 'FM-1-A'], ['FT-2611-B', 'FT-1-B']],
    ['letters beyond ASCII', 'Träger-7', 'Balken-7', ['Träger-8', 'Trägerin-8'], ['Balken-8', 'Balkenin-8']],
    [
      'a mark amid words',
      'Arm 24 V left',
      'Arm 48 V left',
      ['Rod 24 V', 'Rod 240 V'],
      ['Rod 48 V', 'Rod 264 V'],
    ],
  ])('%s: %s to %s', (_, before, after, others, made) => {
    const lines = [before, ...others];
    const found = rulesByExample({ before, after, of: 'numbers' }, lines);
    const wanted = [after, ...made];
    // The first reading is the widest; where it is not the one that is wanted here, that one is offered as well.
    expect(found.map((candidate) => outcome(candidate, lines))).toContainEqual(wanted);
  });

  it('gives the widest reading first, and in the end one that fits the example alone', () => {
    const lines = ['FM-2610', 'FM-2611', 'FM-2700', 'FM-3100', 'XA-1'];
    const found = rulesByExample({ before: 'FM-2610', after: 'FT-2610', of: 'numbers' }, lines);
    expect(found.map(({ fits }) => fits)).toEqual([4, 3, 2, 1]);
    expect(outcome(found[0], lines)).toEqual(['FT-2610', 'FT-2611', 'FT-2700', 'FT-3100', 'XA-1']);
  });

  it('puts a reading behind that would make two numbers the same', () => {
    const lines = ['A-10', 'A-20', 'B-10'];
    const [first] = rulesByExample({ before: 'A-10', after: 'B-10', of: 'numbers' }, lines);
    expect(first?.clashes).toBeGreaterThan(0);
    const other = rulesByExample({ before: 'A-10', after: 'A-20', of: 'numbers' }, ['A-10', 'A-20']);
    expect(outcome(other[0], ['A-10', 'A-20'])).toEqual(['A-20', 'A-30']);
    expect(other[0]?.clashes).toBe(0);
  });

  it('offers a suffix behind the count too, so that endings stay endings', () => {
    const lines = ['FM-2610', 'FM-2610-D'];
    const found = rulesByExample({ before: 'FM-2610', after: 'FM-2610-B', of: 'numbers' }, lines);
    expect(found.map((candidate) => outcome(candidate, lines)[1])).toEqual(
      expect.arrayContaining(['FM-2610-D-B', 'FM-2610-B-D']),
    );
  });

  it('has no reading where nothing was changed', () => {
    expect(rulesByExample({ before: 'A', after: 'A', of: 'names' }, ['A'])).toEqual([]);
    expect(rulesByExample({ before: 'A', after: '', of: 'names' }, ['A'])).toEqual([]);
  });

  const texts = fc.oneof(
    fc.stringMatching(/^[A-Z]{1,3}-[0-9]{1,5}(-[A-Z0-9]{1,2})?$/),
    fc.stringMatching(/^[ab1.2 _-]{1,12}$/),
    fc.string({ minLength: 1, maxLength: 20, unit: 'grapheme' }),
  );

  it('makes of the example what was typed, whatever was typed, and each candidate does something else', () => {
    fc.assert(
      fc.property(texts, texts, fc.array(texts, { maxLength: 12 }), (before, after, others) => {
        const lines = [before, ...others];
        const found = rulesByExample({ before, after, of: 'numbers' }, lines);
        if (before === after) return;
        expect(found.length).toBeGreaterThan(0);
        const told = found.map((candidate) => outcome(candidate, lines));
        for (const [index, made] of told.entries()) {
          expect(made[0]).toBe(after);
          expect(found[index]?.fits).toBe(made.filter((text, at) => text !== lines[at]).length);
        }
        expect(new Set(told.map((made) => JSON.stringify(made))).size).toBe(told.length);
      }),
      { numRuns: 2000 },
    );
  });

  it('becomes part of the rule before, where it goes on changing what that made', () => {
    const first = replace('start', 'FM', 'FT');
    expect(withRules([first], [replace('start', 'FT', 'FV')])).toEqual([replace('start', 'FM', 'FV')]);
    expect(withRules([first], [replace('start', 'FT', 'FM')])).toEqual([]);
    expect(withRules([first], [replace('end', 'FT', 'FV')])).toHaveLength(2);
    const plus = (by: number): NameRule => ({ kind: 'count', of: 'numbers', run: 'last', by });
    expect(withRules([plus(100)], [plus(10)])).toEqual([plus(110)]);
  });
});
