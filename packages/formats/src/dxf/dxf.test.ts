import { applyTitleBlock, DEFAULT_TITLE_BLOCK } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FormatError } from '../errors.js';
import { dxf, dxfText, type DrawingText } from '../testing/dxf.js';
import { plainText, readDxf } from './read.js';
import { rewriteDxf } from './rewrite.js';

const DRAWING: DrawingText = {
  fields: { DRAWING_NUMBER: 'D-1', TITLE: 'Arm tube', PART_NUMBER: 'P-1', SURFACE_FINISH: 'Ra 3.2' },
  attached: { frame: 'frames\\A3.dxf' },
  notes: ['Deburr all edges', '%%c12 %%p0.1'],
};

const fieldsOf = (bytes: Uint8Array): Record<string, string> =>
  Object.fromEntries(readDxf(bytes).titleBlock?.map(({ tag, text }) => [tag, text]) ?? []);
const locatorsOf = (bytes: Uint8Array): (string | undefined)[] =>
  readDxf(bytes)
    .products.slice(1)
    .map(({ locator }) => locator);

describe('reading a drawing', () => {
  it('finds the title block, the files that it draws on, and its text', () => {
    const reading = readDxf(dxf(DRAWING));
    expect(reading).toMatchObject({
      format: 'dxf',
      root: 0,
      products: [{ kind: 'drawing' }, { name: 'frame' }],
    });
    expect(locatorsOf(dxf(DRAWING))).toEqual(['frames\\A3.dxf']);
    expect(reading.uses).toEqual([expect.objectContaining({ parent: 0, child: 1, relation: 'draws on' })]);
    expect(reading.titleBlock?.map(({ tag, text }) => `${tag}=${text}`)).toEqual([
      'DRAWING_NUMBER=D-1',
      'TITLE=Arm tube',
      'PART_NUMBER=P-1',
      'SURFACE_FINISH=Ra 3.2',
    ]);
    expect(reading.text).toContain('Deburr all edges\n⌀12 ±0.1');
  });

  it('takes its number, its name and what it shows from the title block, by the store’s rules', () => {
    const { products, uses } = applyTitleBlock(readDxf(dxf(DRAWING)), DEFAULT_TITLE_BLOCK);
    expect(products[0]).toMatchObject({
      id: 'D-1',
      name: 'Arm tube',
      properties: [{ name: 'layers' }, { name: 'surface finish', text: 'Ra 3.2' }],
    });
    expect(products[2]).toMatchObject({ id: 'P-1', byNumber: true });
    expect(uses[1]).toMatchObject({ child: 2, relation: 'depicts' });
    const other = applyTitleBlock(readDxf(dxf(DRAWING)), [{ tag: 'surface_finish', means: 'number' }]);
    expect(other.products[0]?.id).toBe('Ra 3.2');
  });

  it('reads older code pages and escaped characters', () => {
    const latin = Uint8Array.from(dxfText({ fields: { TITLE: 'B\u00fcgel' } }), (character) =>
      character.charCodeAt(0),
    );
    expect(fieldsOf(latin)).toEqual({ TITLE: 'Bügel' });
    expect(fieldsOf(dxf({ fields: { TITLE: 'B\\U+00FCgel' } }))).toEqual({ TITLE: 'Bügel' });
  });

  it.each([
    ['{\\fArial|b0;Steel}\\Pgalvanised', 'Steel\ngalvanised'],
    ['\\A1;20 \\S+0.1^-0.2;', '20 +0.1/-0.2'],
    ['\\LUnderlined\\l', 'Underlined'],
  ])('tells the text %s without its formatting', (text, plain) => {
    expect(plainText(text)).toBe(plain);
  });

  it.each([
    ['0\nSECTION\n2\nENTITIES\nx\nLINE\n', 5, /'x' stands where a group code should/],
    ['0\nSECTION\n2', 3, /ends after group code 2/],
    ['0\nEOF\n', 1, /no SECTION/],
    ['', 1, /no SECTION/],
  ])('refuses %j', (text, line, reason) => {
    const read = (): unknown => readDxf(new TextEncoder().encode(text));
    expect(read).toThrow(FormatError);
    expect(read).toThrow(reason);
    try {
      read();
    } catch (error) {
      expect(error).toMatchObject({ line });
    }
  });
});

describe('rewriting a drawing', () => {
  const was = { id: 'P-1', name: '' };

  it('changes names and paths, and not one other byte', () => {
    const bytes = dxf(DRAWING);
    const ref = readDxf(bytes).products[1]?.ref ?? 0;
    const renamed = rewriteDxf(bytes, {
      products: [
        { was, id: 'V-P-1' },
        { was: { id: 'D-1', name: 'Arm tube' }, id: 'V-D-1', name: 'Longer arm tube' },
      ],
      locators: [{ ref, to: '../A3.dxf' }],
    });
    expect(renamed.changed).toBe(4);
    expect(new TextDecoder().decode(renamed.bytes)).toBe(
      dxfText({
        ...DRAWING,
        fields: {
          DRAWING_NUMBER: 'V-D-1',
          TITLE: 'Longer arm tube',
          PART_NUMBER: 'V-P-1',
          SURFACE_FINISH: 'Ra 3.2',
        },
        attached: { frame: '../A3.dxf' },
      }),
    );
  });

  it('gives the same array back where there is nothing to change', () => {
    const bytes = dxf(DRAWING);
    expect(rewriteDxf(bytes, { products: [{ was, id: 'P-1' }], locators: [] }).bytes).toBe(bytes);
  });

  // eslint-disable-next-line no-control-regex -- a field holds no control characters
  const unwritable = /[\\%{}\u0000-\u001f\u007f-\u009f\u2028\u2029]/;
  const name = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 12 })
    .filter((text) => plainText(text) === text && text.trim() === text && !unwritable.test(text));

  it('writes what is then read, whatever the names are, and back to the very same bytes', () => {
    fc.assert(
      fc.property(name, name, fc.constantFrom('\n', '\r\n'), (before, after, lineEnd) => {
        const ascii = encodeURIComponent(before).replaceAll('%', '_');
        const bytes = dxf({
          fields: { A: ascii, B: `${ascii} and more` },
          attached: { x: `${ascii}.dxf` },
          lineEnd,
        });
        const ref = readDxf(bytes).products[1]?.ref ?? 0;
        const there = rewriteDxf(bytes, {
          products: [{ was: { id: ascii, name: '' }, id: after }],
          locators: [{ ref, to: `${after}.dxf` }],
        });
        expect(fieldsOf(there.bytes)).toEqual({ A: after, B: `${ascii} and more` });
        expect(locatorsOf(there.bytes)).toEqual([`${after}.dxf`]);
        const back = rewriteDxf(there.bytes, {
          products: [{ was: { id: after, name: '' }, id: ascii }],
          locators: [{ ref, to: `${ascii}.dxf` }],
        });
        expect(back.bytes).toEqual(bytes);
      }),
    );
  });
});

describe('broken drawings', () => {
  it('are read or refused, never anything else', () => {
    const whole = dxf(DRAWING);
    const change = fc.record({ at: fc.nat(whole.length - 1), byte: fc.nat(255) });
    fc.assert(
      fc.property(fc.array(change, { maxLength: 10 }), fc.nat(whole.length), (changes, length) => {
        const bytes = Uint8Array.from(whole);
        for (const { at, byte } of changes) bytes[at] = byte;
        try {
          readDxf(bytes.subarray(0, length));
        } catch (error) {
          expect(error).toBeInstanceOf(FormatError);
        }
      }),
      { numRuns: 500 },
    );
  });
});
