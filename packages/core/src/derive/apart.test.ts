import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY_PLACEMENT } from '../model/link.js';
import { planDerivation, planWithSpots } from './plan.js';
import type {
  AddedUse,
  Decision,
  DerivationPlan,
  DerivationRequest,
  OriginNode,
  OtherItem,
  UseDecision,
} from './types.js';

const other = (number: string): OtherItem => ({
  itemId: number,
  versionId: `${number}.1`,
  number,
  name: number,
});

interface Sketch {
  readonly children?: readonly (readonly [string, number])[];
  readonly carrier?: string;
  readonly bought?: boolean;
}

function nodesOf(sketch: Readonly<Record<string, Sketch>>): OriginNode[] {
  return Object.entries(sketch).map(([number, { children = [], carrier, bought }]) => ({
    versionId: `${number}.1`,
    itemId: number,
    number,
    name: number,
    fileName: `${number}.stp`,
    source: bought ? ('bought' as const) : ('made' as const),
    idInFile: number,
    children: children.map(([child]) => `${child}.1`),
    occurrences: children.map(([, count]) => count),
    ...(carrier === undefined ? {} : { carrierVersion: `${carrier}.1` }),
  }));
}

function requestOf(
  nodes: readonly OriginNode[],
  request: Partial<DerivationRequest> = {},
): DerivationRequest {
  return {
    nodes,
    decisions: new Map(),
    otherwise: 'propose',
    rules: [{ kind: 'put', of: 'numbers', at: 'start', text: 'V-' }],
    renamed: new Map(),
    takenNumbers: new Set(),
    takenFileNames: new Set(),
    ...request,
  };
}

/** Everything that stands in a variant, one path for each occurrence: `T/A/P`, `T/A/=X` for what was put in. */
function contentsOf({ nodes }: DerivationRequest, plan: DerivationPlan): string[] {
  const byVersion = new Map(nodes.map((node) => [node.versionId, node]));
  const made = new Set(plan.made.map(({ key, versionId }) => `${key} ${versionId}`));
  const changed = new Map(plan.changed.map((each) => [`${each.key} ${each.versionId}`, each]));
  const paths: string[] = [];
  const shared = (node: OriginNode, path: string): void => {
    paths.push(`${path} shared`);
    node.children.forEach((id, at) => {
      const child = byVersion.get(id);
      for (let n = 0; child && n < (node.occurrences?.[at] ?? 1); n++)
        shared(child, `${path}/${child.number}`);
    });
  };
  const copied = (node: OriginNode, key: string, path: string): void => {
    expect(made.has(`${key} ${node.versionId}`)).toBe(true);
    paths.push(`${path} copied`);
    const own = changed.get(`${key} ${node.versionId}`);
    node.children.forEach((id, at) => {
      const child = byVersion.get(id);
      if (!child) return;
      for (let n = 0; n < (node.occurrences?.[at] ?? 1); n++) {
        const isCopied = made.has(`${child.itemId} ${child.versionId}`);
        const becomes = own
          ? own.uses[at]?.[n]
          : isCopied
            ? { kind: 'copy' as const, key: child.itemId }
            : { kind: 'share' as const };
        const below = `${path}/${child.number}`;
        if (becomes?.kind === 'share') shared(child, below);
        if (becomes?.kind === 'copy') copied(child, becomes.key, below);
        if (becomes?.kind === 'item') paths.push(`${path}/=${becomes.item.number}`);
      }
    });
    for (const { becomes } of own?.added ?? [])
      paths.push(
        `${path}/+${becomes.kind === 'item' ? becomes.item.number : becomes.kind === 'copy' ? becomes.key : ''}`,
      );
  };
  const [top] = nodes;
  if (top) copied(top, top.itemId, top.number);
  return paths.sort();
}

describe('decisions about a spot', () => {
  const TREE = nodesOf({
    T: {
      children: [
        ['A', 1],
        ['B', 1],
      ],
    },
    A: { children: [['S', 1]] },
    B: {
      children: [
        ['S', 2],
        ['P', 1],
      ],
    },
    S: { children: [['P', 4]] },
    P: {},
  });

  it('make two items of a part that is copied in one branch and shared in the other, and say so', () => {
    const uses: UseDecision[] = [{ chain: ['T', 'A', 'S', 'P'], decision: 'share' }];
    const request = requestOf(TREE, { uses });
    const plan = planDerivation(request);
    expect(contentsOf(request, plan).filter((path) => path.endsWith('P shared'))).toEqual(
      Array.from({ length: 4 }, () => 'T/A/S/P shared'),
    );
    expect(plan.lines.map(({ key, copy }) => `${key} ${copy?.number}`)).toEqual([
      'T V-T',
      'A V-A',
      'B V-B',
      'S V-S',
      'S#2 V-S-2',
      'P V-P',
    ]);
    expect(plan.lines[4]?.reason).toEqual({ kind: 'apart', chain: ['A', 'S'] });
  });

  it('are about single occurrences too', () => {
    const uses: UseDecision[] = [
      { chain: ['T', 'B', 'S', 'P'], occurrences: [1, 3], decision: 'swap', to: other('X') },
      { chain: ['T', 'B', 'S', 'P'], occurrences: [2], decision: 'omit' },
    ];
    const request = requestOf(TREE, { uses });
    const plan = planDerivation(request);
    const inB = contentsOf(request, plan).filter((path) => path.startsWith('T/B/S/'));
    expect(inB).toEqual([...Array(4).fill('T/B/S/=X'), 'T/B/S/P copied', 'T/B/S/P copied']);
    expect(plan.ready).toBe(true);
  });

  it('keep one item where all spots become alike', () => {
    const uses = (['A', 'B'] as const).map((branch): UseDecision => ({
      chain: ['T', branch, 'S', 'P'],
      decision: 'omit',
    }));
    const plan = planDerivation(requestOf(TREE, { uses }));
    expect(plan.lines.map(({ key, decision }) => `${key} ${decision}`)).toEqual([
      'T copy',
      'A copy',
      'B copy',
      'S copy',
      'P copy',
    ]);
  });

  it('cannot share what lives in a file that is copied, nor make one file’s product two things', () => {
    const tree = nodesOf({
      T: { children: [['F', 1]] },
      F: {
        children: [
          ['G', 1],
          ['H', 1],
        ],
      },
      G: { children: [['P', 1]], carrier: 'F' },
      H: { children: [['G', 1]], carrier: 'F' },
      P: { carrier: 'F' },
    });
    const shares = planDerivation(
      requestOf(tree, { uses: [{ chain: ['T', 'F', 'G', 'P'], decision: 'share' }] }),
    );
    expect(shares.lines.find(({ number }) => number === 'P')?.clash?.says).toBe(
      'cannot be shared: it lives in the file of F, which is copied; take the file apart first',
    );
    const apart = planDerivation(
      requestOf(tree, { uses: [{ chain: ['T', 'F', 'G', 'P'], decision: 'omit' }] }),
    );
    expect(apart.lines.find(({ number }) => number === 'G')?.clash?.says).toBe(
      'stands in several places of the file of F, which can only be alike; take the file apart first',
    );
  });

  it('add what the origin does not have; the copy of what the tree has', () => {
    const added: AddedUse[] = [
      { chain: ['T', 'A'], item: other('X'), name: 'x', placement: IDENTITY_PLACEMENT },
      { chain: ['T'], item: other('P'), name: 'p', placement: IDENTITY_PLACEMENT },
    ];
    const request = requestOf(TREE, { added });
    const { plan, spots } = planWithSpots(request);
    expect(contentsOf(request, plan)).toEqual(expect.arrayContaining(['T/+P', 'T/A/+X']));
    expect(
      [...spots()]
        .filter(({ decision }) => decision === 'add')
        .map(({ level, number, to }) => `${level} ${number} ${to?.number}`),
    ).toEqual(['2 X X', '1 P undefined']);
  });

  it('let fall what nothing uses any more', () => {
    const tree = nodesOf({
      T: {
        children: [
          ['H', 1],
          ['P', 1],
        ],
      },
      H: {
        children: [
          ['E', 2],
          ['P', 1],
        ],
      },
      E: {},
      P: {},
    });
    const omit = planDerivation(requestOf(tree, { decisions: new Map([['H', 'omit']]) }));
    expect(omit.lines.map(({ key, decision, reason }) => `${key} ${decision} ${reason.kind}`)).toEqual([
      'T copy top',
      'H omit decided',
      'E omit unused',
      'P copy designed',
    ]);
  });

  it('leave out what a configuration does not have', () => {
    const tree = nodesOf({
      T: {
        children: [
          ['A', 1],
          ['B', 1],
        ],
      },
      A: {},
      B: {},
    }).map((node) => (node.number === 'T' ? { ...node, leftOut: [1] } : node));
    const request = requestOf(tree, { otherwise: 'share' });
    expect(contentsOf(request, planDerivation(request))).toEqual(['T copied', 'T/A shared']);
  });
});

describe('any tree with any decisions', () => {
  const NUMBERS = ['T', 'A', 'B', 'C', 'D', 'E', 'F'];
  const links = fc.array(fc.tuple(fc.nat(6), fc.nat(6), fc.integer({ min: 1, max: 3 })), {
    minLength: 3,
    maxLength: 14,
  });
  const decision = fc.constantFrom<Decision>('share', 'copy', 'swap', 'omit');
  const arbitrary = fc.record({
    links,
    bought: fc.subarray(NUMBERS.slice(1)),
    decided: fc.dictionary(
      fc.constantFrom(...NUMBERS.slice(1)),
      fc.constantFrom<Decision>('copy', 'swap', 'omit'),
      { maxKeys: 2 },
    ),
    picks: fc.array(fc.tuple(fc.nat(), decision, fc.option(fc.nat(2))), { maxLength: 5 }),
    adds: fc.array(fc.nat(), { maxLength: 2 }),
  });

  it('becomes what was decided, spot by spot, and nothing else', () => {
    fc.assert(
      fc.property(arbitrary, ({ links: raw, bought, decided, picks, adds }) => {
        const sketch = Object.fromEntries(
          NUMBERS.map((number, at): [string, Sketch] => [
            number,
            {
              bought: bought.includes(number),
              children: [
                ...new Map(
                  raw.flatMap(([from, to, count]) =>
                    from === at && to > at ? [[NUMBERS[to] ?? '', count] as const] : [],
                  ),
                ),
              ],
            },
          ]),
        );
        const nodes = nodesOf(sketch);
        const chains: string[][] = [];
        const walk = (number: string, chain: string[]): void => {
          chains.push(chain);
          for (const [child] of sketch[number]?.children ?? []) walk(child, [...chain, child]);
        };
        walk('T', ['T']);
        const decisions = new Map(Object.entries(decided));
        const uses = picks.flatMap(([pick, what, occurrence]): UseDecision[] => {
          const chain = chains[pick % chains.length] ?? ['T'];
          if (chain.length < 2) return [];
          return [
            {
              chain,
              decision: what,
              ...(what === 'swap' ? { to: other('X') } : {}),
              ...(occurrence === null ? {} : { occurrences: [occurrence] }),
            },
          ];
        });
        const added = adds.map((pick): AddedUse => ({
          chain: chains[pick % chains.length] ?? ['T'],
          item: other('Y'),
          name: 'y',
          placement: IDENTITY_PLACEMENT,
        }));
        const swaps = new Map(NUMBERS.map((number) => [number, other('Z')]));
        const request = requestOf(nodes, { decisions, swaps, uses, added });
        const plan = planDerivation(request);

        // What was asked for, told path by path, without units, copies or keys.
        const wanted: string[] = [];
        const tell = (number: string, chain: readonly string[]): void => {
          wanted.push(chain.join('/'));
          for (const [child, count] of sketch[number]?.children ?? []) {
            const below = [...chain, child];
            for (let n = 0; n < count; n++) {
              let what: string = decisions.get(child) ?? 'own';
              let to = 'Z';
              for (const use of uses) {
                if (
                  use.chain.join('/') !== below.join('/') ||
                  (use.occurrences && !use.occurrences.includes(n))
                )
                  continue;
                what = use.decision;
                to = 'X';
              }
              if (what === 'swap') wanted.push(`${chain.join('/')}/=${to}`);
              else if (what === 'share') tellShared(child, below);
              else if (what !== 'omit') tell(child, below);
            }
          }
          for (const use of added)
            if (use.chain.join('/') === chain.join('/')) wanted.push(`${chain.join('/')}/+Y`);
        };
        const tellShared = (number: string, chain: readonly string[]): void => {
          wanted.push(chain.join('/'));
          for (const [child, count] of sketch[number]?.children ?? [])
            for (let n = 0; n < count; n++) tellShared(child, [...chain, child]);
        };
        tell('T', ['T']);
        const found = contentsOf(request, plan);
        const bare = found.map((path) => path.replace(/ (copied|shared)$/, '')).sort();
        expect(bare).toEqual(wanted.sort());
        // Nothing was put into what is shared.
        const others = found
          .filter((path) => /\/[=+]/.test(path))
          .map((path) => path.slice(0, path.lastIndexOf('/')));
        for (const path of others) expect(found).toContain(`${path} copied`);
        // No two copies are the same, and every copy has a name of its own.
        const names = plan.lines.flatMap(({ copy }) => copy?.number ?? []);
        expect(new Set(names).size).toBe(names.length);
        for (const line of plan.lines) expect(line.copy === undefined).toBe(line.decision !== 'copy');
        // Every version that is made belongs to a line that names it.
        const named = new Set(plan.lines.flatMap(({ key, copy }) => (copy ? key : [])));
        for (const { key } of plan.made) expect(named).toContain(key);
      }),
      { numRuns: 400 },
    );
  });
});

describe('a tree that is larger than it looks', () => {
  const chain = (depth: number, inOneFile: boolean, count: number): OriginNode[] =>
    Array.from({ length: depth }, (_, at): OriginNode => ({
      versionId: `L${at}.1`,
      itemId: `L${at}`,
      number: `L${at}`,
      name: `L${at}`,
      fileName: at === 0 || !inOneFile ? `L${at}.stp` : '',
      source: 'made',
      idInFile: `L${at}`,
      children: at + 1 < depth ? Array.from({ length: count }, () => `L${at + 1}.1`) : [],
      ...(at === 0 || !inOneFile ? {} : { carrierVersion: 'L0.1' }),
    }));

  it.each([true, false])('may be as deep as it likes; in one file: %s', (inOneFile) => {
    const nodes = chain(20_000, inOneFile, 1);
    const { plan, spots } = planWithSpots(requestOf(nodes, { otherwise: 'copy' }));
    expect(plan.made).toHaveLength(20_000);
    expect(plan.ready).toBe(true);
    expect([...spots()].at(-1)).toMatchObject({ level: 19_999, number: 'L19999', decision: 'copy' });
  });

  it.each([true, false])('has each version once, whatever ways lead to it; in one file: %s', (inOneFile) => {
    const nodes = chain(60, inOneFile, 2);
    const { plan, spots } = planWithSpots(requestOf(nodes, { otherwise: 'copy' }));
    expect(plan.made).toHaveLength(60);
    expect(() => [...spots()]).toThrow(/more than 500,000 rows/);
  });
});
