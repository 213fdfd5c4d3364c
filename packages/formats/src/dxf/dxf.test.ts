import { applyTitleBlock, DEFAULT_TITLE_BLOCK } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FormatError } from '../errors.js';
import { dxf, dxfText, type DrawingText } from '../testing/dxf.js';
import { dxfContents, plainText, readDxf } from './read.js';
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
        { ref: 0, was, id: 'V-P-1' },
        { ref: 0, was: { id: 'D-1', name: 'Arm tube' }, id: 'V-D-1', name: 'Longer arm tube' },
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
    expect(rewriteDxf(bytes, { products: [{ ref: 0, was, id: 'P-1' }], locators: [] }).bytes).toBe(bytes);
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
          products: [{ ref: 0, was: { id: ascii, name: '' }, id: after }],
          locators: [{ ref, to: `${after}.dxf` }],
        });
        expect(fieldsOf(there.bytes)).toEqual({ A: after, B: `${ascii} and more` });
        expect(locatorsOf(there.bytes)).toEqual([`${after}.dxf`]);
        const back = rewriteDxf(there.bytes, {
          products: [{ ref: 0, was: { id: after, name: '' }, id: ascii }],
          locators: [{ ref, to: `${ascii}.dxf` }],
        });
        expect(back.bytes).toEqual(bytes);
      }),
    );
  });
});

describe('fields that are properties', () => {
  const rules = DEFAULT_TITLE_BLOCK;
  const property = (name: string, text: string) => ({ name, kind: 'text' as const, text });
  const readBack = (bytes: Uint8Array): Record<string, string> =>
    Object.fromEntries(
      (applyTitleBlock(readDxf(bytes), rules).products[0]?.properties ?? []).flatMap((each) =>
        each.kind === 'text' ? [[each.name, each.text]] : [],
      ),
    );

  // eslint-disable-next-line no-control-regex -- a field holds no control characters
  const unwritable = /[\\%{}\u0000-\u001f\u007f-\u009f\u2028\u2029]/;
  const said = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 12 })
    .filter((text) => plainText(text) === text && text.trim() === text && !unwritable.test(text));
  const tag = fc.constantFrom('DATE', 'DRAWN_BY', 'FINISH', 'FOR', 'CHECKED_BY', 'TITLE', 'MODEL');

  it('say what the store says, whatever it is, and every other byte stays', () => {
    fc.assert(
      fc.property(
        fc.dictionary(tag, fc.oneof(said, fc.constant(''))),
        fc.dictionary(tag, fc.oneof(said, fc.constant(''))),
        (fields, store) => {
          const before = dxf({ fields });
          const properties = Object.entries(store).map(([name, text]) =>
            property(name.replace('_', ' ').toLowerCase(), text),
          );
          const { bytes, changed } = rewriteDxf(before, {
            products: [],
            locators: [],
            titleBlock: { rules, properties },
          });
          // By hand: a title or a model is none of the properties, and a field that is not there cannot say anything.
          const wanted = Object.fromEntries(
            Object.entries(fields).map(([name, text]) => [
              name,
              name === 'TITLE' || name === 'MODEL' ? text : (store[name] ?? text),
            ]),
          );
          expect(readBack(bytes)).toEqual(readBack(dxf({ fields: wanted })));
          expect(Object.fromEntries(Object.entries(fieldsOf(bytes)))).toEqual(wanted);
          if (changed === 0) expect(bytes).toBe(before);
        },
      ),
    );
  });

  it('are said on every sheet that said the same', () => {
    const sheet = (fields: string): string => `0\nINSERT\n2\nTITLE\n66\n1\n${fields}0\nSEQEND\n`;
    const attribute = (name: string, text: string): string => `0\nATTRIB\n1\n${text}\n2\n${name}\n`;
    const file = (date: string, other: string): Uint8Array =>
      new TextEncoder().encode(
        `0\nSECTION\n2\nENTITIES\n${sheet(attribute('DATE', date) + attribute('NOTE', 'a'))}${sheet(attribute('DATE', date))}${sheet(attribute('DATE', other))}0\nENDSEC\n0\nEOF\n`,
      );
    const titleBlock = { rules, properties: [property('date', '2026-11-27')] };
    expect(
      rewriteDxf(file('2024-03-12', '2024-05-01'), { products: [], locators: [], titleBlock }).bytes,
    ).toEqual(file('2026-11-27', '2024-05-01'));
  });

  it('keep their formatting where the text stands in it as one piece', () => {
    const before = dxf({ fields: { DATE: '{\\fPlex|b1;2024-03-12}' } });
    const titleBlock = { rules, properties: [property('date', '2026-11-27')] };
    const { bytes } = rewriteDxf(before, { products: [], locators: [], titleBlock });
    expect(bytes).toEqual(dxf({ fields: { DATE: '{\\fPlex|b1;2026-11-27}' } }));
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

describe('what a drawing draws on and says elsewhere', () => {
  const groups = (...pairs: readonly (string | number)[]): Uint8Array =>
    new TextEncoder().encode(`${pairs.join('\n')}\n`);
  const sheet = groups(
    ...[0, 'SECTION', 2, 'TABLES', 0, 'LAYER', 2, 'FM-9|edges', 0, 'BLOCK_RECORD', 2, 'FM-9', 0, 'ENDSEC'],
    ...[
      0,
      'SECTION',
      2,
      'BLOCKS',
      0,
      'BLOCK',
      2,
      'FM-9',
      70,
      4,
      3,
      'FM-9',
      1,
      '..\\parts\\FM-9.dxf',
      0,
      'ENDBLK',
    ],
    // A title block whose attributes stand in a block of its own.
    ...[
      0,
      'BLOCK',
      2,
      'SHEET',
      70,
      0,
      0,
      'INSERT',
      2,
      'TITLE',
      66,
      1,
      0,
      'ATTRIB',
      1,
      '{\\fPlex|b1;FM-1-D}',
      2,
      'DRAWING_NUMBER',
    ],
    ...[
      0,
      'ATTRIB',
      1,
      '',
      2,
      'PART_NUMBER',
      101,
      'Embedded Object',
      1,
      'FM-1',
      0,
      'SEQEND',
      0,
      'ENDBLK',
      0,
      'ENDSEC',
    ],
    ...[
      0,
      'SECTION',
      2,
      'ENTITIES',
      0,
      'INSERT',
      2,
      'FM-9',
      0,
      'MTEXT',
      1,
      'Weld to FM-1, not FM-10 or FM-1.dxf\\Psee FM-1-D',
    ],
    ...[0, 'TEXT', 1, 'A', 0, 'LINE', 8, 'FM-9|edges', 1000, 'note.pdf', 0, 'ENDSEC'],
    ...[
      0,
      'SECTION',
      2,
      'OBJECTS',
      0,
      'PDFDEFINITION',
      1,
      'data.pdf',
      2,
      '1',
      0,
      'IMAGEDEF',
      1,
      'logo.png',
      0,
      'ENDSEC',
      0,
      'EOF',
    ],
  );

  it('is read, wherever it stands', () => {
    const { fields } = dxfContents(sheet);
    expect(fields.map(({ tag, text }) => [tag, text])).toEqual([
      ['DRAWING_NUMBER', 'FM-1-D'],
      ['PART_NUMBER', 'FM-1'],
    ]);
    const reading = readDxf(sheet, 'sheet.dxf');
    expect(reading.products.slice(1).map(({ locator }) => locator)).toEqual([
      '..\\parts\\FM-9.dxf',
      'data.pdf',
      'logo.png',
      'note.pdf',
    ]);
    expect(reading.unattached).toEqual([{ line: expect.any(Number) as number, text: 'note.pdf' }]);
  });

  it('follows: paths, the block that is called like its file, the title block, and notes', () => {
    const { references, fields } = dxfContents(sheet);
    const rewritten = rewriteDxf(sheet, {
      products: [
        { ref: 0, was: { id: 'FM-1-D', name: '' }, id: 'V-1-D' },
        { ref: fields[1]?.ref ?? 0, was: { id: 'FM-1', name: '' }, id: 'V-1' },
      ],
      locators: references.map(({ ref }, at) => ({
        ref,
        to: ['parts/V-9.dxf', 'd.pdf', 'logo.png', 'n.pdf'][at] ?? '',
      })),
    }).bytes;
    const text = new TextDecoder().decode(rewritten);
    expect(text).not.toMatch(/FM-9|FM-1(?!0|\.dxf)/);
    expect(text).toContain('Weld to V-1, not FM-10 or FM-1.dxf\\Psee V-1-D');
    expect(text).toContain('{\\fPlex|b1;V-1-D}');
    expect(text.match(/V-9\n/g)).toHaveLength(4);
    expect(text.match(/V-9\|edges/g)).toHaveLength(2);
    expect(
      readDxf(rewritten)
        .products.slice(1)
        .map(({ locator }) => locator),
    ).toEqual(['parts/V-9.dxf', 'd.pdf', 'logo.png', 'n.pdf']);
  });
});

it('writes letters as they are in a file that is UTF-8 by its version, and escaped in others', () => {
  const file = (version: string): Uint8Array =>
    new TextEncoder().encode(
      `0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\n${version}\n0\nENDSEC\n0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nX\n70\n4\n1\na.dxf\n0\nENDBLK\n0\nENDSEC\n0\nEOF\n`,
    );
  const rewritten = (version: string): string => {
    const bytes = file(version);
    const ref = readDxf(bytes).products[1]?.ref ?? 0;
    const { bytes: now } = rewriteDxf(bytes, { products: [], locators: [{ ref, to: 'Ü/é.dxf' }] });
    expect(readDxf(now).products[1]?.locator).toBe('Ü/é.dxf');
    return new TextDecoder().decode(now);
  };
  expect(rewritten('AC1024')).toContain('\nÜ/é.dxf\n');
  expect(rewritten('AC1015')).toContain('\n\\U+00DC/\\U+00E9.dxf\n');
});

describe('numbers in lettering', () => {
  /** The same by one expression for all numbers, which knows nothing of how they are looked up. */
  function replacedByHand(text: string, numbers: ReadonlyMap<string, string>): string {
    const whole = numbers.get(text);
    if (whole !== undefined) return whole;
    const telling = [...numbers.keys()]
      .filter((number) => number.length >= 4 && /\d/.test(number))
      .sort((a, b) => b.length - a.length);
    if (telling.length === 0) return text;
    const word = '[\\p{L}\\p{N}_\\-./]';
    const expression = new RegExp(`(?<!${word})(${telling.join('|')})(?!${word})`, 'gu');
    return text.replace(expression, (number) => numbers.get(number) ?? number);
  }

  it('are those that were given, each once, however many there are', () => {
    const number = fc.stringMatching(/^(FM|X)-?\d{1,5}$/);
    const word = fc.oneof(number, fc.constantFrom('see', 'for', '4 pcs', '(', ')', ',', '12'));
    fc.assert(
      fc.property(
        fc.uniqueArray(number, { maxLength: 30 }),
        fc.array(
          fc.array(word, { maxLength: 6 }).map((words) => words.join(' ')),
          { minLength: 1, maxLength: 5 },
        ),
        (numbers, notes) => {
          const renamed = new Map(numbers.map((was, at) => [was, `N-${at}`]));
          const products = numbers.map((was) => ({
            ref: 0,
            was: { id: was, name: '' },
            id: renamed.get(was) ?? '',
          }));
          const before = dxf({ notes });
          const after = dxfContents(rewriteDxf(before, { products, locators: [] }).bytes);
          expect(after.lettering.map(({ value }) => value)).toEqual(
            dxfContents(before).lettering.map(({ value }) => replacedByHand(value, renamed)),
          );
        },
      ),
    );
  });
});
