import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isSameAmount, pieces } from './amount.js';
import { compareTrees } from './compare.js';
import { compareTotals } from './compare-totals.js';
import {
  countDifferences,
  sayDifference,
  type DifferenceRow,
  type Differs,
  type LineSide,
} from './difference.js';
import { waysOf, type BomLine, type LineFacts } from './line.js';

const at = (x: number): number[] => [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0];

interface Sketch {
  readonly number: string;
  readonly version?: number;
  readonly quantity?: number;
  readonly x?: number;
  readonly stem?: string;
  readonly origins?: readonly string[];
  readonly find?: string;
  readonly designators?: readonly string[];
  readonly values?: Readonly<Record<string, string>>;
  readonly children?: readonly Sketch[];
}

function line({
  number,
  version = 1,
  quantity = 1,
  x = 0,
  stem = number,
  origins = [],
  find = '',
  designators = [],
  values = {},
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
    amount: pieces(quantity),
    ...{ find, designators, values, configurations: [] },
    placements: Array.from({ length: quantity }, (_, index) => at(x + index)),
    children: children.map(line),
  };
}

const chainOf = (row: DifferenceRow): readonly string[] => (row.after ?? row.before)?.chain ?? [];
const say = (rows: readonly DifferenceRow[]): string[] =>
  rows.filter((row) => row.sign !== 'same').map((row) => `${row.sign} ${chainOf(row).join('›')}`);
const sizeOf = (root: BomLine): number => root.children.reduce((sum, child) => sum + 1 + sizeOf(child), 0);

const sketch: fc.Arbitrary<Sketch> = fc.letrec<{ node: Sketch }>((tie) => ({
  node: fc.record(
    {
      number: fc.constantFrom('A', 'B', 'C', 'D', 'E', 'F'),
      version: fc.integer({ min: 1, max: 2 }),
      quantity: fc.integer({ min: 1, max: 3 }),
      x: fc.integer({ min: 0, max: 2 }),
      stem: fc.constantFrom('A', 'B', 'S'),
      find: fc.constantFrom('', '1', '2'),
      designators: fc.subarray(['R1', 'R2', 'R3']),
      values: fc.record({ finish: fc.constantFrom('raw', '1 in', '25.4 mm') }, { requiredKeys: [] }),
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

  it('mirrors, in every kind of difference', () => {
    const side = (one?: LineSide): string =>
      JSON.stringify(one ? [one.way, one.chain, one.line.amount] : null);
    const said = (rows: readonly DifferenceRow[], isTurned: boolean): string[] =>
      rows
        .map(({ sign, before, after, by, differs }) => {
          const [left, right] = isTurned ? [after, before] : [before, after];
          return `${isTurned ? MIRROR[sign] : sign} ${side(left)} ${side(right)} ${by} ${JSON.stringify(differs)}`;
        })
        .sort();
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        const options = { columns: ['finish'] };
        expect(said(compareTrees(one, two, options), true)).toEqual(
          said(compareTrees(two, one, options), false),
        );
        expect(said(compareTotals(one, two, options), true)).toEqual(
          said(compareTotals(two, one, options), false),
        );
      }),
      { numRuns: 1500 },
    );
  });

  it('applied to the one gives the other', () => {
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        const rows = compareTrees(one, two, { columns: ['finish'] });
        expect(applied(one, rows)).toEqual(flat(two));
      }),
      { numRuns: 400 },
    );
  });

  it('accounts for every line of both trees once', () => {
    fc.assert(
      fc.property(tree, tree, (one, two) => {
        const rows = compareTrees(one, two);
        expect(rows.filter((row) => row.before)).toHaveLength(sizeOf(one));
        expect(rows.filter((row) => row.after)).toHaveLength(sizeOf(two));
      }),
    );
  });

  it('finds nothing between an origin and its fresh copy, though every number differs', () => {
    const copyOf = (root: Sketch): Sketch => ({
      ...root,
      number: `X${root.number}`,
      stem: root.stem ?? root.number,
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
      after: { chain: ['P'], line: { version: 'A/1, A/2', amount: pieces(2) } },
    });
    expect(changed?.differs).toMatchObject({ quantity: false, version: true, placement: false });
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
    expect(say(compareTrees(from, to))).toEqual(['moved T›A']);
  });

  it('multiply quantities along every chain', () => {
    const root = line({
      number: 'R',
      children: [{ number: 'S', quantity: 2, children: [{ number: 'A', quantity: 3 }] }, { number: 'A' }],
    });
    expect(
      compareTotals(root, root).find((row) => row.after?.line.number === 'A')?.after?.line.amount,
    ).toEqual(pieces(7));
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

  it('says no difference only where nothing at all differs', () => {
    expect(
      sayDifference({ number: 'R', version: 'A/1' }, { number: 'R', version: 'A/2' }, counts, false),
    ).toBe('R from A/1 to A/2: no row differs, but the versions themselves do.');
    expect(
      sayDifference({ number: 'R', version: 'A/1' }, { number: 'supplier.xlsx', version: '' }, counts),
    ).toBe('From R A/1 to supplier.xlsx: no difference.');
  });
});

describe('pairing', () => {
  it('goes by find number, designators and place where the item is another one', () => {
    const from = line({
      number: 'R',
      children: [
        { number: 'A', find: '10', x: 1 },
        { number: 'B', designators: ['R1', 'R2', 'R3'], x: 20 },
        { number: 'C', x: 40 },
      ],
    });
    const to = line({
      number: 'R',
      children: [
        { number: 'D', find: '10', x: 70 },
        { number: 'E', designators: ['R2', 'R3', 'R4'], x: 80 },
        { number: 'F', x: 40 },
      ],
    });
    const rows = compareTrees(from, to);
    expect(
      rows.map(({ sign, by, before, after }) => [sign, by, before?.line.number, after?.line.number]),
    ).toEqual([
      ['replaced', 'find', 'A', 'D'],
      ['replaced', 'designator', 'B', 'E'],
      ['replaced', 'place', 'C', 'F'],
    ]);
    expect(compareTrees(from, to, { by: ['item'] }).map(({ sign }) => sign)).toEqual([
      ...['added', 'added', 'added', 'removed', 'removed', 'removed'],
    ]);
  });

  it('is what somebody says, also that two are no pair', () => {
    const from = line({ number: 'R', children: [{ number: 'A' }, { number: 'B', x: 9 }] });
    const to = line({ number: 'R', children: [{ number: 'A' }, { number: 'Z', x: 30 }] });
    const hand = [
      { from: 'A', to: '' },
      { from: '', to: 'A' },
      { from: 'B', to: 'Z' },
    ];
    expect(compareTrees(from, to, { hand }).map(({ sign, by }) => [sign, by])).toEqual([
      ['added', undefined],
      ['removed', undefined],
      ['replaced', 'hand'],
    ]);
  });

  it('understands units', () => {
    const of = (finish: string): BomLine =>
      line({ number: 'R', children: [{ number: 'A', values: { finish } }] });
    const [same] = compareTrees(of('1 in'), of('25.4 mm'), { columns: ['finish'] });
    const [other] = compareTrees(of('1 in'), of('25 mm'), { columns: ['finish'] });
    expect([same?.sign, other?.sign, other?.differs.fields]).toEqual(['same', 'changed', ['finish']]);
  });

  it('finds the rows as they were made, after many edits at random', () => {
    const edit = fc.record({
      at: fc.nat(1000),
      what: fc.constantFrom('quantity', 'version', 'remove', 'add', 'place', 'find', 'move'),
      by: fc.integer({ min: 1, max: 9 }),
    });
    let [paired, all] = [0, 0];
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 12 }), fc.nat(100), (edits, seed) => {
        const before = large(seed);
        const { after, partners } = edited(before, edits);
        const ways = [waysOf(before), waysOf(after)];
        const found = new Map(
          compareTrees(before, after).flatMap((row) =>
            row.before && row.after ? [[row.after.way, row.before.way]] : [],
          ),
        );
        for (const [now, was] of partners) {
          all++;
          if (found.get(ways[1]?.get(now) ?? '') === ways[0]?.get(was)) paired++;
        }
      }),
      { numRuns: 60 },
    );
    expect(paired / all).toBeGreaterThan(0.99);
  });

  it('takes no longer for each line of many, also where all are the same', () => {
    const many = (count: number): BomLine =>
      line({
        number: 'R',
        children: Array.from({ length: count }, (_, at) => ({ number: 'A', find: String(at % 7) })),
      });
    const rows = compareTrees(many(20_000), many(19_000));
    expect(rows.filter(({ sign }) => sign === 'removed')).toHaveLength(1000);
  });
});

/** Every line with what lies above it, as texts in any order. */
function flat(root: BomLine): string[] {
  const lines: string[] = [];
  const visit = (each: BomLine, chain: readonly string[]): void => {
    lines.push(sayLine(each, [...chain, each.number]));
    for (const child of each.children) visit(child, [...chain, each.number]);
  };
  for (const child of root.children) visit(child, []);
  return lines.sort();
}

function sayLine(
  {
    number,
    version,
    amount,
    find,
    designators,
    values,
  }: Pick<LineFacts, 'number' | 'version' | 'amount' | 'find' | 'designators' | 'values'>,
  chain: readonly string[],
): string {
  const finish = values.finish === '1 in' ? '25.4 mm' : values.finish;
  return JSON.stringify([chain.join('›'), number, version, amount.value, find, designators, finish]);
}

interface Living {
  facts: Pick<LineFacts, 'number' | 'version' | 'amount' | 'find' | 'designators' | 'values'>;
  children: Set<Living>;
}

/** Carries out just what the rows say is different, on a copy of the one. */
function applied(one: BomLine, rows: readonly DifferenceRow[]): string[] {
  const living = new Map<string, Living>();
  const ways = waysOf(one);
  const grow = (each: BomLine): Living => {
    const made: Living = { facts: each, children: new Set(each.children.map(grow)) };
    living.set(ways.get(each) ?? '', made);
    return made;
  };
  const root = grow(one);
  const parentOf = new Map<Living, Living>();
  const note = (at: Living): void => at.children.forEach((child) => (parentOf.set(child, at), note(child)));
  note(root);
  // By level: what the last row on the level above is of.
  const open: Living[] = [root];
  for (const { sign, level, before, after, differs } of rows) {
    const was = before && living.get(before.way);
    if (!after) {
      if (was) parentOf.get(was)?.children.delete(was);
      continue;
    }
    const at: Living = was ?? { facts: after.line, children: new Set() };
    const parent = open[level - 1] ?? root;
    if (!was || differs.parent) {
      parentOf.get(at)?.children.delete(at);
      parent.children.add(at);
      parentOf.set(at, parent);
    }
    if (was && sign !== 'same') at.facts = changed(was.facts, after, differs);
    open[level] = at;
  }
  const lines: string[] = [];
  const visit = (at: Living, chain: readonly string[]): void => {
    for (const child of at.children) {
      const path = [...chain, child.facts.number];
      lines.push(sayLine(child.facts, path));
      visit(child, path);
    }
  };
  visit(root, []);
  return lines.sort();
}

function changed(facts: Living['facts'], { line: after }: LineSide, differs: Differs): Living['facts'] {
  return {
    number: after.number,
    version: differs.version || after.number !== facts.number ? after.version : facts.version,
    amount: differs.quantity ? after.amount : facts.amount,
    find: differs.find ? after.find : facts.find,
    designators: differs.designators ? after.designators : facts.designators,
    values: differs.fields.includes('finish') ? after.values : facts.values,
  };
}

/** Three levels of different items, of which some are used in several places. */
function large(seed: number): BomLine {
  const sketch = (number: string, depth: number, at: number): Sketch => ({
    number,
    find: String(at + 1),
    quantity: 1 + ((seed + at) % 3),
    x: at * 10,
    children:
      depth === 0
        ? []
        : Array.from({ length: 6 }, (_, next) =>
            // Every fifth is a screw that is used everywhere.
            next === 5 ? sketch(`SCREW${seed % 4}`, 0, next) : sketch(`${number}.${next}`, depth - 1, next),
          ),
  });
  return line({ ...sketch('R', 3, 0), number: 'R' });
}

/** A tree that was edited, with the pairs as they were made. */
function edited(
  root: BomLine,
  edits: readonly { readonly at: number; readonly what: string; readonly by: number }[],
): { after: BomLine; partners: Map<BomLine, BomLine> } {
  type Editable = { -readonly [K in keyof BomLine]: K extends 'children' ? Editable[] : BomLine[K] } & {
    was?: BomLine;
  };
  const copy = (each: BomLine): Editable => ({ ...each, was: each, children: each.children.map(copy) });
  const made = copy(root);
  const listed = (): { line: Editable; parent: Editable }[] => {
    const all: { line: Editable; parent: Editable }[] = [];
    const visit = (parent: Editable): void =>
      parent.children.forEach((child) => (all.push({ line: child, parent }), visit(child)));
    visit(made);
    return all;
  };
  for (const { at, what, by } of edits) {
    const all = listed();
    const { line: target, parent } = all[at % all.length] ?? { line: made, parent: made };
    const place = parent.children.indexOf(target);
    if (what === 'quantity') target.amount = pieces(by + 10);
    else if (what === 'version')
      Object.assign(target, { version: `A/${by + 1}`, versionId: `${target.number}.${by + 1}` });
    else if (what === 'remove') parent.children.splice(place, 1);
    else if (what === 'place')
      parent.children.splice((place + by) % parent.children.length, 0, ...parent.children.splice(place, 1));
    else if (what === 'find') target.find = String(100 + by);
    else if (what === 'add')
      parent.children.splice(place, 0, { ...line({ number: `NEW${at}-${by}`, x: 900 + at }), children: [] });
    else {
      parent.children.splice(place, 1);
      const others = listed().filter((each) => each.line.children.length > 0);
      (others[by % others.length]?.line ?? made).children.push(target);
    }
  }
  const partners = new Map<BomLine, BomLine>();
  const note = (each: Editable): void => {
    if (each.was && each !== made) partners.set(each, each.was);
    each.children.forEach(note);
  };
  note(made);
  return { after: made, partners };
}

it('amounts that are the same in another unit are no difference', () => {
  expect(
    isSameAmount({ value: '0.4', unit: 'm', basis: 'each' }, { value: '400', unit: 'mm', basis: 'each' }),
  ).toBe(true);
});
