/** The whole job on real files: bring in, trace, derive, fetch, and bring in again what was fetched. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  EXTERNAL_SETS,
  readExchangeFile,
  readExchangeSet,
  WHOLE_FILES,
} from '../../../packages/formats/src/testing/exchange-files.js';
import { TestStore, treeText, type Files } from './testing/test-store.js';

const SHIP = (top: string[]): string[] => top;

const SETS: Readonly<Record<(typeof EXTERNAL_SETS)[number], { top: string; tree: string[] }>> = {
  s1_pe_214: {
    top: 'S1_PE_TOP',
    tree: SHIP([
      'MAINBODY_ASM ×1 = 1',
      '  MAIN_BODY_BACK ×1 = 1',
      '  MAIN_BODY_FRONT ×1 = 1',
      'HEAD_ASM ×1 = 1',
      '  HEAD_BACK ×1 = 1',
      '  HEAD_FRONT ×1 = 1',
      'TAIL_ASM ×1 = 1',
      '  TAIL_MIDDLE_PART ×1 = 1',
      '  TAIL_TURBINE ×2 = 2',
      'FOOT_ASM ×2 = 2',
      '  FOOT_BACK ×1 = 2',
      '  FOOT_FRONT ×1 = 2',
    ]),
  },
  's1-c5-214': {
    top: '*MASTER',
    tree: SHIP([
      'TAIL ×1 = 1',
      '  TAIL_TURBINE ×2 = 2',
      '  TAIL_MIDDLE_PART ×1 = 1',
      'HEAD ×1 = 1',
      '  HEAD_FRONT ×1 = 1',
      '  HEAD_BACK ×1 = 1',
      'MAINBODY ×1 = 1',
      '  MAINBODY_FRONT ×1 = 1',
      '  MAINBODY_BACK ×1 = 1',
      'FOOT ×2 = 2',
      '  FOOT_FRONT_000 ×1 = 2',
      '  FOOT_BACK_000 ×1 = 2',
    ]),
  },
  's1-tu-203': {
    top: 's1',
    tree: SHIP([
      'head ×1 = 1',
      '  headback ×1 = 1',
      '  headfront ×1 = 1',
      'tail ×1 = 1',
      '  tailmiddlepart ×1 = 1',
      '  tailturbine ×2 = 2',
      'foot ×2 = 2',
      '  footback ×1 = 2',
      '  footfront ×1 = 2',
      'mainbody ×1 = 1',
      '  mainbodyback ×1 = 1',
      '  mainbodyfront ×1 = 1',
    ]),
  },
};

/** Strings of a STEP file that hold one of the words whole. */
function stringsWith(files: Files, words: ReadonlySet<string>): string[] {
  return [...files].flatMap(([path, bytes]) =>
    [...new TextDecoder('latin1').decode(bytes).matchAll(/'((?:[^']|'')*)'/g)]
      .map((match) => match[1] ?? '')
      .filter((text) => text.split(/[^A-Za-z0-9_*-]+/).some((word) => words.has(word.toLowerCase())))
      .map((text) => `${path}: ${text}`),
  );
}

let store: TestStore;
let second: TestStore;
beforeAll(async () => {
  [store, second] = await Promise.all([TestStore.open(), TestStore.open()]);
});
afterAll(async () => {
  await Promise.all([store.close(), second.close()]);
});

describe.each(EXTERNAL_SETS)('the set %s', (set) => {
  const { top, tree } = SETS[set];
  const prefix = `${set}/`;

  it('comes in with no problem and no gap, and has the right structure', async () => {
    const files = readExchangeSet(set);
    const result = await store.intake(files, { prefix, place: `/${set}` });
    expect(result).toMatchObject({
      files: files.size,
      items: 13,
      versions: 13,
      links: 12,
      problems: [],
      gaps: [],
    });
    const made = await store.made(prefix + top);
    expect(treeText(made, (number) => number.replace(prefix, ''))).toEqual(tree);
    const part = made.rows.find((row) => /turbine/i.test(row.number))?.number ?? '';
    expect((await store.used(part, '&tops=true')).rows).toMatchObject([{ number: prefix + top, total: 2 }]);
  });

  it('is copied whole, and what is fetched comes in elsewhere as the same tree under the new names', async () => {
    const result = await store.derive({
      item: prefix + top,
      copy: 'all',
      replace: [{ from: prefix, to: `new ${set} ` }],
    });
    expect(result.proof).toEqual({
      references: 12,
      copied: 12,
      shared: 0,
      dangling: 0,
      leaking: 0,
      faults: [],
    });
    expect(result.made).toHaveLength(13);
    const { files, manifest } = await store.fetch(result.variant);
    expect(files.size).toBe(readExchangeSet(set).size);
    expect(manifest.left).toEqual([]);

    expect(await second.intake(files, { place: `/${set}` })).toMatchObject({
      items: 13,
      links: 12,
      problems: [],
      gaps: [],
    });
    const again = await second.made(result.variant);
    expect(treeText(again)).toEqual(treeText(await store.made(result.variant)));
    expect(treeText(again, (number) => number.replace(`new ${set} `, ''))).toEqual(tree);

    const olds = new Set(
      [...tree.map((line) => line.trim().split(' ')[0] ?? ''), top].map((name) => name.toLowerCase()),
    );
    const news = [...files].map(
      ([path, bytes]) =>
        [
          path,
          new TextEncoder().encode(new TextDecoder('latin1').decode(bytes).replaceAll(`new ${set} `, 'new')),
        ] as const,
    );
    expect(stringsWith(new Map(news), olds)).toEqual([]);
  });
});

describe.each(WHOLE_FILES)('the whole-assembly file %s', (name) => {
  it('comes in with no problem and no gap, and survives copying', async () => {
    const prefix = `${name}:`;
    const result = await store.intake(new Map([[name, readExchangeFile(name)]]), {
      prefix,
      place: `/whole/${name}`,
    });
    expect(result).toMatchObject({ files: 1, problems: [], gaps: [] });
    const { rows } = await store.json<{ rows: { number: string; kind: string }[] }>(
      'GET',
      `/api/items?words=${encodeURIComponent(prefix)}`,
    );
    expect(rows).toHaveLength(result.items);
    const tops = await Promise.all(
      rows.map(async ({ number }) => ((await store.used(number)).rows.length === 0 ? number : '')),
    );
    const top = tops.find((number) => number !== '') ?? '';
    const derived = await store.derive({ item: top, copy: 'all', prefix: 'Copy of ' });
    expect(derived.proof).toMatchObject({
      faults: [],
      references: result.links,
      copied: result.links,
      dangling: 0,
      leaking: 0,
    });
    const { files } = await store.fetch(derived.variant);
    await second.intake(files, { place: `/whole/${name}` });
    expect(treeText(await second.made(derived.variant))).toEqual(treeText(await store.made(derived.variant)));
  });
});

it('as1 has 18 solids of 5 parts in its tree', async () => {
  const made = await store.made('as1-oc-214.stp:as1');
  expect(treeText(made, (number) => number.replace('as1-oc-214.stp:', ''))).toEqual([
    'rod-assembly ×1 = 1',
    '  nut ×2 = 2',
    '  rod ×1 = 1',
    'l-bracket-assembly ×2 = 2',
    '  nut-bolt-assembly ×3 = 6',
    '    bolt ×1 = 6',
    '    nut ×1 = 6',
    '  l-bracket ×1 = 2',
    'plate ×1 = 1',
  ]);
  const parts = made.rows.filter((row) => row.kind === 'part');
  expect(parts.reduce((sum, row) => sum + row.total, 0)).toBe(18);
  expect(new Set(parts.map((row) => row.number)).size).toBe(5);
});
