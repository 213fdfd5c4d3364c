import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Placement } from '../model/link.js';
import { pairUses, type DrawnUse } from './pair.js';
import { spreadOf } from './spread.js';

const at = (x: number, y = 0, z = 0): Placement => [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z];
const use = (number: string, x: number, rest: Partial<DrawnUse> = {}): DrawnUse => ({
  ...{ way: ['A-1', number], use: '', file: `${number}@A/1`, at: at(x), ...rest },
});
const uses = fc.array(
  fc
    .tuple(
      fc.constantFrom('P-1', 'P-2', 'P-3'),
      fc.integer({ min: 0, max: 9 }),
      fc.constantFrom('', 'a', 'b'),
    )
    .map(([number, x, name]) => use(number, x, { use: name })),
  { maxLength: 12 },
);

describe('pairs of uses', () => {
  it('hold each use once, and are the same seen from the other side', () => {
    fc.assert(
      fc.property(uses, uses, (first, second) => {
        const pairs = pairUses(first, second);
        const places = (of: 'first' | 'second'): number[] =>
          pairs.flatMap((pair) => pair[of] ?? []).sort((a, b) => a - b);
        expect(places('first')).toEqual([...first.keys()]);
        expect(places('second')).toEqual([...second.keys()]);
        for (const { kind, first: one, second: other } of pairs) {
          expect(one === undefined).toBe(kind === 'added');
          expect(other === undefined).toBe(kind === 'removed');
        }
        const count = (of: readonly { readonly kind: string }[], kind: string): number =>
          of.filter((pair) => pair.kind === kind).length;
        const back = pairUses(second, first);
        for (const [here, there] of [
          ['added', 'removed'],
          ['removed', 'added'],
          ['same', 'same'],
        ] as const)
          expect(count(pairs, here)).toBe(count(back, there));
      }),
    );
  });

  it('are all the same where nothing changed, in whatever order', () => {
    fc.assert(
      fc.property(uses, (first) => {
        const pairs = pairUses(first, [...first].reverse());
        expect(pairs.filter(({ kind }) => kind !== 'same')).toEqual([]);
      }),
    );
  });

  it('tell what moved, what is another, and what came and went', () => {
    const first = [use('P-1', 0), use('P-2', 5), use('P-3', 9), use('P-4', 20), use('P-6', 30)];
    const second = [
      use('P-1', 3),
      use('P-2', 5, { file: 'P-2@A/2' }),
      use('P-5', 9),
      use('P-7', 40),
      use('P-6', 30, { at: [0, -1, 0, 30, 1, 0, 0, 0, 0, 0, 1, 0] }),
    ];
    const said = pairUses(first, second).map(({ kind, first: one, second: other, movedMm }) => [
      ...[kind, one, other, movedMm],
    ]);
    expect(new Set(said.map((each) => JSON.stringify(each)))).toEqual(
      new Set(
        [
          ['moved', 0, 0, 3],
          ['changed', 1, 1, 0],
          ['replaced', 2, 2, 0],
          ['removed', 3, undefined, 0],
          ['added', undefined, 3, 0],
          ['moved', 4, 4, 0],
        ].map((each) => JSON.stringify(each)),
      ),
    );
  });
});

describe('what is taken apart', () => {
  const tree = [
    { parent: -1, middle: [0, 0, 0] },
    { parent: 0, middle: [10, 0, 0] },
    { parent: 1, middle: [10, 4, 0] },
    { parent: 0 },
  ] as const;

  it('stays in place at nothing, and moves away from the middle with what it lies in', () => {
    expect(spreadOf(tree, { amount: 0, levels: 9 })).toEqual(tree.map(() => [0, 0, 0]));
    expect(spreadOf(tree, { amount: 0.5, levels: 9 })).toEqual([
      ...[[0, 0, 0], [5, 0, 0], [5, 2, 0], [0, 0, 0]], // prettier-ignore
    ]);
    expect(spreadOf(tree, { amount: 0.5, levels: 1 })[2]).toEqual([5, 0, 0]);
  });
});
