import type { FileReading } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXTERNAL_SETS, readExchangeFile, readExchangeSet, WHOLE_FILES } from '../testing/exchange-files.js';
import { StepError } from './errors.js';
import { readStep } from './read.js';

/** `parent>child×n` for every link, sorted. */
function linksOf(reading: FileReading): string[] {
  const counts = new Map<string, number>();
  for (const use of reading.uses) {
    const key = `${reading.products[use.parent]?.id}>${reading.products[use.child]?.id}`;
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  return [...counts].map(([key, count]) => `${key}×${count}`).sort();
}

/** A file with the given data section. */
function stepFile(data: string): Uint8Array {
  return new TextEncoder().encode(
    `ISO-10303-21;\nHEADER;\nFILE_NAME('x','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n${data}\nENDSEC;\nEND-ISO-10303-21;\n`,
  );
}

const product = (first: number, id: string): string =>
  `#${first}=PRODUCT('${id}','${id}','',());\n#${first + 1}=PRODUCT_DEFINITION_FORMATION('','',#${first});\n#${first + 2}=PRODUCT_DEFINITION('','',#${first + 1},$);\n`;

describe('a whole assembly in one file', () => {
  it('has products, uses and quantities', () => {
    const reading = readStep(readExchangeFile('as1-oc-214.stp'), 'as1-oc-214');
    expect(reading.products[reading.root]?.id).toBe('as1');
    expect(linksOf(reading)).toEqual([
      'as1>l-bracket-assembly×2',
      'as1>plate×1',
      'as1>rod-assembly×1',
      'l-bracket-assembly>l-bracket×1',
      'l-bracket-assembly>nut-bolt-assembly×3',
      'nut-bolt-assembly>bolt×1',
      'nut-bolt-assembly>nut×1',
      'rod-assembly>nut×2',
      'rod-assembly>rod×1',
    ]);
    expect(
      reading.products
        .filter((part) => part.kind === 'part')
        .map((part) => part.id)
        .sort(),
    ).toEqual(['bolt', 'l-bracket', 'nut', 'plate', 'rod']);
  });

  it.each(['as1-oc-214.stp', 'as1-tu-203.stp', 'as1_pe_203.stp'])('%s has 18 solids from 5 parts', (file) => {
    const reading = readStep(readExchangeFile(file));
    const count = (index: number): number =>
      reading.products[index]?.kind === 'part'
        ? 1
        : reading.uses.filter((use) => use.parent === index).reduce((sum, use) => sum + count(use.child), 0);
    expect(count(reading.root)).toBe(18);
    expect(reading.products.filter(({ kind }) => kind === 'part')).toHaveLength(5);
  });

  it('states volume, surface and centroid in millimetres, whatever the unit of the file', () => {
    const volumeOf = (file: string, id: string): number => {
      const part = readStep(readExchangeFile(file)).products.find(
        (candidate) => candidate.id.toLowerCase() === id,
      );
      const property = part?.properties.find(({ name }) => name === 'volume');
      return property?.kind === 'number' ? property.value : NaN;
    };
    expect(volumeOf('as1-oc-214.stp', 'nut')).toBeCloseTo(664.374, 2);
    expect(volumeOf('as1-tu-203.stp', 'nut')).toBeCloseTo(664.476, 2);
  });

  it('takes materials as a property, not as parts', () => {
    const reading = readStep(readExchangeFile('dm1-pe-214.stp'));
    expect(reading.products.map(({ id }) => id).sort()).toEqual([
      'BOLT',
      'DM1_PE_ASM',
      'L-BRACKET',
      'NBA_ASM',
      'NUT',
    ]);
    expect(reading.products.find(({ id }) => id === 'NUT')?.properties).toContainEqual({
      name: 'material',
      kind: 'text',
      text: 'Inconel 718, AMS_5662',
    });
  });
});

describe('placements', () => {
  it('come in millimetres from files in inches, with the turn', () => {
    const reading = readStep(readExchangeSet('s1-c5-214').get('TAIL.stp') ?? new Uint8Array());
    const turbines = reading.uses
      .filter((use) => reading.products[use.child]?.id === 'TAIL_TURBINE')
      .map((use) => use.placement);
    expect(turbines).toHaveLength(2);
    expect(turbines[0]?.map((value) => Math.round(value * 1000) / 1000)).toEqual([
      1, 0, 0, 41, 0, 1, 0, -24, 0, 0, 1, 0,
    ]);
    expect(turbines[1]?.map((value) => Math.round(value * 1000) / 1000)).toEqual([
      1, 0, 0, 41, 0, -1, 0, 24, 0, 0, -1, 0,
    ]);
  });

  it('come from mapped items where uses have no representation of their own', () => {
    const axis = (id: number, x: number): string =>
      `#${id}=CARTESIAN_POINT('',(${x}.,0.,0.));\n#${id + 1}=AXIS2_PLACEMENT_3D('',#${id},$,$);\n`;
    const shape = (id: number, definition: number, items: string): string =>
      `#${id}=PRODUCT_DEFINITION_SHAPE('','',#${definition});\n#${id + 1}=SHAPE_REPRESENTATION('',(${items}),#99);\n#${id + 2}=SHAPE_DEFINITION_REPRESENTATION(#${id},#${id + 1});\n`;
    const reading = readStep(
      stepFile(
        product(1, 'TOP') +
          product(11, 'PART') +
          axis(20, 0) +
          axis(30, 7) +
          axis(32, 9) +
          `#40=REPRESENTATION_MAP(#21,#61);\n#41=MAPPED_ITEM('',#40,#31);\n#42=MAPPED_ITEM('',#40,#33);\n` +
          shape(50, 3, '#41,#42') +
          shape(60, 13, '#21') +
          `#70=NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','a','',#3,#13,$);\n#71=NEXT_ASSEMBLY_USAGE_OCCURRENCE('2','b','',#3,#13,$);\n` +
          `#98=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.CENTI.,.METRE.));\n#99=(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNIT_ASSIGNED_CONTEXT((#98))REPRESENTATION_CONTEXT('',''));`,
      ),
    );
    expect(reading.uses.map((use) => use.placement[3])).toEqual([70, 90]);
  });
});

describe('configurations', () => {
  const used = `${product(1, 'TOP')}${product(11, 'PART')}#20=NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','a','',#3,#13,$);\n#21=NEXT_ASSEMBLY_USAGE_OCCURRENCE('2','b','',#3,#13,$);\n`;
  const item = (first: number, id: string, name: string): string =>
    `#${first}=CONFIGURATION_ITEM('${id}','${name}',$,#90,$);\n#${first + 1}=CONFIGURATION_DESIGN(#${first},#2);\n`;
  const configurationsOf = (data: string): (readonly string[] | undefined)[] =>
    readStep(stepFile(used + data)).uses.map(({ configurations }) => configurations);

  it('of a use are those that an effectivity ties it to; else it is in all', () => {
    expect(
      configurationsOf(
        `${item(30, 'H', 'heated')}${item(40, 'C', '')}#50=CONFIGURATION_EFFECTIVITY('',#20,#41);\n#51=CONFIGURATION_EFFECTIVITY('',#20,#31);`,
      ),
    ).toEqual([['C', 'heated'], undefined]);
  });

  it('are found where the effectivity is written together with serial numbers', () => {
    expect(
      configurationsOf(
        `${item(30, 'H', 'heated')}#50=(CONFIGURATION_EFFECTIVITY(#31)EFFECTIVITY('')PRODUCT_DEFINITION_EFFECTIVITY(#21)SERIAL_NUMBERED_EFFECTIVITY('1','9'));`,
      ),
    ).toEqual([undefined, ['heated']]);
  });

  it.each([
    ['nothing', `#50=CONFIGURATION_EFFECTIVITY('',#20,$);`],
    ['something else', `#50=CONFIGURATION_EFFECTIVITY('',#20,#3);`],
    ['no name', `${item(30, ' ', '')}#50=CONFIGURATION_EFFECTIVITY('',#20,#31);`],
    ['no use', `${item(30, 'H', '')}#50=CONFIGURATION_EFFECTIVITY('',$,#31);`],
  ])('limit nothing where the effectivity leads to %s', (_, data) => {
    expect(configurationsOf(data)).toEqual([undefined, undefined]);
  });
});

describe('external references', () => {
  it.each([
    [
      's1_pe_214',
      's1_pe_214.stp',
      'S1_PE_TOP',
      ['foot_asm.stp', 'head_asm.stp', 'mainbody_asm.stp', 'tail_asm.stp'],
    ],
    ['s1-c5-214', 'HEAD.stp', 'HEAD', ['HEAD_BACK.stp', 'HEAD_FRONT.stp']],
    [
      's1-tu-203',
      's1-tu-203.stp',
      's1',
      [
        'footback.stp',
        'footfront.stp',
        'headback.stp',
        'headfront.stp',
        'mainbodyback.stp',
        'mainbodyfront.stp',
        'tailmiddlepart.stp',
        'tailturbine.stp',
      ],
    ],
  ])('of %s: %s', (set, file, root, locators) => {
    const reading = readStep(readExchangeSet(set).get(file) ?? new Uint8Array(), file.replace('.stp', ''));
    expect(reading.products[reading.root]?.id).toBe(root);
    expect(reading.products.flatMap(({ locator }) => locator ?? []).sort()).toEqual(locators);
  });

  it.each([
    ['in the document id', `DOCUMENT_FILE('p.stp','','',$,'',$)`, '', 'p.stp'],
    ['in the document name', `DOCUMENT_FILE('17','p.stp','',$,'',$)`, '', 'p.stp'],
    [
      'in the assigned identification',
      `DOCUMENT_FILE('','','',$,'',$)`,
      `#8=EXTERNAL_SOURCE(IDENTIFIER(' '));#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('p.stp',$,#8,(#7));`,
      'p.stp',
    ],
    [
      'in the source',
      `DOCUMENT_FILE('','','',$,'',$)`,
      `#8=EXTERNAL_SOURCE(IDENTIFIER('p.stp'));#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('',$,#8,(#7));`,
      'p.stp',
    ],
    [
      'with its folder in the source',
      `DOCUMENT_FILE('p.stp',$,$,$,'',$)`,
      `#8=EXTERNAL_SOURCE('sub\\\\dir\\\\');#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('p.stp',$,#8,(#7));`,
      'sub\\dir/p.stp',
    ],
    ['in encoded letters', `DOCUMENT_FILE('\\X2\\04340435\\X0\\.stp','','',$,'',$)`, '', 'де.stp'],
  ])('are found %s', (_, document, further, locator) => {
    const data = `${product(1, 'TOP')}${product(11, 'P')}#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);#7=${document};${further}#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#13));`;
    const reading = readStep(stepFile(data));
    expect(reading.products[1]?.locator).toBe(locator);
  });

  it('are not mistaken for documents about a product', () => {
    const data = `${product(1, 'P')}#7=DOCUMENT_FILE('specification.pdf','','',$,'',$);#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#3));`;
    expect(readStep(stepFile(data)).products[0]?.locator).toBeUndefined();
  });
});

describe('broken files', () => {
  it.each([
    ['something else', new TextEncoder().encode('%PDF-1.7'), /not a STEP file/],
    ['nothing', new Uint8Array(), /not a STEP file/],
    ['no product', stepFile(''), /no product/],
    [
      'a reference to nothing',
      stepFile(`${product(1, 'A')}#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#77,$);`),
      /line 10: #5 refers to #77, which does not exist/,
    ],
    [
      'a product inside itself',
      stepFile(
        `${product(1, 'A')}${product(11, 'B')}#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);#6=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#13,#3,$);`,
      ),
      /'A' is used inside itself/,
    ],
    ['an instance twice', stepFile(`${product(1, 'A')}${product(1, 'A')}`), /#1 is defined twice/],
    ['brackets without end', stepFile(`#1=PRODUCT(${'('.repeat(5000)}`), /cut|deeper|expected/],
    ['an open string', stepFile(`#1=PRODUCT('A`), /not closed|cut/],
    ['an open comment', stepFile(`/* #1=PRODUCT('A');`), /not closed/],
  ])('%s: says what and where', (_, bytes, message) => {
    expect(() => readStep(bytes)).toThrow(StepError);
    expect(() => readStep(bytes)).toThrow(message);
  });

  it('cut anywhere are refused with the line', () => {
    const whole = readExchangeSet('s1-c5-214').get('HEAD.stp') ?? new Uint8Array();
    const end = new TextDecoder('latin1').decode(whole).lastIndexOf('END-ISO-10303-21');
    fc.assert(
      fc.property(fc.nat(end), (length) => {
        expect(() => readStep(whole.subarray(0, length))).toThrow(StepError);
      }),
      { numRuns: 300 },
    );
  });

  it('with bytes changed at random are read or refused, never anything else', () => {
    const files = [
      readExchangeSet('s1_pe_214').get('head_asm.stp'),
      readExchangeSet('s1-tu-203').get('s1-tu-203.stp'),
    ].map((file) => file ?? new Uint8Array());
    const change = fc.record({
      at: fc.nat(),
      byte: fc.oneof(fc.integer({ min: 32, max: 126 }), fc.nat(255)),
    });
    fc.assert(
      fc.property(fc.nat(1), fc.array(change, { minLength: 1, maxLength: 12 }), (which, changes) => {
        const bytes = Uint8Array.from(files[which] ?? []);
        for (const { at, byte } of changes) bytes[at % bytes.length] = byte;
        try {
          readStep(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(StepError);
        }
      }),
      { numRuns: 400 },
    );
  });

  it('with an absurd instance number take no memory for it', () => {
    expect(
      readStep(stepFile(`${product(1, 'A')}#999999999999=CARTESIAN_POINT('',(0.,0.,0.));`)).products,
    ).toHaveLength(1);
  });
});

it('reads every exchange file', () => {
  for (const file of WHOLE_FILES) expect(readStep(readExchangeFile(file)).products.length).toBeGreaterThan(0);
  for (const set of EXTERNAL_SETS)
    for (const bytes of readExchangeSet(set).values())
      expect(readStep(bytes).products.length).toBeGreaterThan(0);
});
