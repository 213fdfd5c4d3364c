import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { StepError } from './errors.js';
import { parseRecords, skipBlanks, type StepValue } from './records.js';
import { encodeStepString } from './strings.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** A value as it is written, with what it should be read as. */
type Written = { readonly text: string; readonly value: unknown };

const leaf: fc.Arbitrary<Written> = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 12 }).map((text) => {
    const clean = text.replace(/[\r\n]/g, '');
    return { text: encodeStepString(clean), value: clean };
  }),
  fc.integer({ min: -1e6, max: 1e6 }).map((number) => ({ text: `${number}.`, value: number })),
  fc.nat(1e9).map((id) => ({ text: `#${id}`, value: { ref: id } })),
  fc.constantFrom('T', 'MILLI', 'NOT_KNOWN').map((word) => ({ text: `.${word}.`, value: { word } })),
  fc.constantFrom('$', '*').map((text) => ({ text, value: null })),
);

const blank = fc.constantFrom('', ' ', '\n', '\r\n  ', "/* ; ' ( */");

const value = fc.letrec<{ value: Written; list: Written }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 4 },
    leaf,
    tie('list'),
    tie('list').map(({ text, value: items }) => ({ text: `MEASURE${text}`, value: { typed: items } })),
  ),
  list: fc.tuple(fc.array(tie('value'), { maxLength: 4 }), blank, blank).map(([items, before, after]) => ({
    text: `(${before}${items.map(({ text }) => text).join(`${after},${before}`)}${after})`,
    value: items.map((item) => item.value),
  })),
})).list;

function plain(read: StepValue): unknown {
  switch (read.kind) {
    case 'text':
      return read.text;
    case 'number':
      return read.value;
    case 'ref':
      return { ref: read.id };
    case 'word':
      return { word: read.word };
    case 'none':
      return null;
    case 'list':
      return read.items.map(plain);
    case 'typed':
      return { typed: read.items.map(plain) };
  }
}

describe('records', () => {
  it('are read as they were written, with blanks and comments anywhere', () => {
    fc.assert(
      fc.property(value, (written) => {
        const [record] = parseRecords(bytes(`ENTITY_NAME ${written.text};`), 0);
        expect(record?.type).toBe('ENTITY_NAME');
        expect(record?.values.map(plain)).toEqual(written.value);
      }),
    );
  });

  it('of a complex instance are read one by one', () => {
    const records = parseRecords(bytes('(LENGTH_UNIT() NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));'), 0);
    expect(records.map(({ type, values }) => [type, values.length])).toEqual([
      ['LENGTH_UNIT', 0],
      ['NAMED_UNIT', 1],
      ['SI_UNIT', 2],
    ]);
  });

  it.each([
    ["A('x'", /ends inside/],
    ['A(', /ends inside/],
    ["A('x)", /not closed/],
    ['A(1 2)', /',' or '\)' expected/],
    ['A(#)', /instance number/],
    ['A(.X)', /'\.' expected/],
    ['A(?)', /unexpected character '\?'/],
    ['A(1.2.3)', /number is malformed/],
    ['A("1F)', /binary/],
    ['1(2)', /entity name/],
    ['A/* no end', /comment is not closed/],
    [`A${'('.repeat(100)}`, /nested deeper/],
  ])('%j is refused with the line', (text, message) => {
    expect(() => parseRecords(bytes(`\n\n${text}`), 2)).toThrow(StepError);
    expect(() => parseRecords(bytes(`\n\n${text}`), 2)).toThrow(message);
    expect(() => parseRecords(bytes(`\n\n${text}`), 2)).toThrow(/^line 3: /);
  });

  it('never fail otherwise, whatever the bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), fc.constantFrom('A(', '(A()', ''), (noise, start) => {
        const text = Uint8Array.from([...bytes(start), ...noise]);
        try {
          parseRecords(text, 0);
        } catch (error) {
          expect(error).toBeInstanceOf(StepError);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

it('blanks and comments are passed over', () => {
  expect(skipBlanks(bytes('  \n/* a */ /**/\tX'), 0)).toBe(16);
  expect(skipBlanks(bytes(''), 0)).toBe(0);
});
