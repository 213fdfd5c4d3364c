import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { EXTERNAL_SETS, readExchangeFile, readExchangeSet, WHOLE_FILES } from '../testing/exchange-files.js';
import { readStep } from './read.js';
import { joinStep, splitStep } from './split.js';

interface Kernel {
  ReadStepFile(
    bytes: Uint8Array,
    options: object,
  ): {
    success: boolean;
    meshes: { attributes: { position: { array: number[] } }; index: { array: number[] } }[];
  };
}

const require = createRequire(import.meta.url);
const kernel = await (require('occt-import-js') as (options: object) => Promise<Kernel>)({
  wasmBinary: readFileSync(
    join(dirname(require.resolve('occt-import-js/package.json')), 'dist/occt-import-js.wasm'),
  ),
});

/** What a kernel that others wrote makes of a file: the solids with their volume and middle, placed. */
function solidsIn(bytes: Uint8Array): string[] {
  const { success, meshes } = kernel.ReadStepFile(bytes, { linearUnit: 'millimeter' });
  expect(success).toBe(true);
  return meshes
    .map(({ attributes, index }) => {
      const p = attributes.position.array;
      const at = (corner: number): [number, number, number] => [
        p[corner * 3] ?? 0,
        p[corner * 3 + 1] ?? 0,
        p[corner * 3 + 2] ?? 0,
      ];
      let volume = 0;
      const middle = [0, 0, 0];
      for (let t = 0; t < index.array.length; t += 3) {
        const [a, b, c] = [at(index.array[t] ?? 0), at(index.array[t + 1] ?? 0), at(index.array[t + 2] ?? 0)];
        const six =
          a[0] * (b[1] * c[2] - b[2] * c[1]) +
          a[1] * (b[2] * c[0] - b[0] * c[2]) +
          a[2] * (b[0] * c[1] - b[1] * c[0]);
        volume += six / 6;
        for (const axis of [0, 1, 2])
          middle[axis] = (middle[axis] ?? 0) + ((a[axis] ?? 0) + (b[axis] ?? 0) + (c[axis] ?? 0)) / 3;
      }
      const triangles = index.array.length / 3;
      return [volume, ...middle.map((sum) => sum / triangles)]
        .map((value) => Number(value.toPrecision(4)) + 0)
        .map((value) => (Math.abs(value) < 0.01 ? 0 : value))
        .join(' ');
    })
    .sort();
}

function tree(bytes: Uint8Array, name: string): string[] {
  const { products, uses } = readStep(bytes, name);
  return uses.map(({ parent, child }) => `${products[parent]?.id} > ${products[child]?.id}`).sort();
}

describe('a file of several products', () => {
  it.each(WHOLE_FILES)('%s, taken apart and put together again, is the same to a kernel', (name) => {
    const bytes = readExchangeFile(name);
    const before = readStep(bytes, name);
    let count = 0;
    const parts = splitStep(bytes, name, () => `part ${++count}.stp`);
    if (before.products.length < 2) return expect(parts).toEqual([]);
    expect(parts.length).toBe(before.products.length);
    const files = new Map(parts.map((part) => [part.fileName, part.bytes]));
    for (const { fileName, bytes: own, ref } of parts) {
      const reading = readStep(own, fileName);
      // One product lives in it, that of its own; the others are named with their files.
      expect(
        reading.products.filter(({ locator }) => locator === undefined).map((product) => product.ref),
      ).toEqual([ref]);
      expect(reading.products[reading.root]?.ref).toBe(ref);
      for (const { locator } of reading.products)
        expect(locator === undefined || files.has(locator)).toBe(true);
    }
    const joined = joinStep(files, name);
    expect(tree(joined, name)).toEqual(tree(bytes, name));
    const was = solidsIn(bytes);
    expect(was.length).toBeGreaterThan(0);
    expect(solidsIn(joined)).toEqual(was);
    return undefined;
  });

  it('is made of a set, with every solid where it was', () => {
    for (const set of EXTERNAL_SETS) {
      const files = readExchangeSet(set);
      const joined = joinStep(files, `${set}.stp`);
      const reading = readStep(joined, `${set}.stp`);
      expect(reading.products.filter(({ locator }) => locator !== undefined)).toEqual([]);
      const alone = [...files].flatMap(([name, bytes]) => {
        const { uses } = readStep(bytes, name);
        return uses.length === 0 ? [solidsIn(bytes).length] : [];
      });
      expect(alone.length).toBeGreaterThan(3);
      expect(solidsIn(joined).length).toBeGreaterThanOrEqual(alone.length);
    }
  });
});
