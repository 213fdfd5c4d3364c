import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { NameRule } from '../naming/rules.js';
import { numberKey } from '../numbering/number.js';
import { planDerivation } from './plan.js';
import type { Decision, DerivationLine, DerivationRequest, OriginNode } from './types.js';

interface Sketch {
  readonly number: string;
  readonly children?: readonly string[];
  readonly carrier?: string;
  readonly bought?: boolean;
  readonly name?: string;
}

function nodes(...sketches: readonly Sketch[]): OriginNode[] {
  return sketches.map(({ number, children = [], carrier, bought, name = number }) => ({
    versionId: `${number}.1`,
    itemId: number,
    number,
    name,
    fileName: `${number}.stp`,
    source: bought ? 'bought' : 'unknown',
    idInFile: number,
    ...(carrier === undefined ? {} : { carrierVersion: `${carrier}.1` }),
    children: children.map((child) => `${child}.1`),
  }));
}

function plan(
  origin: readonly OriginNode[],
  request: Partial<DerivationRequest> = {},
): readonly DerivationLine[] {
  return planDerivation({
    nodes: origin,
    decisions: new Map(),
    otherwise: 'propose',
    rules: [{ kind: 'put', of: 'numbers', at: 'start', text: 'V-' }],
    renamed: new Map(),
    takenNumbers: new Set(),
    takenFileNames: new Set(),
    ...request,
  }).lines;
}

const decisions = (lines: readonly DerivationLine[]): string[] =>
  lines.map((line) => `${line.number} ${line.decision} ${line.reason.kind}`);
const decide = (entries: Readonly<Record<string, Decision>>): Map<string, Decision> =>
  new Map(Object.entries(entries));

const TREE = nodes(
  { number: 'TOP', children: ['SUB', 'BOLT'] },
  { number: 'SUB', children: ['PART', 'BOLT'] },
  { number: 'PART' },
  { number: 'BOLT', bought: true },
);

describe('decisions', () => {
  it('are proposed: bought parts are shared, designed ones copied', () => {
    expect(decisions(plan(TREE))).toEqual([
      'TOP copy top',
      'SUB copy designed',
      'PART copy designed',
      'BOLT share bought',
    ]);
  });

  it('drag along every assembly up to the top', () => {
    expect(decisions(plan(TREE, { otherwise: 'share', decisions: decide({ PART: 'copy' }) }))).toEqual([
      'TOP copy top',
      'SUB copy contains',
      'PART copy decided',
      'BOLT share notChosen',
    ]);
  });

  it('drag along all that lives in the same file, and say so', () => {
    const tree = nodes(
      { number: 'TOP', children: ['FILE', 'X'] },
      { number: 'FILE', children: ['IN'] },
      { number: 'IN', carrier: 'FILE' },
      { number: 'IN2', carrier: 'FILE' },
      { number: 'X' },
    );
    const lines = plan(tree, { otherwise: 'share', decisions: decide({ IN: 'copy' }) });
    expect(decisions(lines)).toEqual([
      'TOP copy top',
      'FILE copy contains',
      'IN copy decided',
      'IN2 copy livesIn',
      'X share notChosen',
    ]);
    expect(lines[3]?.forced).toBe(true);
  });

  it('to share an assembly take along all that it is made of, unless that was decided otherwise', () => {
    const tree = nodes(
      { number: 'TOP', children: ['A', 'B'] },
      { number: 'A', children: ['P', 'FILE'] },
      { number: 'B', children: ['P'] },
      { number: 'P' },
      { number: 'FILE', children: ['IN'] },
      { number: 'IN', carrier: 'FILE' },
    );
    expect(decisions(plan(tree, { otherwise: 'copy', decisions: decide({ A: 'share' }) }))).toEqual([
      'TOP copy top',
      'A share decided',
      'B copy all',
      'P share within',
      'FILE share within',
      'IN share within',
    ]);
    expect(plan(tree, { decisions: decide({ A: 'share', P: 'copy' }) })[1]?.clash?.says).toBe(
      'cannot be shared: it contains P, which is copied',
    );
  });

  it('that cannot be kept are in the way', () => {
    const tree = nodes({ number: 'TOP', children: ['IN'] }, { number: 'IN', carrier: 'TOP' });
    expect(plan(tree, { otherwise: 'copy', decisions: decide({ IN: 'share' }) })[1]?.clash).toEqual({
      of: 'decision',
      says: 'cannot be shared: it lives in the file of TOP, which is copied',
    });
  });

  it('keep both rules for any tree and any decisions', () => {
    const request = fc.record({
      uses: fc.array(fc.tuple(fc.nat(9), fc.nat(9)), { maxLength: 25 }),
      carriers: fc.array(fc.tuple(fc.nat(9), fc.nat(9)), { maxLength: 6 }),
      decided: fc.array(fc.tuple(fc.nat(9), fc.constantFrom<Decision>('share', 'copy')), { maxLength: 6 }),
      otherwise: fc.constantFrom<'share' | 'copy' | 'propose'>('share', 'copy', 'propose'),
    });
    fc.assert(
      fc.property(request, ({ uses, carriers, decided, otherwise }) => {
        const carrierOf = new Map(
          carriers
            .filter(([carrier, carried]) => carrier < carried)
            .map(([carrier, carried]) => [carried, carrier]),
        );
        const origin = nodes(
          ...Array.from({ length: 10 }, (_, at): Sketch => {
            const carrier = carrierOf.get(at);
            return {
              number: `N${at}`,
              children: uses
                .filter(([parent, child]) => parent === at && child > at)
                .map(([, child]) => `N${child}`),
              ...(carrier === undefined ? {} : { carrier: `N${carrier}` }),
            };
          }),
        );
        const lines = plan(origin, {
          otherwise,
          decisions: new Map(decided.map(([at, decision]) => [`N${at}`, decision])),
        });
        const isCopied = (number: string): boolean =>
          lines.find((line) => line.number === number)?.decision === 'copy';
        for (const node of origin) {
          for (const child of node.children)
            if (isCopied(child.slice(0, -2))) expect(isCopied(node.number)).toBe(true);
          if (node.carrierVersion)
            expect(isCopied(node.number)).toBe(isCopied(node.carrierVersion.slice(0, -2)));
        }
        expect(isCopied('N0')).toBe(true);
        for (const line of lines) expect(line.copy === undefined).toBe(line.decision === 'share');
      }),
    );
  });
});

describe('names', () => {
  const named = (lines: readonly DerivationLine[]): unknown[] =>
    lines.map((line) => (line.copy ? [line.copy.number, line.copy.name, line.copy.fileName] : line.number));

  it('follow the rules; a name that only repeats the number repeats the new one', () => {
    const tree = nodes(
      { number: 'FM-1', name: 'FM station', children: ['FM-2', 'BOLT'] },
      { number: 'FM-2' },
      { number: 'BOLT', bought: true },
    );
    const rule: NameRule = { kind: 'replace', of: 'both', where: 'start', from: 'FM', to: 'FT' };
    expect(named(plan(tree, { rules: [rule] }))).toEqual([
      ['FT-1', 'FT station', 'FT-1.stp'],
      ['FT-2', 'FT-2', 'FT-2.stp'],
      'BOLT',
    ]);
  });

  it('come in turn from those that are spare, where no rule gives another', () => {
    const tree = nodes(
      { number: 'FM-1', children: ['X-2', 'X-3', 'BOLT'] },
      { number: 'X-2' },
      { number: 'X-3' },
      { number: 'BOLT', bought: true },
    );
    const rule: NameRule = { kind: 'replace', of: 'numbers', where: 'start', from: 'FM', to: 'FT' };
    expect(named(plan(tree, { rules: [rule], spare: ['S-1', 'S-2', 'S-3'] }))).toEqual([
      ['FT-1', 'FT-1', 'FT-1.stp'],
      ['S-1', 'S-1', 'S-1.stp'],
      ['S-2', 'S-2', 'S-2.stp'],
      'BOLT',
    ]);
  });

  it('given by hand win', () => {
    expect(named(plan(TREE, { renamed: new Map([['TOP', { number: 'Q/1', name: 'Quay' }]]) }))[0]).toEqual([
      'Q/1',
      'Quay',
      'Q_1.stp',
    ]);
  });

  it('that clash say why', () => {
    const clash = (request: Partial<DerivationRequest>): string | undefined =>
      plan(TREE, request)[0]?.clash?.says;
    expect(clash({})).toBeUndefined();
    expect(clash({ rules: [] })).toMatch(/needs a new number/);
    expect(clash({ takenNumbers: new Set([numberKey('v-top')]) })).toBe('V-TOP is already in the store');
    expect(clash({ renamed: new Map([['TOP', { number: '' }]]) })).toMatch(/empty/);
    expect(plan(TREE, { renamed: new Map([['SUB', { number: 'v-top' }]]) })[1]?.clash?.says).toBe(
      'the copy of TOP gets the same number',
    );
  });

  it('of files are unique at the place, without regard to case', () => {
    expect(plan(TREE, { takenFileNames: new Set(['v-top.stp']) })[0]?.copy?.fileName).toBe('V-TOP-2.stp');
  });
});
