import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { evaluate, ExpressionError, fillIn, holds, measured, sayMeasured, type Scope } from './expression.js';
import {
  applyRecipe,
  checkRecipe,
  EMPTY_RECIPE,
  readWishes,
  sayWishes,
  type Recipe,
  type RecipeAction,
} from './recipe.js';

const TREE: Readonly<Record<string, number>> = { 'FM-2900': 2, 'FM-2900 in FM-2100': 2, 'FM-2200': 1 };
const quantity = (item: string, within?: string): number =>
  TREE[within === undefined ? item : `${item} in ${within}`] ?? 0;

const scope = (
  wishes: Readonly<Record<string, number | string | boolean | ReturnType<typeof measured>>>,
): Scope => ({
  wishes: new Map(Object.entries(wishes)),
  quantity,
});

describe('an expression', () => {
  const at = scope({ arm: measured(1.6, 'm'), heater: true, colour: 'Signal red', panels: 3 });

  it('reckons with units, compares, chooses and counts what stands in the tree', () => {
    const cases: readonly [string, unknown][] = [
      ['arm == 1600 mm', true],
      ['arm > 1.5 m and not (arm > 2 m)', true],
      ['colour == "signal RED"', true],
      ['colour != "blue" and heater', true],
      ['panels * 2 + 1', 7],
      ['panels > 2 ? "FM-3" : "FM-2"', 'FM-3'],
      ['round(arm / 40 cm)', 4],
      ['quantity("FM-2900", "FM-2100") + quantity("FM-1")', 2],
      ['has("FM-2200") and not has("FM-1")', true],
      ['max(panels, 5)', 5],
      ['-panels', -3],
    ];
    for (const [text, value] of cases) expect([text, evaluate(text, at)]).toEqual([text, value]);
    expect(sayMeasured(evaluate('arm + 20 cm', at))).toBe('1.8 m');
    expect(fillIn('FM-22{arm to cm}-{heater}', at)).toBe('FM-22160-yes');
  });

  it('says in words what is wrong with it', () => {
    const wrong = (text: string): string => {
      try {
        return String(evaluate(text, at));
      } catch (error) {
        expect(error).toBeInstanceOf(ExpressionError);
        return (error as Error).message;
      }
    };
    expect(wrong('arm > 3 kg')).toBe('the units of what is compared or added do not fit');
    expect(wrong('length > 3')).toBe('there is no wish called “length”');
    expect(wrong('colour * 2')).toBe('the text “Signal red” is used where a number is wanted');
    expect(wrong('panels / 0')).toBe('it has no finite value');
    expect(wrong('arm >')).toMatch(/^it cannot be read: /);
    expect(wrong('1 + '.repeat(300) + '1')).toMatch(/longer than 1000/);
    expect(() => holds('panels', at)).toThrow('it is a number, not true or false');
  });

  it('reaches nothing but the wishes and the tree, whatever is written', () => {
    for (const text of [
      'import({}, {})',
      'cos.constructor("return process")()',
      'a = 1',
      'f(x) = x',
      '[1, 2, 3]',
      '1:1e9',
      'evaluate("1")',
      'createUnit("x")',
      '"a".constructor',
      'x => x',
      'constructor',
      '__proto__',
      'toString()',
      '170!',
      'arm;arm',
    ])
      expect(() => evaluate(text, at), text).toThrow(ExpressionError);
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        try {
          expect(['number', 'string', 'boolean', 'object']).toContain(typeof evaluate(text, at));
        } catch (error) {
          expect(error).toBeInstanceOf(ExpressionError);
        }
      }),
      { numRuns: 500 },
    );
    // Powers of powers end at once.
    expect(() => evaluate('9^9^9^9^9', at)).toThrow(ExpressionError);
  });
});

const rule = (name: string, when: string, then: RecipeAction): Recipe['rules'][number] => ({
  name,
  when,
  then,
});
const RECIPE: Recipe = {
  ...EMPTY_RECIPE,
  of: 'FM-1000',
  wishes: [
    {
      name: 'arm',
      label: 'Arm length',
      kind: 'number',
      unit: 'm',
      least: 0.8,
      most: 2,
      choices: [],
      otherwise: '1.2',
    },
    {
      name: 'heater',
      label: 'Heater',
      kind: 'yes/no',
      unit: '',
      least: null,
      most: null,
      choices: [],
      otherwise: 'yes',
    },
    {
      name: 'colour',
      label: 'Colour',
      kind: 'choice',
      unit: '',
      least: null,
      most: null,
      choices: ['grey', 'red'],
      otherwise: 'grey',
    },
    {
      name: 'site',
      label: 'Site',
      kind: 'text',
      unit: '',
      least: null,
      most: null,
      choices: [],
      otherwise: '',
    },
  ],
  rules: [
    rule('Longer arm', 'arm > 1.5 m', { do: 'swap', item: 'FM-2200', to: 'FM-22{arm to cm}' }),
    rule('No heater', 'not heater', { do: 'omit', item: 'FM-2400' }),
    rule('Four clamps', 'arm >= 1.8 m', {
      do: 'count',
      item: 'FM-2900',
      in: 'FM-2100',
      count: '4',
      step: [0, 0, 150],
    }),
    rule('Number', '', { do: 'number', item: '', pattern: 'RS-{arm to cm}-{colour}' }),
    rule('Colour', '', { do: 'property', item: '', property: 'colour', value: 'colour' }),
  ],
  names: [{ kind: 'put', of: 'numbers', at: 'end', text: '-{arm to cm}' }],
  place: '/Variants/{site}',
  examples: [
    {
      name: 'long',
      wishes: { arm: '1.8', heater: 'no', site: 'Weir' },
      rules: ['Longer arm', 'No heater', 'Four clamps', 'Number', 'Colour'],
    },
  ],
};

describe('a recipe', () => {
  it('turns wishes into decisions, names and values, and says which rule did each', () => {
    const { deeds, problems, names, place, wishes } = applyRecipe(
      RECIPE,
      { arm: '1800 mm', heater: 'no', Site: 'Weir' },
      quantity,
    );
    expect(problems).toEqual([]);
    expect(deeds.map(({ rule: by, says }) => `${by}: ${says}`)).toEqual([
      'Longer arm: FM-2200 is swapped for FM-22180',
      'No heater: FM-2400 is left out',
      'Four clamps: 4 of FM-2900 in FM-2100',
      'Number: the variant gets the number RS-180-grey',
      'Colour: colour of the variant is grey',
    ]);
    expect([names, place, wishes.arm]).toEqual([
      [{ kind: 'put', of: 'numbers', at: 'end', text: '-180' }],
      '/Variants/Weir',
      '1.8 m',
    ]);
  });

  it('knows the same wishes however they are written', () => {
    const said = (wishes: Record<string, string | number | boolean>): string => {
      const read = readWishes(RECIPE, wishes);
      expect(read.problems).toEqual([]);
      return sayWishes(RECIPE, read);
    };
    const first = said({ arm: 1.6, site: 'Weir', heater: true });
    expect(said({ 'ARM LENGTH': '160 cm', Site: 'Weir', heater: 'Yes', colour: 'GREY' })).toBe(first);
    expect(said({ arm: '1,6', site: 'Weir' })).toBe(first);
    expect(said({ arm: '1.7', site: 'Weir' })).not.toBe(first);
  });

  it('refuses wishes that it cannot fulfil, each in words', () => {
    const { problems, deeds } = applyRecipe(
      RECIPE,
      { arm: '3 m', heater: 'perhaps', colour: 'pink', size: 4 },
      quantity,
    );
    expect(deeds).toEqual([]);
    expect(problems.map(({ name, says }) => `${name}: ${says}`)).toEqual([
      'Arm length: 3 m is not between 0.8 and 2 m',
      'Heater: “perhaps” is neither yes nor no',
      'Colour: “pink” is none of grey, red',
      'Site: it is not said',
      'size: the recipe knows no such wish',
    ]);
    expect(applyRecipe(RECIPE, { arm: '2 kg', site: 'x' }, quantity).problems[0]?.says).toMatch(/kg/);
  });

  it('does not choose between rules that contradict each other, but names both', () => {
    const rules = [...RECIPE.rules, rule('Short arm', 'arm > 1 m', { do: 'omit', item: 'FM-2200' })];
    const { problems } = applyRecipe({ ...RECIPE, rules }, { arm: 1.8, site: 'x' }, quantity);
    expect(problems).toEqual([
      {
        where: 'rule',
        name: 'Short arm',
        says: 'it says “FM-2200 is left out”, but Longer arm says “FM-2200 is swapped for FM-22180”',
      },
    ]);
    // Two that say the same do not.
    const twice = [
      ...RECIPE.rules,
      rule('Again', 'arm > 1.5 m', { do: 'swap', item: 'FM-2200', to: 'FM-22{arm to cm}' }),
    ];
    expect(applyRecipe({ ...RECIPE, rules: twice }, { arm: 1.8, site: 'x' }, quantity).problems).toEqual([]);
  });

  it('is checked as it is written: expressions, names, units, and its own examples', () => {
    expect(checkRecipe(RECIPE, quantity)).toEqual([]);
    const wrong: Recipe = {
      ...RECIPE,
      rules: [
        ...RECIPE.rules,
        rule('Heavy', 'arm > 3 kg', { do: 'omit', item: 'X' }),
        rule('Half', 'false', { do: 'count', item: 'A', in: 'B', count: '2.5', step: [] }),
      ],
      examples: [{ name: 'short', wishes: { site: 'a' }, rules: ['Longer arm'] }],
    };
    expect(checkRecipe(wrong, quantity).map(({ where, name, says }) => `${where} ${name}: ${says}`)).toEqual([
      'rule Heavy: the units of what is compared or added do not fit',
      'rule Half: the count is 2.5, not a whole number up to 1000',
      'example short: Heavy: the units of what is compared or added do not fit',
    ]);
    const unit = checkRecipe(
      { ...RECIPE, wishes: [{ ...(RECIPE.wishes[0] as Recipe['wishes'][number]), name: 'mm' }] },
      quantity,
    );
    expect(unit[0]?.says).toMatch(/means something else/);
  });
});
