import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pieces } from './amount.js';
import { effectOf } from './effect.js';
import type { BomLine } from './line.js';
import { compareThree, countVerdicts, type Verdict } from './three-way.js';
import { SHIPPED_STATES } from '../lifecycle/shipped.js';

interface Sketch {
  readonly number: string;
  readonly count?: number;
  readonly version?: string;
  readonly massKg?: number;
  readonly find?: string;
  readonly children?: readonly Sketch[];
}

function line({ number, count = 1, version = 'A/1', massKg, find = '', children = [] }: Sketch): BomLine {
  return {
    ...{ itemId: number, stem: number, number, name: number, version, originVersions: [] },
    ...{ amount: pieces(count), find, designators: [], configurations: [], placements: [], values: {} },
    ...(massKg === undefined ? {} : { massKg }),
    children: children.map(line),
  };
}
const root = (children: readonly Sketch[]): BomLine => line({ number: 'R', children });
const verdicts = (base: BomLine, one: BomLine, other: BomLine): Record<string, Verdict> =>
  Object.fromEntries(
    compareThree(base, one, other).map((row) => [
      (row.base ?? row.one ?? row.other)?.line.number ?? '',
      row.verdict,
    ]),
  );

describe('three sides', () => {
  it('say who changed what, and where both cannot be had', () => {
    const base = root(['A', 'B', 'C', 'D', 'E', 'F', 'G'].map((number) => ({ number })));
    const one = root([
      { number: 'A' },
      { number: 'B', count: 2 },
      { number: 'C', count: 2 },
      { number: 'D', count: 2 },
      { number: 'F', count: 3 },
      { number: 'G', find: '7' },
      { number: 'N' },
      { number: 'M' },
    ]);
    const other = root([
      { number: 'A' },
      { number: 'B' },
      { number: 'C', count: 2 },
      { number: 'D', count: 3 },
      { number: 'E', count: 5 },
      { number: 'G', count: 4 },
      { number: 'N' },
      { number: 'K' },
    ]);
    expect(verdicts(base, one, other)).toEqual({
      ...{ A: 'same', B: 'one', C: 'alike', D: 'contradict', E: 'contradict', F: 'contradict', G: 'apart' },
      ...{ N: 'alike', M: 'one', K: 'other' },
    });
  });

  const sketch = fc
    .uniqueArray(
      fc.record({
        number: fc.constantFrom('A', 'B', 'C', 'D', 'E'),
        count: fc.integer({ min: 1, max: 3 }),
        find: fc.constantFrom('', '1'),
      }),
      { selector: ({ number }) => number },
    )
    .map(root);
  const TURNED: Readonly<Record<Verdict, Verdict>> = {
    ...{ same: 'same', one: 'other', other: 'one', alike: 'alike', apart: 'apart', contradict: 'contradict' },
  };

  it('are the same seen from the other side', () => {
    fc.assert(
      fc.property(sketch, sketch, sketch, (base, one, other) => {
        const turned = Object.fromEntries(
          Object.entries(verdicts(base, other, one)).map(([number, verdict]) => [number, TURNED[verdict]]),
        );
        expect(turned).toEqual(verdicts(base, one, other));
      }),
    );
  });

  it('say nothing of who changed nothing, and that both agree where they are one', () => {
    fc.assert(
      fc.property(sketch, sketch, (base, one) => {
        const unchanged = countVerdicts(compareThree(base, one, base));
        expect(unchanged.other + unchanged.alike + unchanged.apart + unchanged.contradict).toBe(0);
        const both = countVerdicts(compareThree(base, one, one));
        expect(both.one + both.other + both.apart + both.contradict).toBe(0);
      }),
    );
  });
});

describe('the effect', () => {
  it('is what the contributions add up to', () => {
    const part = fc.record({
      number: fc.constantFrom('A', 'B', 'C'),
      count: fc.integer({ min: 1, max: 4 }),
      massKg: fc.integer({ min: 1, max: 9 }),
    });
    const tree = fc.array(
      fc.record({
        count: fc.integer({ min: 1, max: 3 }),
        parts: fc.array(part, { minLength: 1, maxLength: 4 }),
      }),
      { maxLength: 3 },
    );
    const of = (groups: readonly { readonly count: number; readonly parts: readonly Sketch[] }[]): BomLine =>
      root(groups.map(({ count, parts }, at) => ({ number: `G${at}`, count, children: parts })));
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        const { from, to, mass } = effectOf(of(one), of(two), SHIPPED_STATES);
        const walked = (groups: typeof one): number =>
          groups.reduce(
            (sum, { count, parts }) =>
              sum + count * parts.reduce((all, each) => all + each.count * each.massKg, 0),
            0,
          );
        expect([from.massKg, to.massKg]).toEqual([walked(one), walked(two)]);
        expect(mass.reduce((sum, { before, after }) => sum + after - before, 0)).toBe(
          to.massKg - from.massKg,
        );
      }),
    );
  });

  it('says what is not known', () => {
    const { to } = effectOf(
      root([]),
      root([{ number: 'A' }, { number: 'B', massKg: 2, count: 3 }]),
      SHIPPED_STATES,
    );
    expect(to).toMatchObject({ massKg: 6, massUnknown: 1, costUnknown: 2, pieces: 4, parts: 2, lines: 2 });
  });
});
