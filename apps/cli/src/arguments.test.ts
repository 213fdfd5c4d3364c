import { describe, expect, it } from 'vitest';
import { parseVerb, splitList } from './arguments.js';
import { CliError } from './client.js';
import { table } from './verbs/verb.js';

const options = {
  prefix: { type: 'string' },
  all: { type: 'boolean' },
  replace: { type: 'string', multiple: true },
} as const;

describe('words of a verb', () => {
  it('are told apart', () => {
    const parsed = parseVerb(
      ['A', '--prefix', 'X-', '--replace', 'a=b', '--replace', 'c=d', '--json'],
      options,
      { min: 1, max: 1 },
      'verb A',
    );
    expect(parsed.positionals).toEqual(['A']);
    expect([parsed.text('prefix'), parsed.flag('all'), parsed.texts('replace')]).toEqual([
      'X-',
      false,
      ['a=b', 'c=d'],
    ]);
  });

  it.each([[[]], [['A', 'B']], [['A', '--unknown']], [['A', '--prefix']]])(
    'that do not fit say how it is written: %j',
    (args) => {
      expect(() => parseVerb(args, options, { min: 1, max: 1 }, 'verb A')).toThrow(CliError);
      expect(() => parseVerb(args, options, { min: 1, max: 1 }, 'verb A')).toThrow(/Usage: stem verb A/);
    },
  );

  it('lists are split at commas', () => {
    expect(splitList(' A, B b ,,C ')).toEqual(['A', 'B b', 'C']);
    expect(splitList(undefined)).toEqual([]);
    expect(splitList('A', 'B,C')).toEqual(['A', 'B', 'C']);
    expect(splitList('"3/8"" tube, long", B "x" y')).toEqual(['3/8" tube, long', 'B "x" y']);
  });
});

it('a table pads every column but the last', () => {
  expect(
    table([
      ['a', 'long', 'x'],
      ['bbb', 'c', 'y y'],
    ]),
  ).toEqual(['a    long  x', 'bbb  c     y y']);
});
