/** Trees of any shape as sets of STEP files, with numbers that are hard to write. */
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import fc from 'fast-check';
import { readExchangeFile } from '../../../../packages/formats/src/testing/exchange-files.js';
import type { Files } from './test-store.js';

export const CUBE = readExchangeFile('../cube-fcstd/cube.step');

/** Numbers, and how often each is used in which. */
export interface RandomTree {
  readonly names: readonly string[];
  /** `[parent, child, how many]`, by index into the names; a parent comes before its children. */
  readonly uses: readonly (readonly [number, number, number])[];
}

const letters = fc.constantFrom(...'ABCxyz019-_ .()[]{}\'"+&#=;,~!', 'é', 'Ж', '部', 'ß', '😀');
export const randomNumber = fc
  .string({ unit: letters, minLength: 1, maxLength: 12 })
  .filter((text) => text === text.trim() && !/^(none|not specified|last_version|unknown|\$)$/i.test(text));

/** One tree: all hangs on the first. */
export const randomTree: fc.Arbitrary<RandomTree> = fc
  .record({
    names: fc.uniqueArray(randomNumber, {
      minLength: 2,
      maxLength: 9,
      selector: (text) => text.normalize('NFC').toLowerCase(),
    }),
    uses: fc.array(fc.tuple(fc.nat(8), fc.nat(8), fc.integer({ min: 1, max: 3 })), {
      minLength: 1,
      maxLength: 14,
    }),
  })
  .map(({ names, uses }) => {
    const count = names.length;
    const forward = uses
      .map(([a, b, many]) => [Math.min(a % count, b % count), Math.max(a % count, b % count), many] as const)
      .filter(([a, b]) => a !== b);
    const seen = new Set<string>();
    const unique = forward.filter(([a, b]) => !seen.has(`${a} ${b}`) && seen.add(`${a} ${b}`));
    // Whatever nothing uses hangs on the top, so that it is one tree.
    const used = new Set(unique.map(([, child]) => child));
    const loose = names.flatMap((_, index) =>
      index > 0 && !used.has(index) ? [[0, index, 1] as const] : [],
    );
    return { names, uses: [...unique, ...loose] };
  });

/** One file a node, in up to two folders, with names that have nothing to do with the numbers. */
export function filesOf({ names, uses }: RandomTree): Files {
  const path = (index: number): string => `${index % 2 === 0 ? '' : 'sub folder/'}file ${index}.stp`;
  const locator = (from: number, to: number): string =>
    from % 2 === to % 2
      ? `file ${to}.stp`
      : from % 2 === 0
        ? `sub folder/file ${to}.stp`
        : `../file ${to}.stp`;
  return new Map(
    names.map((id, index) => {
      const below = uses.filter(([parent]) => parent === index);
      const bytes =
        below.length === 0
          ? annotateStepPart(CUBE, {
              id,
              name: id,
              description: '',
              version: '',
              source: 'unknown',
              properties: [],
              fileName: path(index),
              time: '',
            })
          : writeStepAssembly({
              id,
              name: id,
              fileName: path(index),
              time: '',
              children: below.map(([, child]) => ({
                id: names[child] ?? '',
                name: names[child] ?? '',
                locator: locator(index, child),
              })),
              uses: below.flatMap(([, , many], child) =>
                Array.from({ length: many }, (_, copy) => ({
                  child,
                  name: `use ${copy}`,
                  placement: [1, 0, 0, copy, 0, 1, 0, 0, 0, 0, 1, 0],
                })),
              ),
            });
      return [path(index), bytes];
    }),
  );
}
