import type { PlanGround } from '@stem-trace/contract';
import {
  planDerivation,
  planLines,
  type AskedDecisions,
  type Decision,
  type OriginNode,
} from '@stem-trace/core';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { changed, groundKey, Replanner, type Planned } from './plan-again.js';
import { EMPTY_DRAFT, requestOf } from './draft.js';

const NUMBERS = ['T', 'A', 'B', 'P', 'Q', 'R'];
const CHILDREN: Readonly<Record<string, readonly string[]>> = { T: ['A', 'B'], A: ['P', 'Q'], B: ['P', 'R'] };

const nodes = NUMBERS.map((number): OriginNode => ({
  ...{ versionId: `${number}.1`, itemId: number, number, name: number, idInFile: number },
  ...{ fileName: `${number}.stp`, source: number === 'R' ? 'bought' : 'made' },
  children: (CHILDREN[number] ?? []).map((child) => `${child}.1`),
}));

const GROUND: PlanGround = {
  ...{ origin: 'T A/1', nodes, spare: [], added: [], takenFileNames: [], takenNumbers: ['v-p'] },
  shown: Object.fromEntries(NUMBERS.map((number) => [number, { kind: 'part', version: 'A/1' }])),
  rules: [{ kind: 'put', of: 'numbers', at: 'start', text: 'V-' }],
  others: { X: { itemId: 'X', versionId: 'X.1', number: 'X', name: 'Other' } },
};

const decided = fc
  .dictionary(
    fc.constantFrom(...NUMBERS.slice(1)),
    fc.constantFrom<Decision>('share', 'copy', 'omit', 'swap'),
  )
  .map((decisions) => {
    const swaps = Object.fromEntries(Object.keys(decisions).map((number) => [number, 'X']));
    return requestOf('T', { ...EMPTY_DRAFT, decisions, swaps });
  });

it('what has changed, put upon what was, is the plan', () => {
  fc.assert(
    fc.property(fc.array(decided, { minLength: 1, maxLength: 6 }), (requests) => {
      const planner = new Replanner(GROUND);
      let planned: Planned = { lines: [], tree: [] };
      for (const request of requests) {
        planned = changed(planned, planner.plan(request));
        expect(planned).toEqual(changed({ lines: [], tree: [] }, new Replanner(GROUND).plan(request)));
      }
    }),
  );
});

it('is the plan of the server: taken numbers, reasons and all', () => {
  const request = requestOf('T', { ...EMPTY_DRAFT, decisions: { B: 'share' } });
  const { lines } = changed({ lines: [], tree: [] }, new Replanner(GROUND).plan(request));
  const plan = planDerivation({
    ...{ nodes, rules: GROUND.rules, renamed: new Map(), otherwise: 'propose' },
    decisions: new Map([['B', 'share']]),
    takenNumbers: new Set(['v-p']),
    takenFileNames: new Set(),
  });
  expect(lines).toEqual(planLines(plan, new Map(Object.entries(GROUND.shown))));
  expect(lines.find(({ number }) => number === 'B')).toMatchObject({ decision: 'share', version: 'A/1' });
});

it('another item, name or place needs another ground; another decision does not', () => {
  const key = (changes: Partial<typeof EMPTY_DRAFT>): string =>
    groundKey(requestOf('T', { ...EMPTY_DRAFT, ...changes }));
  expect(key({ decisions: { A: 'share', P: 'omit' } })).toBe(key({}));
  expect(key({ uses: [{ chain: ['T', 'A'], decision: 'omit' }] })).toBe(key({}));
  expect(key({ decisions: { A: 'swap' }, swaps: { A: 'X' } })).not.toBe(key({}));
  expect(key({ renamed: { A: { number: 'Z' } } })).not.toBe(key({}));
  expect(key({ place: '/elsewhere' })).not.toBe(key({}));
  expect(key({ configuration: 'long' })).not.toBe(key({}));
});

it('cannot be planned from a ground that lacks something', () => {
  const ask = (more: Partial<AskedDecisions>) => () =>
    new Replanner(GROUND).plan({ ...requestOf('T', EMPTY_DRAFT), ...more });
  expect(ask({ swap: [{ from: 'A', to: 'Y' }] })).toThrow(/Y is not known/);
  expect(ask({ omit: ['Z'] })).toThrow(/Z is not part of T A\/1/);
});
