import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decideLines, type Decided, type TreeSpot } from './decide-line.js';
import { planDerivation } from './plan.js';
import type { Decision, OriginNode } from './types.js';

/** `'0 TOP', '1 SUB', …` */
const tree = (...lines: readonly string[]): TreeSpot[] =>
  lines.map((line) => ({ level: Number(line.split(' ')[0]), number: line.split(' ')[1] ?? '' }));
const TREE = tree('0 TOP', '1 SUB', '2 PART', '2 BOLT', '1 OTHER', '2 BOLT');
const decideLine = (
  of: readonly TreeSpot[],
  decisions: ReadonlyMap<string, Decision>,
  { number, decision }: { number: string; decision: Decision },
): Decided => decideLines(of, decisions, { numbers: new Set([number]), decision });
const decided = (before: Readonly<Record<string, Decision>>, number: string, decision: Decision): unknown => {
  const { decisions, takenBack } = decideLine(TREE, new Map(Object.entries(before)), { number, decision });
  return [Object.fromEntries(decisions), takenBack];
};

describe('the latest decision counts', () => {
  it('a copy takes back the shares of all that it stands in', () => {
    expect(decided({ SUB: 'share', OTHER: 'share' }, 'PART', 'copy')).toEqual([
      { OTHER: 'share', PART: 'copy' },
      ['SUB'],
    ]);
    expect(decided({ SUB: 'share', OTHER: 'share' }, 'BOLT', 'copy')).toEqual([
      { BOLT: 'copy' },
      ['SUB', 'OTHER'],
    ]);
  });

  it('a share takes back the copies of all that stand in it', () => {
    expect(decided({ PART: 'copy', OTHER: 'copy' }, 'SUB', 'share')).toEqual([
      { OTHER: 'copy', SUB: 'share' },
      ['PART'],
    ]);
  });

  it('leaves what does not stand against it', () => {
    expect(decided({ SUB: 'copy', PART: 'share' }, 'BOLT', 'copy')).toEqual([
      { SUB: 'copy', PART: 'share', BOLT: 'copy' },
      [],
    ]);
  });

  it('of many at once is the same as of one after the other, in whatever order', () => {
    const numbers = ['SUB', 'PART', 'BOLT', 'OTHER'];
    const before = fc.array(
      fc.tuple(fc.constantFrom(...numbers), fc.constantFrom<Decision>('share', 'copy', 'omit')),
    );
    fc.assert(
      fc.property(
        before,
        fc.uniqueArray(fc.constantFrom(...numbers)),
        fc.constantFrom<Decision>('share', 'copy', 'omit'),
        (steps, chosen, decision) => {
          // Decisions that stand beside each other, made one by one.
          let decisions: ReadonlyMap<string, Decision> = new Map();
          for (const [number, each] of steps)
            decisions = decideLine(TREE, decisions, { number, decision: each }).decisions;
          const many = decideLines(TREE, decisions, { numbers: new Set(chosen), decision });
          let one = decisions;
          for (const number of chosen) one = decideLine(TREE, one, { number, decision }).decisions;
          expect(Object.fromEntries(many.decisions)).toEqual(Object.fromEntries(one));
        },
      ),
    );
  });

  it('so that nothing that was decided is ever in the way, whatever was chosen in whatever order', () => {
    const numbers = ['TOP', 'SUB', 'PART', 'BOLT', 'OTHER'];
    const children: Readonly<Record<string, string[]>> = {
      TOP: ['SUB', 'OTHER'],
      SUB: ['PART', 'BOLT'],
      OTHER: ['BOLT'],
    };
    const nodes = numbers.map((number): OriginNode => ({
      versionId: number,
      itemId: number,
      number,
      name: number,
      fileName: `${number}.stp`,
      source: 'unknown',
      idInFile: number,
      children: children[number] ?? [],
    }));
    const step = fc.tuple(
      fc.constantFrom(...numbers.slice(1)),
      fc.constantFrom<Decision>('share', 'copy', 'omit'),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
        let decisions: ReadonlyMap<string, Decision> = new Map();
        for (const [number, decision] of steps)
          decisions = decideLine(TREE, decisions, { number, decision }).decisions;
        const { lines } = planDerivation({
          ...{
            nodes,
            decisions,
            otherwise: 'share',
            rules: [{ kind: 'put', of: 'numbers', at: 'end', text: '-2' }],
          },
          ...{ renamed: new Map(), takenNumbers: new Set(), takenFileNames: new Set() },
        });
        expect(lines.filter(({ clash }) => clash !== undefined)).toEqual([]);
        const last = steps.at(-1);
        const line = lines.find(({ number }) => number === last?.[0]);
        // What only stands in something that is left out falls away with it.
        if (line?.reason.kind !== 'unused') expect(line?.decision).toBe(last?.[1]);
      }),
    );
  });
});
