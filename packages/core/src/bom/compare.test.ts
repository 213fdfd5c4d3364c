import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  compareTotals,
  compareTrees,
  countDifferences,
  sayDifference,
  type BomLine,
  type DifferenceRow,
} from './compare.js';

const at = (x: number): number[] => [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0];

interface Sketch {
  readonly number: string;
  readonly version?: number;
  readonly quantity?: number;
  readonly x?: number;
  readonly stem?: string;
  readonly origins?: readonly string[];
  readonly children?: readonly Sketch[];
}

function line({
  number,
  version = 1,
  quantity = 1,
  x = 0,
  stem = number,
  origins = [],
  children = [],
}: Sketch): BomLine {
  return {
    itemId: number,
    stem,
    number,
    name: number,
    versionId: `${number}.${version}`,
    version: `A/${version}`,
    originVersions: origins,
    quantity,
    placements: Array.from({ length: quantity }, (_, index) => at(x + index)),
    children: children.map(line),
  };
}

const say = (rows: readonly DifferenceRow[]): string[] =>
  rows.filter((row) => row.sign !== 'same').map((row) => `${row.sign} ${row.chain.join('›')}`);

const sketch: fc.Arbitrary<Sketch> = fc.letrec<{ node: Sketch }>((tie) => ({
  node: fc.record(
    {
      number: fc.constantFrom('A', 'B', 'C', 'D', 'E', 'F'),
      version: fc.integer({ min: 1, max: 2 }),
      quantity: fc.integer({ min: 1, max: 3 }),
      x: fc.integer({ min: 0, max: 2 }),
      children: fc.uniqueArray(tie('node'), {
        maxLength: 3,
        selector: ({ number }) => number,
        depthIdentifier: 'bom',
      }),
    },
    { requiredKeys: ['number'] },
  ),
})).node;

const tree = sketch.map((root) => line({ ...root, number: 'ROOT' }));
const MIRROR = {
  added: 'removed',
  removed: 'added',
  changed: 'changed',
  replaced: 'replaced',
  moved: 'moved',
  same: 'same',
} as const;

describe('comparing trees', () => {
  it('tells added, removed, quantity, version, moved and replaced apart', () => {
    const from = line({
      number: 'R',
      children: [
        { number: 'A' },
        { number: 'B', quantity: 2 },
        { number: 'C' },
        { number: 'D', x: 5 },
        { number: 'E', x: 9 },
      ],
    });
    const to = line({
      number: 'R',
      children: [
        { number: 'B', quantity: 3 },
        { number: 'C', version: 2 },
        { number: 'D', x: 6 },
        { number: 'F', x: 9 },
        { number: 'G', x: 20 },
      ],
    });
    expect(say(compareTrees(from, to))).toEqual([
      'removed A',
      'changed B',
      'changed C',
      'moved D',
      'replaced F',
      'added G',
    ]);
  });

  it('goes down all levels, also under what changed, and lists what came with an assembly', () => {
    const from = line({ number: 'R', children: [{ number: 'S', children: [{ number: 'A' }] }] });
    const to = line({
      number: 'R',
      children: [
        {
          number: 'S',
          version: 2,
          children: [
            { number: 'A', quantity: 2 },
            { number: 'T', x: 7, children: [{ number: 'U' }] },
          ],
        },
      ],
    });
    expect(say(compareTrees(from, to))).toEqual(['changed S', 'changed S›A', 'added S›T', 'added S›T›U']);
  });

  it('finds nothing between a tree and itself', () => {
    fc.assert(
      fc.property(tree, (root) => {
        expect(say([...compareTrees(root, root), ...compareTotals(root, root)])).toEqual([]);
      }),
    );
  });

  it('mirrors', () => {
    const mirrored = (rows: readonly DifferenceRow[]): string[] =>
      rows.map((row) => `${MIRROR[row.sign]} ${row.after?.number} ${row.before?.number} ${row.level}`).sort();
    const plain = (rows: readonly DifferenceRow[]): string[] =>
      rows.map((row) => `${row.sign} ${row.before?.number} ${row.after?.number} ${row.level}`).sort();
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        expect(mirrored(compareTrees(one, two))).toEqual(plain(compareTrees(two, one)));
        expect(mirrored(compareTotals(one, two))).toEqual(plain(compareTotals(two, one)));
      }),
    );
  });

  it('accounts for every line of both trees once', () => {
    const size = (root: BomLine): number => root.children.reduce((sum, child) => sum + 1 + size(child), 0);
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        const rows = compareTrees(one, two);
        expect(rows.filter((row) => row.before)).toHaveLength(size(one));
        expect(rows.filter((row) => row.after)).toHaveLength(size(two));
      }),
    );
  });

  it('finds nothing between an origin and its fresh copy, though every number differs', () => {
    const copyOf = (root: Sketch): Sketch => ({
      ...root,
      number: `X${root.number}`,
      stem: root.number,
      version: 1,
      origins: [`${root.number}.${root.version ?? 1}`],
      children: root.children?.map(copyOf) ?? [],
    });
    fc.assert(
      fc.property(sketch, (root) => {
        expect(say(compareTrees(line(root), line(copyOf(root))))).toEqual([]);
      }),
    );
  });

  it('finds nothing between two untouched variants of one version, and something where one was touched', () => {
    const variant = (prefix: string, origins: readonly string[]): BomLine =>
      line({ number: `${prefix}R`, stem: 'R', children: [{ number: `${prefix}P`, stem: 'P', origins }] });
    const one = variant('V', ['P.1']);
    expect(say(compareTrees(one, variant('W', ['P.1'])))).toEqual([]);
    // A variant of a variant goes back to the same.
    expect(say(compareTotals(one, variant('W', ['P.1', 'VP.1'])))).toEqual([]);
    expect(say(compareTrees(one, variant('W', ['P.2'])))).toEqual(['changed WP']);
    expect(say(compareTrees(one, variant('W', [])))).toEqual(['changed WP']);
  });

  it('shows where a copy has drifted from its origin', () => {
    const from = line({ number: 'R', children: [{ number: 'A' }] });
    const to = line({
      number: 'XR',
      stem: 'R',
      children: [{ number: 'XA', stem: 'A', version: 2, origins: [] }],
    });
    expect(say(compareTrees(from, to))).toEqual(['changed XA']);
  });
});

describe('net totals', () => {
  it('see that one of two branches moved on to a newer version', () => {
    const branch = (number: string, version: number): Sketch => ({
      number,
      children: [{ number: 'P', version }],
    });
    const from = line({ number: 'R', children: [branch('X', 1), branch('Y', 1)] });
    const to = line({ number: 'R', children: [branch('X', 1), branch('Y', 2)] });
    const [changed] = compareTotals(from, to).filter(({ sign }) => sign !== 'same');
    expect(changed).toMatchObject({
      sign: 'changed',
      chain: ['P'],
      after: { version: 'A/1, A/2', quantity: 2 },
    });
    expect(changed?.differs).toEqual({ quantity: false, version: true, placement: false });
    expect(say(compareTotals(to, to))).toEqual([]);
  });

  it('net out what merely moved from one assembly to another', () => {
    const from = line({
      number: 'R',
      children: [{ number: 'S', children: [{ number: 'A', quantity: 2 }] }, { number: 'T' }],
    });
    const to = line({
      number: 'R',
      children: [{ number: 'S' }, { number: 'T', children: [{ number: 'A', quantity: 2 }] }],
    });
    expect(say(compareTotals(from, to))).toEqual([]);
    expect(say(compareTrees(from, to))).toEqual(['removed S›A', 'added T›A']);
  });

  it('multiply quantities along every chain', () => {
    const root = line({
      number: 'R',
      children: [{ number: 'S', quantity: 2, children: [{ number: 'A', quantity: 3 }] }, { number: 'A' }],
    });
    expect(compareTotals(root, root).find((row) => row.after?.number === 'A')?.after?.quantity).toBe(7);
  });
});

describe('the sentence', () => {
  const counts = countDifferences([]);
  it.each([
    [
      { number: 'R', version: 'B/3' },
      { number: 'R', version: 'B/5' },
      { ...counts, added: 2, moved: 1 },
      'R from B/3 to B/5: 2 added, 1 moved.',
    ],
    [
      { number: 'R', version: 'A/1' },
      { number: 'X', version: 'A/1' },
      counts,
      'From R A/1 to X A/1: no difference.',
    ],
  ])('says the direction: %#', (from, to, counted, sentence) => {
    expect(sayDifference(from, to, counted)).toBe(sentence);
  });
});
