import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { joinPath } from '../intake/locate.js';
import { fileNameFor } from '../numbering/number.js';
import { isUntouched, planFetch, relativePath, type FetchFile } from './plan.js';

const names = (number: string, ref = 1) => ({
  ref,
  idInFile: number,
  nameInFile: number,
  number,
  name: number,
});

function stored(versionId: string, options: Partial<FetchFile> = {}): FetchFile {
  return {
    versionId,
    place: '/p',
    fileName: `${versionId}.stp`,
    storedFileName: `${versionId}.stp`,
    sha256: versionId,
    products: [names(versionId)],
    references: [],
    ...options,
  };
}

describe('planning a fetch', () => {
  it('leaves files alone that say what the store says', () => {
    const plan = planFetch([
      stored('a', { references: [{ product: names('b', 2), locator: 'b.stp', targetVersion: 'b' }] }),
      stored('b'),
    ]);
    expect(plan.files.every(({ renaming }) => isUntouched(renaming))).toBe(true);
  });

  it('makes locators match the places of the store, below what all have in common', () => {
    const plan = planFetch([
      stored('top', {
        place: '/x/station',
        references: [{ product: names('bolt', 2), locator: 'bolt.stp', targetVersion: 'bolt' }],
      }),
      stored('bolt', { place: '/x/standard' }),
    ]);
    expect(plan.files.map(({ path }) => path)).toEqual(['station/top.stp', 'standard/bolt.stp']);
    expect(plan.files[0]?.renaming.locators).toEqual([{ ref: 2, to: '../standard/bolt.stp' }]);
  });

  it('gives copies their new names, in their own file and in those that refer to them', () => {
    const copied = { ref: 7, idInFile: 'OLD', nameInFile: 'OLD', number: 'NEW', name: 'New part' };
    const plan = planFetch([
      stored('top', { references: [{ product: copied, locator: 'old.stp', targetVersion: 'copy' }] }),
      stored('copy', { fileName: 'NEW.stp', storedFileName: 'old.stp', products: [copied] }),
    ]);
    const was = { id: 'OLD', name: 'OLD' };
    const renamed = [{ ref: 7, was, id: 'NEW', name: 'New part' }];
    expect(plan.files[0]?.renaming).toEqual({ products: renamed, locators: [{ ref: 7, to: 'NEW.stp' }] });
    expect(plan.files[1]?.renaming).toEqual({ products: renamed, locators: [], fileName: 'NEW.stp' });
  });

  it('leaves gaps as they are and says so', () => {
    const plan = planFetch([
      stored('a', { references: [{ product: names('lost', 2), locator: 'lost.stp' }] }),
    ]);
    expect(plan.left).toEqual([{ file: 'a.stp', reason: "'lost.stp' is a gap: lost is not in the store" }]);
    expect(isUntouched(plan.files[0]?.renaming ?? { products: [], locators: [{ ref: 0, to: '' }] })).toBe(
      true,
    );
  });

  it('says of what is not there where it would lie, and lets no other file lie there', () => {
    const copy = { ref: 7, idInFile: 'P', nameInFile: 'P', number: 'V-P', name: 'V-P' };
    const plan = planFetch([
      stored('top', {
        references: [
          {
            product: copy,
            locator: 'p.stp',
            absent: { because: 'lens', at: { place: '/p/sub', fileName: 'V-P.stp' } },
          },
          { product: names('secret', 8), locator: 'secret.stp', absent: { because: 'access' } },
        ],
      }),
      stored('other', { place: '/p/sub', fileName: 'v-p.stp' }),
    ]);
    expect(plan.files[0]?.renaming.locators).toEqual([{ ref: 7, to: 'sub/V-P-2.stp' }]);
    expect(plan.files[0]?.renaming.products).toMatchObject([{ ref: 7, id: 'V-P' }]);
    expect(plan.left.map(({ reason }) => reason)).toEqual([
      "'p.stp' is left out: V-P has no version under this lens",
      "'secret.stp' is left out: you may not fetch it",
    ]);
  });

  it('gives no two files a path that some system takes for one, nor for a folder', () => {
    const part = fc.constantFrom('a', 'A', 'x.stp', 'é', 'e\u0301', 'CON', 'b:c', 'end.', 'stem-trace.json');
    fc.assert(
      fc.property(
        fc.array(fc.record({ folders: fc.array(part, { maxLength: 3 }), name: part }), {
          minLength: 1,
          maxLength: 12,
        }),
        (files) => {
          const { files: planned } = planFetch(
            files.map(({ folders, name }, at) =>
              stored(`v${at}`, { place: `/${folders.join('/')}`, fileName: name }),
            ),
            { reserved: ['stem-trace.json'] },
          );
          const fold = (text: string): string => text.normalize('NFC').toLowerCase();
          const paths = planned.map(({ path }) => fold(path));
          expect(new Set(paths).size).toBe(files.length);
          expect(paths).not.toContain('stem-trace.json');
          const spelled = new Map<string, string>();
          for (const { path } of planned) {
            const parts = path.split('/');
            for (let at = 1; at < parts.length; at++) {
              const folder = parts.slice(0, at).join('/');
              expect(paths).not.toContain(fold(folder));
              expect(spelled.get(fold(folder)) ?? folder).toBe(folder);
              spelled.set(fold(folder), folder);
            }
            expect(path).not.toMatch(/[:\\\t]|[. ](\/|$)|(^|\/)con(\.|\/|$)/i);
          }
        },
      ),
    );
  });

  it('keeps apart files that would meet', () => {
    const plan = planFetch([stored('a', { fileName: 'Part.stp' }), stored('b', { fileName: 'part.stp' })]);
    expect(plan.files.map(({ path }) => path)).toEqual(['Part.stp', 'part-2.stp']);
  });

  it('writes paths that lead from one file to the other', () => {
    const path = fc
      .array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 4 })
      .map((parts) => `${parts.join('/')}.stp`);
    fc.assert(
      fc.property(path, path, (from, to) => {
        const folder = from.includes('/') ? from.slice(0, from.lastIndexOf('/')) : '';
        expect(joinPath(folder, relativePath(from, to))).toBe(to);
      }),
    );
  });

  it('makes file names that every file system takes, for any number', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 40 }), (number) => {
        expect(fileNameFor(number, '.stp')).toMatch(/^[^<>:"/\\|?*%]+\.stp$/u);
        expect(fileNameFor(number, '.stp')).not.toMatch(/^\.|[. ]\.stp$/);
      }),
    );
  });
});
