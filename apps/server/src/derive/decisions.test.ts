/** Variants that are more than copies: what is fetched of them is read back and compared with what was decided. */
import type { AddChoice, DerivePreview, SceneAnswer, UseChoice } from '@stem-trace/contract';
import type { Decision, FileReading } from '@stem-trace/core';
import { readStep } from '@stem-trace/formats';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  readExchangeFile,
  readExchangeSet,
  EXTERNAL_SETS,
} from '../../../../packages/formats/src/testing/exchange-files.js';
import { filesOf, randomTree, type RandomTree } from '../testing/random-trees.js';
import { Refused, TestStore, type Files } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

/** Everything that stands in fetched files, one path of numbers for each occurrence. */
function pathsIn(files: Files, root: string): string[] {
  const readings = new Map<string, FileReading>();
  for (const [path, bytes] of files)
    if (/\.(stp|step)$/i.test(path))
      readings.set(path, readStep(bytes, path.slice(path.lastIndexOf('/') + 1)));
  const paths: string[] = [];
  const walk = (file: string, product: number, above: string): void => {
    const reading = readings.get(file);
    if (!reading) throw new Error(`${file} was not fetched`);
    const path = `${above}/${reading.products[product]?.id}`;
    paths.push(path);
    for (const { parent, child, relation = 'component' } of reading.uses) {
      if (parent !== product || relation !== 'component') continue;
      const { locator = '' } = reading.products[child] ?? {};
      if (locator === '') walk(file, child, path);
      else {
        const target = new URL(
          locator.split('/').map(encodeURIComponent).join('/'),
          `file:///${file.split('/').map(encodeURIComponent).join('/')}`,
        );
        const next = decodeURIComponent(target.pathname.slice(1));
        walk(next, readings.get(next)?.root ?? 0, path);
      }
    }
  };
  walk(root, readings.get(root)?.root ?? 0, '');
  return paths.sort();
}

interface Wishes {
  readonly decisions: ReadonlyMap<string, Decision>;
  readonly uses: readonly UseChoice[];
  readonly added: readonly AddChoice[];
  readonly other: string;
}

/** What was asked for, told path by path: `-` marks what keeps its number, for it is shared or from elsewhere. */
function wanted(
  { names, uses: links }: RandomTree,
  { decisions, uses, added, other }: Wishes,
  copied: (number: string) => string,
): string[] {
  const paths: string[] = [];
  const below = (number: string): [string, number][] =>
    links.flatMap(([parent, child, many]) =>
      names[parent] === number ? [[names[child] ?? '', many] as [string, number]] : [],
    );
  const shared = (number: string, above: string): void => {
    paths.push(`${above}/${number}`);
    for (const [child, many] of below(number))
      for (let n = 0; n < many; n++) shared(child, `${above}/${number}`);
  };
  const tell = (number: string, chain: readonly string[], above: string): void => {
    const path = `${above}/${copied(number)}`;
    paths.push(path);
    for (const [child, many] of below(number)) {
      for (let n = 1; n <= many; n++) {
        const at = [...chain, child];
        let what = decisions.get(child) ?? 'copy';
        for (const use of uses)
          if (use.chain.join('\n') === at.join('\n') && (use.occurrences?.includes(n) ?? true))
            what = use.decision;
        if (what === 'copy') tell(child, at, path);
        if (what === 'share') shared(child, path);
        if (what === 'swap') paths.push(`${path}/${other}`);
      }
    }
    for (const add of added) if (add.in.join('\n') === chain.join('\n')) paths.push(`${path}/${other}`);
  };
  tell(names[0] ?? '', [names[0] ?? ''], '');
  return paths.sort();
}

/** A further copy of an item is called `…-2`; for comparing it is the same. */
const alike = (path: string): string => path.replace(/(?<=V [^/]*)-[0-9]+(?=\/|$)/g, '');

describe('a variant of any tree', () => {
  it('is what was decided, spot by spot, in its files and for the proof', async () => {
    const choice = fc.constantFrom<Decision>('share', 'copy', 'swap', 'omit');
    await fc.assert(
      fc.asyncProperty(
        randomTree,
        fc.array(fc.tuple(fc.nat(), fc.constantFrom<Decision>('omit', 'swap')), { maxLength: 2 }),
        fc.array(fc.tuple(fc.nat(), choice, fc.boolean()), { maxLength: 4 }),
        fc.array(fc.nat(), { maxLength: 2 }),
        async (tree, items, spots, adds) => {
          const suffix = Math.random().toString(36).slice(2, 8);
          const place = `/decided/${suffix}`;
          const names = tree.names.map((name) => `${suffix} ${name}`);
          const own = { names, uses: tree.uses };
          const result = await store.intake(filesOf(own), { place });
          expect(result.problems).toEqual([]);
          await store.intake(filesOf({ names: [`${suffix} other`], uses: [] }), { place: `${place}/other` });
          const chains: string[][] = [];
          const walk = (at: number, chain: string[]): void => {
            if (chains.length > 200) return;
            chains.push(chain);
            for (const [parent, child] of tree.uses)
              if (parent === at) walk(child, [...chain, names[child] ?? '']);
          };
          walk(0, [names[0] ?? '']);
          const other = `${suffix} other`;
          const decisions = new Map(
            items.map(([pick, what]) => [names[1 + (pick % (names.length - 1))] ?? '', what]),
          );
          const uses = spots.flatMap(([pick, decision, isOne]): UseChoice[] => {
            const chain = chains[pick % chains.length] ?? [];
            if (chain.length < 2) return [];
            return [
              {
                chain,
                decision,
                ...(decision === 'swap' ? { to: other } : {}),
                ...(isOne ? { occurrences: [1] } : {}),
              },
            ];
          });
          const added = adds.map((pick): AddChoice => ({
            ...{
              in: chains[pick % chains.length] ?? [],
              item: other,
              name: 'one more',
              like: '',
              at: [1, 2, 3],
            },
          }));
          const isLeaf = (number: string): boolean => !tree.uses.some(([parent]) => names[parent] === number);
          // Nothing can be put into a part.
          const adding = added.filter(({ in: chain }) => !isLeaf(chain.at(-1) ?? ''));
          const wishes = { decisions, uses, added: adding, other };
          const variant = await store.derive({
            item: names[0] ?? '',
            copy: 'all',
            prefix: 'V ',
            place: `${place}/variant`,
            omit: [...decisions].flatMap(([number, what]) => (what === 'omit' ? number : [])),
            swap: [...decisions].flatMap(([from, what]) => (what === 'swap' ? { from, to: other } : [])),
            uses,
            added: adding,
          });
          expect(variant.proof.faults).toEqual([]);
          const fetched = await store.fetch(variant.variant);
          const found = pathsIn(fetched.files, fetched.manifest.root).map(alike);
          expect(found.sort()).toEqual(
            wanted(own, wishes, (number) => `V ${number}`)
              .map(alike)
              .sort(),
          );
        },
      ),
      { numRuns: Number(process.env.RUNS ?? 10) },
    );
  });
});

async function intakeSet(files: Files, place: string, prefix: string): Promise<string> {
  const result = await store.intake(files, { place, prefix });
  expect([result.problems, result.gaps]).toEqual([[], []]);
  const { rows } = await store.json<{ rows: { number: string }[] }>(
    'GET',
    `/api/items?words=${encodeURIComponent(prefix)}&limit=200`,
  );
  const counts = await Promise.all(
    rows.map(async ({ number }) => [number, (await store.made(number)).rows.length] as const),
  );
  return counts.toSorted(([, a], [, b]) => b - a)[0]?.[0] ?? '';
}

describe('files of several exporters', () => {
  const sets: (readonly [string, Files])[] = [
    ...EXTERNAL_SETS.map((name) => [name, readExchangeSet(name)] as const),
    ...['as1-oc-214.stp', 'as1-tu-203.stp', 'as1_pe_203.stp', 'dm1-id-214.stp'].map(
      (name) => [name, new Map([[name, readExchangeFile(name)]])] as const,
    ),
  ];

  it.each(sets)('are changed as decided: %s', async (name, files) => {
    const prefix = `${name.slice(0, 6)}~`;
    const top = await intakeSet(files, `/exchange/${name}`, prefix);
    await store.intake(filesOf({ names: [`${prefix}other`], uses: [] }), {
      place: `/exchange/${name}/other`,
    });
    const { rows } = await store.made(top);
    const [first] = rows.filter(({ level }) => level === 1);
    const leaf = rows.findLast(({ quantity, level }) => quantity >= 1 && level > 1) ?? rows.at(-1);
    const variant = await store.derive({
      item: top,
      copy: 'all',
      prefix: 'V',
      place: `/exchange/${name}/variant`,
      omit: [first?.number ?? ''],
      swap: leaf && leaf.number !== first?.number ? [{ from: leaf.number, to: `${prefix}other` }] : [],
      added: [{ in: [top], item: `${prefix}other`, name: 'added', like: '', at: [10, 20, 30] }],
    });
    expect(variant.proof.faults).toEqual([]);
    const made = await store.made(variant.variant);
    expect(made.rows.map(({ number }) => number)).not.toContain(first?.number);
    expect(made.rows.some(({ number, level }) => level === 1 && number === `${prefix}other`)).toBe(true);
    const fetched = await store.fetch(variant.variant);
    const paths = pathsIn(fetched.files, fetched.manifest.root);
    const inStore = made.rows.reduce((sum, row) => sum + row.quantity * ancestors(made.rows, row), 1);
    expect(paths.length).toBe(inStore);
    const { faults } = await store
      .json<{ faults: string[] }>('GET', '/api/verify')
      .catch(() => ({ faults: [] }));
    expect(faults).toEqual([]);
  });
});

/** How often the assemblies stand in the whole that a row stands in. */
function ancestors(
  rows: readonly { level: number; quantity: number }[],
  row: { level: number; quantity: number },
): number {
  let product = 1;
  let { level } = row;
  for (let at = rows.indexOf(row) - 1; at >= 0 && level > 1; at--) {
    const above = rows[at];
    if (!above || above.level >= level) continue;
    product *= above.quantity;
    ({ level } = above);
  }
  return product;
}

describe('a plan', () => {
  it('says spot by spot what becomes of it, and sums up what is in the way', async () => {
    const place = '/plan/spots';
    await store.intake(
      filesOf({
        names: ['PT', 'PA', 'PB'],
        uses: [
          [0, 1, 1],
          [1, 2, 4],
          [0, 2, 2],
        ],
      }),
      { place },
    );
    await store.intake(filesOf({ names: ['PX'], uses: [] }), { place: `${place}/x` });
    const preview = await store.json<DerivePreview>('POST', '/api/derive/preview', {
      item: 'PT',
      uses: [
        { chain: ['PT', 'PA', 'PB'], decision: 'swap', to: 'PX', occurrences: [2, 3] },
        { chain: ['PT', 'PB'], decision: 'share' },
      ],
      added: [{ in: ['PA'], item: 'PX', name: 'one more' }],
    });
    expect(
      preview.tree.map(({ level, number, quantity, decision, to, own }) => [
        level,
        number,
        quantity,
        decision,
        to,
        own,
      ]),
    ).toEqual([
      [0, 'PT', 1, 'copy', null, false],
      [1, 'PA', 1, 'copy', null, false],
      [2, 'PB', 2, 'copy', null, true],
      [2, 'PB', 2, 'swap', 'PX', true],
      [2, 'PX', 1, 'add', 'PX', false],
      [1, 'PB', 2, 'share', null, true],
    ]);
    expect(preview.hindrances).toEqual([
      expect.objectContaining({ kind: 'number', stops: true, numbers: ['PT', 'PA', 'PB'] }),
    ]);
    expect(preview.ready).toBe(false);
  });

  it('places what is added on a face, with z out of it', async () => {
    await store.intake(filesOf({ names: ['ST', 'SP'], uses: [[0, 1, 1]] }), { place: '/stands' });
    const { variant } = await store.derive({
      ...{ item: 'ST', prefix: 'V', place: '/stands' },
      added: [{ in: ['ST'], item: 'SP', name: 'on it', like: '', at: [10, 20, 30], along: [0, 0.6, -0.8] }],
    });
    const { nodes, meshes } = await store.json<SceneAnswer>('GET', `/api/scene?item=${variant}`);
    const use = nodes.findIndex((node) => node.use === 'on it');
    const at = meshes.flatMap((mesh) => mesh.at.filter((_, copy) => mesh.nodes[copy] === use))[0];
    // Read back from the copied file.
    expect([2, 6, 10, 3, 7, 11].map((index) => at?.[index])).toEqual([0, 0.6, -0.8, 10, 20, 30]);
    await expect(
      store.json('POST', '/api/derive/preview', {
        item: 'ST',
        added: [{ in: ['ST'], item: 'SP', along: [0, 0, 0] }],
      }),
    ).rejects.toThrow(/has no length/);
  });

  it('refuses what is not there, in words', async () => {
    const ask = (more: object): Promise<unknown> =>
      store
        .json('POST', '/api/derive/preview', { item: 'PT', ...more })
        .catch((error: unknown) => (error as Refused).message);
    expect(await ask({ omit: ['NOPE'] })).toBe('NOPE is not part of PT A/1. Nothing was changed.');
    expect(await ask({ uses: [{ chain: ['PB', 'PA'], decision: 'omit' }] })).toMatch('PB does not use PA');
    expect(await ask({ swap: [{ from: 'PB', to: 'GONE' }] })).toMatch('GONE');
    expect(await ask({ uses: [{ chain: ['PT', 'PB'], decision: 'swap' }] })).toMatch(/to/);
    expect(await ask({ added: [{ in: ['PA'], item: 'PX', like: 'PX' }] })).toBe(
      'PA does not use PX, so that nothing can be placed like it. Nothing was changed.',
    );
  });
});
