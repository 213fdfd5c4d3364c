import { expect, it } from 'vitest';
import { PLAIN_DERIVATION, type DerivePreview } from '@stem-trace/contract';
import type { NameRule } from '@stem-trace/core';
import {
  asEverywhere,
  atLevel,
  chainTo,
  decide,
  decisionsLike,
  decideSpot,
  EMPTY_DRAFT,
  isDraft,
  namesPasted,
  requestAsSeen,
  requestOf,
} from './draft.js';
import { readingsOf } from './use-naming.js';

const RULE: NameRule = { kind: 'replace', of: 'numbers', where: 'start', from: 'FM', to: 'FT' };

function preview(...numbers: readonly string[]): DerivePreview {
  return {
    origin: { number: numbers[0] ?? '', name: 'Station', version: 'A/1' },
    place: '/Projects',
    ready: true,
    ...{ hindrances: [], configurations: [] },
    tree: numbers.map((number, at) => ({
      ...{ level: at === 0 ? 0 : 1, number, quantity: 1, gap: false, decision: 'copy', own: false },
      ...{ key: number, to: null, occurrences: null },
    })),
    lines: numbers.map((number) => ({
      ...{
        key: number,
        number,
        name: `Arm of ${number}`,
        kind: 'part',
        version: 'A/1',
        decision: 'copy',
        reason: '',
      },
      ...{
        forced: false,
        newNumber: `${number}-2`,
        newName: `Arm of ${number}`,
        fileName: null,
        to: null,
        clash: null,
      },
    })),
  };
}

it('a draft that decides nothing asks for the proposal', () => {
  expect(requestOf('FM-1', EMPTY_DRAFT)).toMatchObject({
    item: 'FM-1',
    copy: 'proposed',
    alsoCopy: [],
    share: [],
    replace: [],
    prefix: '',
  });
});

it('decisions, names and the rules go along', () => {
  const request = requestOf('FM-1@B/2', {
    ...EMPTY_DRAFT,
    copyAll: true,
    decisions: { 'FM-2': 'share', 'FM-3': 'copy' },
    rules: [RULE],
    scheme: 'parts',
    renamed: { 'FM-1': { name: 'Tide station' } },
    key: 'k',
  });
  expect(request).toMatchObject({
    item: 'FM-1@B/2',
    copy: 'all',
    alsoCopy: ['FM-3'],
    share: ['FM-2'],
    replace: [],
    prefix: '',
    rules: [RULE],
    scheme: 'parts',
    renamed: { 'FM-1': { name: 'Tide station' } },
    place: '',
    key: 'k',
  });
});

it('what is carried out is what was seen', () => {
  const draft = { ...EMPTY_DRAFT, scheme: 'parts', renamed: { 'FM-2': { number: 'X' } } };
  expect(requestAsSeen('FM-1', draft, preview('FM-1', 'FM-2')).renamed).toEqual({
    'FM-1': { number: 'FM-1-2', name: 'Arm of FM-1' },
    'FM-2': { number: 'FM-2-2', name: 'Arm of FM-2' },
  });
});

it('a decision says which one before it cannot be kept', () => {
  const draft = { ...EMPTY_DRAFT, decisions: { 'FM-1': 'share' as const } };
  expect(decide(draft, preview('FM-1', 'FM-2'), new Set(['FM-2']), 'copy')).toEqual({
    changes: { decisions: { 'FM-2': 'copy' }, swaps: {} },
    says: 'FM-1 contains FM-2: no longer shared.',
  });
  expect(decide(draft, preview('FM-0', 'FM-1'), new Set(['FM-0']), 'copy').says).toBe('');
  const many = decide(draft, preview('FM-1', 'FM-2', 'FM-3'), new Set(['FM-2', 'FM-3', 'FM-9']), 'share');
  expect(many).toEqual({
    changes: { decisions: { 'FM-1': 'share', 'FM-2': 'share', 'FM-3': 'share' }, swaps: {} },
    says: '2 lines shared.',
  });
});

it('an edit is read as a rule only where it fits more than its line', () => {
  const edit = { draft: EMPTY_DRAFT, preview: preview('FM-1', 'FM-2', 'X'), field: 'number' as const };
  const [widest] = readingsOf({ ...edit, number: 'FM-1', after: 'FT-1' });
  expect(widest).toMatchObject({ rules: [RULE], fits: 2 });
  expect(readingsOf({ ...edit, number: 'X', after: 'Station' })).toEqual([]);
  expect(readingsOf({ ...edit, number: 'FM-1', after: 'FM-1' })).toEqual([]);
});

it('what was kept is a draft, or is not taken', () => {
  expect(isDraft(JSON.parse(JSON.stringify(EMPTY_DRAFT)))).toBe(true);
  for (const other of [null, 7, [], {}, { ...EMPTY_DRAFT, rules: {} }, { ...EMPTY_DRAFT, key: 1 }])
    expect(isDraft(other)).toBe(false);
});

it('swaps and omissions, for all spots or one of them, go along', () => {
  const seen = preview('T-1', 'A-1', 'P-1');
  const swapped = { ...EMPTY_DRAFT, ...decide(EMPTY_DRAFT, seen, new Set(['P-1']), 'swap', 'X-1').changes };
  const left = { ...swapped, ...decide(swapped, seen, new Set(['A-1']), 'omit').changes };
  const here = decideSpot(left, { chain: ['T-1', 'A-1'], decision: 'copy', occurrences: [2] });
  const again = decideSpot(
    { ...left, ...here },
    { chain: ['T-1', 'A-1'], decision: 'share', occurrences: [2] },
  );
  expect(requestOf('T-1', { ...left, ...again })).toMatchObject({
    omit: ['A-1'],
    swap: [{ from: 'P-1', to: 'X-1' }],
    uses: [{ chain: ['T-1', 'A-1'], decision: 'share', occurrences: [2] }],
  });
  expect(asEverywhere({ ...left, ...again }, ['T-1', 'A-1'])).toEqual({ uses: [] });
});

it('a row of the tree knows the way to it', () => {
  const tree = (
    [
      [0, 'T'],
      [1, 'A'],
      [2, 'P'],
      [1, 'B'],
      [2, 'P'],
    ] as const
  ).map(([level, number]) => ({
    ...{ level, number, quantity: 1, gap: false, decision: 'copy' as const, own: false },
    ...{ key: number, to: null, occurrences: null },
  }));
  expect(chainTo(tree, 4)).toEqual(['T', 'B', 'P']);
  expect(chainTo(tree, 0)).toEqual(['T']);
});

it('numbers are taken from a block of cells, matched by the old ones', () => {
  const seen = preview('FM-1', 'FM-2');
  expect(namesPasted('fm-1\tX-1\tMast\nFM-9\tX-9\n\nFM-2\t\tArm\n', seen)).toEqual({
    renamed: { 'FM-1': { number: 'X-1', name: 'Mast' }, 'FM-2': { name: 'Arm' } },
    unknown: ['FM-9'],
  });
  expect(namesPasted('FM-2;Y-2', seen).renamed).toEqual({ 'FM-2': { number: 'Y-2' } });
});

it('levels are counted from the origin, which no level decides about', () => {
  const tree = ['T', 'A', 'B', 'A'].map((number, at) => ({
    ...{ level: [0, 1, 2, 3][at] ?? 0, number, quantity: 1, gap: false, decision: 'copy' as const },
    ...{ own: false, key: number, to: null, occurrences: null },
  }));
  const at = (words: string): string[] | undefined => {
    const level = atLevel(words, tree);
    return level && [...level].sort();
  };
  expect(at('level > 1')).toEqual(['A', 'B']);
  expect(at('Level=1')).toEqual(['A']);
  expect(at(' level <= 2 ')).toEqual(['A', 'B']);
  expect(at('level >= 0')).toEqual(['A', 'B']);
  expect(at('level < 1')).toEqual([]);
  for (const words of ['level', 'level > x', 'class = fastener', 'level > 2 or class = fastener', ''])
    expect(at(words)).toBeUndefined();
});

it('decisions of another variant are taken over where all that they name is in the plan', () => {
  const request = {
    ...PLAIN_DERIVATION,
    ...{ item: 'T-1', copy: 'all' as const, share: ['p-1'], omit: ['GONE'], prefix: 'V-' },
    swap: [{ from: 'A-1', to: 'X' }],
    uses: [
      { chain: ['T-1', 'A-1'], decision: 'omit' as const },
      { chain: ['T-1', 'GONE'], decision: 'omit' as const },
    ],
    added: [{ in: ['T-1'], item: 'X', name: '', like: 'GONE', at: [0, 0, 0] as const }],
  };
  const taken = decisionsLike(request, preview('T-1', 'A-1', 'P-1'));
  expect(taken).toMatchObject({ copyAll: true, uses: [request.uses[0]], added: [] });
  expect(requestOf('T-1', { ...EMPTY_DRAFT, ...taken })).toMatchObject({
    ...{ omit: [], swap: [{ from: 'A-1', to: 'X' }], prefix: '' },
  });
});
