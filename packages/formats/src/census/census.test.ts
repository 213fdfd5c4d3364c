import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodeStepString } from '../step/strings.js';
import { readStep } from '../step/read.js';
import { rewriteStep } from '../step/rewrite.js';
import { LOCATOR_STYLES, stepFile, type LocatorStyle } from '../testing/step-sets.js';
import { takeCensus, type Census, type CensusInput } from './census.js';
import { textsOf } from './texts.js';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** A variant of TOP-1: top and plate are copied, the nut is shared; as it is handed out, by way of a style. */
function variant(style: LocatorStyle): Map<string, Uint8Array> {
  const top = stepFile({
    id: 'TOP-1',
    fileName: 'top-1.stp',
    style,
    uses: [
      { id: 'PLATE-1', locator: 'parts/plate-1.stp', count: 2 },
      { id: 'NUT-1', locator: 'parts/nut-1.stp' },
    ],
  });
  const reading = readStep(top, 'top-1.stp');
  const names = new Map([
    ['TOP-1', { id: 'V-TOP', name: 'V-TOP' }],
    ['PLATE-1', { id: 'V-PLATE', name: 'V-PLATE', to: 'parts/V plate.stp' }],
    ['NUT-1', { id: 'NUT-1', name: 'NUT-1', to: '../std/nut-1.stp' }],
  ]);
  const handedOut = rewriteStep(
    top,
    {
      products: reading.products.flatMap(({ ref, id }) => ({ ref, ...names.get(id) })),
      locators: reading.products.flatMap(({ ref, id }) => {
        const to = (names.get(id) as { to?: string } | undefined)?.to;
        return to === undefined ? [] : [{ ref, to }];
      }),
      fileName: 'V-TOP.stp',
    },
    'top-1.stp',
  ).bytes;
  return new Map([
    ['work/V-TOP.stp', handedOut],
    ['work/parts/V plate.stp', stepFile({ id: 'V-PLATE', fileName: 'V plate.stp' })],
    ['std/nut-1.stp', stepFile({ id: 'NUT-1', fileName: 'C:\\made\\elsewhere.stp' })],
  ]);
}

function census(files: ReadonlyMap<string, Uint8Array>, more: Partial<CensusInput> = {}): Census {
  return takeCensus({
    texts: new Map([...files].map(([path, bytes]) => [path, textsOf(bytes) ?? []])),
    paths: new Set(files.keys()),
    copied: new Set(['work/V-TOP.stp', 'work/parts/V plate.stp']),
    names: new Set(['V-TOP', 'V-PLATE', 'NUT-1']),
    origin: new Set(['TOP-1', 'PLATE-1', 'top-1.stp', 'plate-1.stp']),
    gaps: new Map(),
    ...more,
  });
}

const faults = (files: ReadonlyMap<string, Uint8Array>): number => {
  const { dangling, leaking } = census(files);
  return dangling.length + leaking.length;
};

it.each(LOCATOR_STYLES)('accepts what is right, by way of: %s', (style) => {
  const found = census(variant(style));
  expect([...found.dangling, ...found.leaking]).toEqual([]);
  expect(found.files).toBeGreaterThan(1);
});

/** What a rewriter may get wrong: each is done to the finished text of the top. */
const BREAKAGES: readonly (readonly [what: string, style: LocatorStyle, break_: (text: string) => string])[] =
  [
    ['wrong capitals', 'document file', (text) => text.replace('parts/V plate.stp', 'parts/v plate.stp')],
    ['one of two mentions', 'assigned', (text) => text.replace('parts/V plate.stp', 'parts/plate-1.stp')],
    [
      'the other of two mentions',
      'assigned',
      (text) => replaceLast(text, 'parts/V plate.stp', 'parts/plate-1.stp'),
    ],
    [
      'one document file of several',
      'per occurrence',
      (text) => replaceLast(text, 'parts/V plate.stp', 'plate-1.stp'),
    ],
    ['the folder', 'document file', (text) => text.replace('parts/V plate.stp', 'V plate.stp')],
    [
      'a folder left beside the name',
      'folder in the source',
      (text) => text.replaceAll('../std/nut-1.stp', 'nut-1.stp'),
    ],
    ['a backslash', 'document file', (text) => text.replace('parts/V plate', 'parts\\\\V plate')],
    ['an encoding', 'document file', (text) => text.replace('V plate.stp', 'V%20plate.stp')],
    [
      'an encoded name of the origin',
      'document file',
      (text) => text.replace('V-PLATE', '\\X2\\0050004C004100540045002D0031\\X0\\'),
    ],
    [
      'a kind of reference nobody knows',
      'document file',
      (text) =>
        text.replace('ENDSEC;\nEND-', "#9001=NOBODY_KNOWS((1.,$),('sub','plate-1.stp'));\nENDSEC;\nEND-"),
    ],
    [
      'a reference of edition 3',
      'document file',
      (text) => text.replace('DATA;', 'REFERENCE;\n#9001=<parts/plate%2D1.stp#a>;\nENDSEC;\nDATA;'),
    ],
    [
      'the id of the origin',
      'document file',
      (text) => text.replace("PRODUCT('V-PLATE'", "PRODUCT('PLATE-1'"),
    ],
    ['the name of an occurrence', 'document file', (text) => text.replace('V-PLATE_1', 'PLATE-1_1')],
    [
      'a name in running text',
      'document file',
      (text) => text.replace('Placement of V-PLATE', 'Placement of PLATE-1'),
    ],
    ['the header', 'document file', (text) => text.replace("FILE_NAME('V-TOP.stp'", "FILE_NAME('top-1.stp'")],
    [
      'the document’s own product',
      'document product',
      (text) => text.replace('parts/V plate.stp-Doc', 'parts/plate-1.stp-Doc'),
    ],
    ['a space behind', 'document file', (text) => text.replace('V plate.stp', 'V plate.stp ')],
    [
      'another form of the same letters',
      'document file',
      (text) => text.replaceAll('nut-1.stp', 'nu\\X2\\00740308\\X0\\-1.stp'),
    ],
  ];

function replaceLast(text: string, was: string, becomes: string): string {
  const at = text.lastIndexOf(was);
  return text.slice(0, at) + becomes + text.slice(at + was.length);
}

describe('a rewriter that gets something wrong is noticed', () => {
  it.each(BREAKAGES)('%s', (_, style, break_) => {
    const files = variant(style);
    const right = textOf(files.get('work/V-TOP.stp') ?? new Uint8Array());
    const wrong = break_(right);
    expect(wrong).not.toBe(right);
    expect(faults(files.set('work/V-TOP.stp', bytesOf(wrong)))).toBeGreaterThan(0);
  });

  it('a dropped file', () => {
    const files = variant('assigned');
    files.delete('work/parts/V plate.stp');
    expect(faults(files)).toBeGreaterThan(0);
  });

  it('a part of the origin instead of the copy', () => {
    const files = variant('assigned');
    expect(faults(files.set('work/parts/V plate.stp', stepFile({ id: 'PLATE-1' })))).toBe(1);
  });
});

describe('what is no fault', () => {
  it('is a gap that was one before, a shared file’s own words, a name that looks like a file', () => {
    const files = variant('document file');
    const more =
      "#9001=DESCRIPTIVE_REPRESENTATION_ITEM('a','lost.stp');\n#9002=FOO('odd.stp');\nENDSEC;\nEND-";
    const top = textOf(files.get('work/V-TOP.stp') ?? new Uint8Array()).replace('ENDSEC;\nEND-', more);
    files.set('work/V-TOP.stp', bytesOf(top));
    const nut = textOf(files.get('std/nut-1.stp') ?? new Uint8Array()).replace(
      'Placement',
      'made for PLATE-1',
    );
    files.set('std/nut-1.stp', bytesOf(nut));
    expect(census(files).dangling).toHaveLength(2);
    const found = census(files, {
      gaps: new Map([['work/V-TOP.stp', new Set(['lost.stp'])]]),
      names: new Set(['V-TOP', 'V-PLATE', 'NUT-1', 'odd.stp']),
    });
    expect([...found.dangling, ...found.leaking]).toEqual([]);
  });

  it('is a number of the origin within the copy’s', () => {
    const files = variant('document file');
    const top = textOf(files.get('work/V-TOP.stp') ?? new Uint8Array()).replaceAll('V-PLATE', 'NEW-PLATE-1');
    files.set('work/V-TOP.stp', bytesOf(top));
    expect(census(files, { names: new Set(['V-TOP', 'NEW-PLATE-1', 'NUT-1']) }).leaking).toEqual([]);
  });

  it('is a mark on a drawing that is called like a short number', () => {
    const drawing = bytesOf(
      '0\nSECTION\n2\nENTITIES\n0\nTEXT\n1\nA\n0\nTEXT\n1\nsee PLATE-1\n0\nENDSEC\n0\nEOF\n',
    );
    const files = new Map([['work/V-TOP.stp', drawing]]);
    expect(census(files, { origin: new Set(['A']) }).leaking).toEqual([]);
    expect(census(files).leaking).toHaveLength(1);
  });
});

describe('the texts of a file', () => {
  it('are those that were written, whatever they are', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 20 }), { maxLength: 8 }),
        (said) => {
          const data = said
            .map((text, at) => `#${at + 1}=/* it's */X(${encodeStepString(text)});`)
            .join('\n');
          const file = bytesOf(
            `ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n${data}\nENDSEC;\nEND-ISO-10303-21;\n`,
          );
          expect(textsOf(file)?.map(({ text }) => text)).toEqual([...new Set(said)]);
        },
      ),
    );
  });

  it('of anything else are not looked for', () => {
    expect(textsOf(bytesOf('%PDF-1.7 top-1.stp'))).toBeUndefined();
  });

  it('never make it fail', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (noise) => {
        for (const start of ['ISO-10303-21;', '0\nSECTION\n'])
          textsOf(new Uint8Array([...bytesOf(start), ...noise]));
      }),
    );
  });
});
