import fc from 'fast-check';
import { expect, it } from 'vitest';
import { wordReplacer } from './words.js';

/** The same said as one regular expression, which is easy to believe and slow to make. */
function byExpression(words: ReadonlyMap<string, string>): (text: string) => string {
  const byLowerCase = new Map([...words].map(([was, becomes]) => [was.toLowerCase(), becomes]));
  const alternatives = [...words.keys()]
    .sort((a, b) => b.length - a.length)
    .map((name) => {
      const before = /^[\p{L}\p{N}]/u.test(name) ? '(?<![\\p{L}\\p{N}_])' : '';
      const after = /[\p{L}\p{N}]$/u.test(name) ? '(?![\\p{L}\\p{N}])(?!_(?!\\d+(?![\\p{L}\\p{N}_])))' : '';
      return `${before}${name.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&')}${after}`;
    });
  if (alternatives.length === 0) return (text) => text;
  const pattern = new RegExp(alternatives.join('|'), 'giu');
  return (text) => text.replace(pattern, (found) => byLowerCase.get(found.toLowerCase()) ?? found);
}

const letters = fc.constantFrom('a', 'B', 'b', '1', '_', '-', ' ', '.', 'é', 'É', '部', '😀');
const word = fc.string({ unit: letters, minLength: 1, maxLength: 4 });

it('replaces whole words as the regular expression of them does, for any words and text', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.tuple(word, word), { maxLength: 5, selector: ([was]) => was.toLowerCase() }),
      fc.string({ unit: letters, maxLength: 24 }),
      (pairs, text) => {
        const words = new Map(pairs);
        expect(wordReplacer(words)(text)).toBe(byExpression(words)(text));
      },
    ),
    { numRuns: 500 },
  );
});

it('knows an occurrence’s count from a longer word', () => {
  const replace = wordReplacer(new Map([['nut', 'M8']]));
  expect(replace('Placement of NUT_3 beside nut_a and nuts')).toBe('Placement of M8_3 beside nut_a and nuts');
});
