import type { FileReading, UseReading } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXTERNAL_SETS, readExchangeFile, readExchangeSet, WHOLE_FILES } from '../testing/exchange-files.js';
import { LOCATOR_STYLES, stepFile } from '../testing/step-sets.js';
import { editStepStructure, type NamedUse, type StructureEdit } from './edit-structure.js';
import { readStep } from './read.js';

const decode = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes);

/** Instances by number, as a search by pattern finds them: nothing of the reader is in it. */
function instances(bytes: Uint8Array): Map<string, string> {
  const data = decode(bytes).replace(/\/\*[\s\S]*?\*\//g, '');
  return new Map(
    [...data.matchAll(/(?:^|[;\s])#(\d+)\s*=\s*((?:'(?:[^']|'')*'|[^;'])*);/g)].map(
      ([, id = '', body = '']) => [id, body.trim()],
    ),
  );
}

/** References of instances to ones that are not there, by the same search. */
function dangling(bytes: Uint8Array): string[] {
  const all = instances(bytes);
  return [...all].flatMap(([id, body]) =>
    [...body.replace(/'(?:[^']|'')*'/g, '').matchAll(/#(\d+)/g)].flatMap(([, ref = '']) =>
      all.has(ref) ? [] : [`#${id} -> #${ref}`],
    ),
  );
}

const said = (placement: readonly number[]): string =>
  placement.map((value) => (Math.round(value * 1000) / 1000 + 0).toString()).join(' ');

const GEOMETRY =
  /^(CARTESIAN_POINT|DIRECTION|VECTOR|LINE|CIRCLE|PLANE|.*_SURFACE|EDGE_CURVE|VERTEX_POINT|ADVANCED_FACE|CLOSED_SHELL|MANIFOLD_SOLID_BREP)\b/;

function uses(bytes: Uint8Array, name: string): string[] {
  const { products, uses: all } = readStep(bytes, name);
  return all
    .filter(({ relation = 'component' }) => relation === 'component')
    .map(
      ({ parent, child, placement }) =>
        `${products[parent]?.id} > ${products[child]?.id} @${said(placement)}`,
    );
}

/** A component by its place among all, as it is named. */
function named({ products, uses: all }: FileReading, at: number): NamedUse {
  const components = all.filter(({ relation = 'component' }) => relation === 'component');
  const same = (one?: UseReading, two?: UseReading): boolean =>
    one?.parent === two?.parent &&
    one?.child === two?.child &&
    JSON.stringify(one?.configurations ?? []) === JSON.stringify(two?.configurations ?? []);
  const use = components[at];
  return {
    parent: products[use?.parent ?? -1]?.ref ?? -1,
    child: products[use?.child ?? -1]?.ref ?? -1,
    configurations: use?.configurations ?? [],
    nth: components.slice(0, at).filter((other) => same(other, use)).length,
  };
}

const NEW = { id: 'NEW-1', name: 'Another part', locator: 'new-1.stp' };

const files = [
  ...WHOLE_FILES.map((name) => [name, readExchangeFile(name)] as const),
  ...EXTERNAL_SETS.map(
    (set) => [`${set}.stp`, readExchangeSet(set).get(`${set}.stp`) ?? new Uint8Array()] as const,
  ),
];

describe('changing the structure of a STEP file', () => {
  it.each(files)('does as it is told in %s, and nothing else', (name, bytes) => {
    const before = readStep(bytes, name);
    const components = before.uses.filter(({ relation = 'component' }) => relation === 'component');
    const had = instances(bytes);
    const broken = new Set(dangling(bytes));
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            at: fc.nat(Math.max(0, components.length - 1)),
            what: fc.constantFrom('nothing', 'new', 'other'),
          }),
          { maxLength: 4 },
        ),
        fc.array(fc.tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 })), {
          maxLength: 2,
        }),
        (wishes, places) => {
          if (components.length === 0) return;
          const chosen = new Map(wishes.map(({ at, what }) => [at, what]));
          const leaf = before.products.findIndex(
            ({ kind }, index) => kind === 'part' && components.some(({ child }) => child === index),
          );
          const other = before.products[leaf]?.ref ?? -1;
          const edit: StructureEdit = {
            uses: [...chosen].map(([at, what]) => ({
              use: named(before, at),
              becomes: what === 'nothing' ? 'nothing' : what === 'new' ? { external: 'n' } : { ref: other },
            })),
            added: places.map(([x, y]) => ({
              parent: before.products[before.root]?.ref ?? -1,
              target: { external: 'n' },
              name: 'added',
              placement: [0, -1, 0, x, 1, 0, 0, y, 0, 0, 1, 12.5],
            })),
            externals: [['n', NEW]],
          };
          const { bytes: edited } = editStepStructure(bytes, name, edit);
          // Nothing refers to what is not there, and no instance that stayed says anything else than before but in its references.
          expect(dangling(edited).filter((each) => !broken.has(each))).toEqual([]);
          for (const [id, body] of instances(edited)) {
            if (!had.has(id) || body === had.get(id)) continue;
            expect(body).not.toMatch(GEOMETRY);
            const bare = (text: string): string =>
              text.replace(/'(?:[^']|'')*'/g, '').replace(/[#\d,\s]/g, '');
            expect(bare(body)).toBe(bare(had.get(id) ?? ''));
            // Texts change in uses that are exchanged, which may be called after what stood there.
            if (!/^(NEXT_ASSEMBLY_USAGE_OCCURRENCE|PRODUCT_DEFINITION_SHAPE)/.test(body))
              expect(body.replace(/[#\d,\s]/g, '')).toBe((had.get(id) ?? '').replace(/[#\d,\s]/g, ''));
          }
          // Read by the reader: the uses that were not named stay, those that were are what was asked for.
          const after = uses(edited, name);
          const expected = components.flatMap((use, at) => {
            const what = chosen.get(at);
            if (what === 'nothing') return [];
            const child =
              what === 'new'
                ? NEW.id
                : what === 'other'
                  ? before.products[leaf]?.id
                  : before.products[use.child]?.id;
            return [`${before.products[use.parent]?.id} > ${child} @${said(use.placement)}`];
          });
          const standing = new Set(readStep(edited, name).products.map(({ id }) => id));
          const stillThere = expected.filter((line) => standing.has(line.split(' > ')[0] ?? ''));
          expect(after.length).toBe(stillThere.length + places.length);
          expect(after.sort()).toEqual(
            [
              ...stillThere,
              ...places.map(
                ([x, y]) =>
                  `${before.products[before.root]?.id} > NEW-1 @${said([0, -1, 0, x, 1, 0, 0, y, 0, 0, 1, 12.5])}`,
              ),
            ].sort(),
          );
        },
      ),
      { numRuns: Number(process.env.RUNS ?? 8) },
    );
  });

  it.each(LOCATOR_STYLES)('leaves no word of a file that nothing uses any more, named as %s', (style) => {
    const bytes = stepFile({
      id: 'TOP',
      style,
      uses: [
        { id: 'GOING-1', locator: 'parts/going.stp', count: 2 },
        { id: 'STAYING-1', locator: 'parts/staying.stp' },
      ],
    });
    const before = readStep(bytes, 'top.stp');
    const child = before.products.find(({ id }) => id === 'GOING-1')?.ref ?? -1;
    const parent = before.products[before.root]?.ref ?? -1;
    const { bytes: edited, gone } = editStepStructure(bytes, 'top.stp', {
      uses: [0, 1].map((nth) => ({ use: { parent, child, configurations: [], nth }, becomes: 'nothing' })),
      added: [],
      externals: [],
    });
    expect(gone).toEqual([child]);
    expect(dangling(edited)).toEqual([]);
    expect(decode(edited)).not.toMatch(/going/i);
    const after = readStep(edited, 'top.stp');
    expect(after.products.map(({ id, locator }) => [id, locator])).toEqual([
      ['TOP', undefined],
      ['STAYING-1', 'parts/staying.stp'],
    ]);
  });

  it.each(EXTERNAL_SETS)('leaves no word of what is taken out of the files of %s', (set) => {
    for (const [name, bytes] of readExchangeSet(set)) {
      const { products, uses: all } = readStep(bytes, name);
      const components = all.filter(({ relation = 'component' }) => relation === 'component');
      for (const [index, { locator }] of products.entries()) {
        const places = components.flatMap(({ child }, at) => (child === index ? [at] : []));
        if (locator === undefined || places.length === 0) continue;
        const { bytes: edited } = editStepStructure(bytes, name, {
          uses: places.map((at) => ({
            use: named({ products, uses: all } as FileReading, at),
            becomes: 'nothing',
          })),
          added: [],
          externals: [],
        });
        expect(decode(edited)).not.toContain(`'${locator}'`);
        expect(dangling(edited)).toEqual([]);
      }
    }
  });
});
