import { VERSION_ENDING } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatReference, isLensText, lensParts, lensText, parseReference } from './reference.js';
import { deriveSchema, manifestSchema, placePath, uploadPath } from './schemas/index.js';

describe('references', () => {
  it.each([
    ['FM-1', { number: 'FM-1' }],
    ['FM-1@B/3', { number: 'FM-1', version: 'B/3' }],
    ['a@b@AA/12', { number: 'a@b', version: 'AA/12' }],
    ['a@b/3', { number: 'a@b/3' }],
    ['@B/3', { number: '@B/3' }],
    [' FM-1 ', { number: 'FM-1' }],
  ])('%j', (text, parsed) => {
    expect(parseReference(text)).toEqual(parsed);
  });

  it('are parsed as they were formatted', () => {
    const number = fc
      .string({ minLength: 1, maxLength: 20 })
      .filter((text) => text === text.trim() && !VERSION_ENDING.test(text));
    const version = fc
      .tuple(fc.constantFrom('A', 'B', 'AA'), fc.nat(99))
      .map(([code, seq]) => `${code}/${seq}`);
    fc.assert(
      fc.property(number, fc.option(version, { nil: undefined }), (text, label) => {
        const reference = { number: text, ...(label === undefined ? {} : { version: label }) };
        expect(parseReference(formatReference(reference))).toEqual(reference);
      }),
    );
  });

  it.each([
    ['recorded', true],
    ['2026-03-31', true],
    ['2026-13-31', false],
    ['2026-02-31', false],
    ['yesterday', false],
    ['', false],
    ['newest in With heating', true],
    ['baseline 17', true],
    ['baseline 17 in With heating', true],
    ['effective 2026-03-31', true],
    ['effective 120 of FM-1000', true],
    ['effective 120 of FM 10 of 00 in With heating', true],
    ['effective', false],
    ['effective 2026-02-31', false],
    ['effective of FM-1000', false],
    ['effective 120 of ', false],
    ['effective 1234567890 of FM-1000', false],
    ['baseline', false],
    ['baseline 0', false],
    ['baseline 1x', false],
    ['2026-03-31 in 1 in 2', true],
    ['newest in ', false],
    ['newest in  ', false],
    ['newest in a\u0007b', false],
    [`newest in ${'x'.repeat(121)}`, false],
    ['sometimes in With heating', false],
  ])('lens %j: %s', (text, valid) => {
    expect(isLensText(text)).toBe(valid);
  });
});

describe('a lens in one configuration', () => {
  it('comes back from its text, whatever the name', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('recorded', 'newest', '2026-03-31'),
        fc.string(),
        (versions, configuration) => {
          expect(lensParts(lensText({ versions, configuration }))).toEqual({ versions, configuration });
          expect(lensParts(lensText({ versions }))).toEqual({ versions });
        },
      ),
    );
  });
});

describe('what comes in at the doors', () => {
  const accepts = (
    schema: { validate(value: unknown): { error?: Error | undefined } },
    value: unknown,
  ): boolean => schema.validate(value).error === undefined;

  it.each([
    ['a.stp', true],
    ['a b/ü/c.stp', true],
    ['../a', false],
    ['a/../b', false],
    ['/a', false],
    ['C:/a', false],
    ['C:\\a', false],
    ['a\\..\\b', false],
    // Kept under another name, for no system mixes it up then.
    ['C:a', true],
    ['a\\b', true],
    ['a//b', false],
    ['a/', false],
  ])('upload path %j: %s', (path, valid) => {
    expect(accepts(uploadPath, path)).toBe(valid);
  });

  it.each([
    ['/', true],
    ['/a/b c', true],
    ['a', false],
    ['/a/', false],
    ['/a/../b', false],
    ['//', false],
  ])('place %j: %s', (path, valid) => {
    expect(accepts(placePath, path)).toBe(valid);
  });

  it('refuses members that nobody knows', () => {
    expect(accepts(deriveSchema, { item: 'A' })).toBe(true);
    expect(accepts(deriveSchema, { item: 'A', surprise: 1 })).toBe(false);
    expect(accepts(manifestSchema, { format: 'stem-trace working copy' })).toBe(false);
  });

  it('never throws, whatever comes', () => {
    fc.assert(
      fc.property(fc.anything(), (value) => {
        for (const schema of [deriveSchema, manifestSchema, uploadPath, placePath]) schema.validate(value);
      }),
    );
  });
});
