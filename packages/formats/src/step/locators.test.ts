import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LOCATOR_STYLES, stepFile } from '../testing/step-sets.js';
import { pathKey } from './file-names.js';
import { readStep } from './read.js';
import { rewriteStep } from './rewrite.js';

const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
const raw = (data: string): Uint8Array =>
  new TextEncoder().encode(
    `ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\n${data}\nEND-ISO-10303-21;\n`,
  );
const top =
  "#1=PRODUCT('T','T','',());\n#2=PRODUCT_DEFINITION_FORMATION('','',#1);\n#3=PRODUCT_DEFINITION('','',#2,$);\n";

/** Strings that a plain search finds, without the help of any reader. */
function stringsWith(bytes: Uint8Array, ending: RegExp): string[] {
  return [
    ...textOf(bytes)
      .replace(/\/\*.*?\*\//g, '')
      .matchAll(/'((?:[^']|'')*)'/g),
  ]
    .map(([, text = '']) => text.replaceAll("''", "'"))
    .filter((text) => ending.test(text));
}

describe.each(LOCATOR_STYLES)('a file named by way of: %s', (style) => {
  const uses = [
    { id: 'PLATE', locator: 'parts/plate.stp', count: 2 },
    { id: 'NUT', locator: 'nut.stp' },
    { id: 'SUB', uses: [{ id: 'BOLT', locator: 'parts/bolt.stp', count: 3 }] },
  ];
  const bytes = stepFile({ id: 'TOP', style, uses });

  it('is the product’s locator, and the document no part', () => {
    const reading = readStep(bytes, 'top.stp');
    expect(reading.products.map(({ id, locator }) => [id, locator?.replace('./', '')])).toEqual([
      ['TOP', undefined],
      ['PLATE', 'parts/plate.stp'],
      ['NUT', 'nut.stp'],
      ['SUB', undefined],
      ['BOLT', 'parts/bolt.stp'],
    ]);
    expect(reading.uses.filter(({ relation }) => relation === 'draws on')).toEqual([]);
    expect(reading.unattached).toBeUndefined();
  });

  it('is renamed wherever it is said, byte for byte the same', () => {
    const reading = readStep(bytes, 'top.stp');
    const to = new Map([
      ['PLATE', 'elsewhere/board.stp'],
      ['NUT', 'nut.stp'],
      ['BOLT', "it's 5 %.stp"],
    ]);
    const rewritten = rewriteStep(
      bytes,
      {
        products: [],
        locators: reading.products
          .flatMap(({ ref, id }) => ({ ref, to: to.get(id) ?? [] }))
          .flatMap(({ ref, to: path }) => (typeof path === 'string' ? [{ ref, to: path }] : [])),
      },
      'top.stp',
    ).bytes;
    const said = new Set(stringsWith(rewritten, /\.stp/).map((text) => text.replace(/-Doc$/, '')));
    expect(said).toEqual(new Set(to.values()));
    const after = readStep(rewritten, 'top.stp');
    expect(
      after.products.flatMap(({ locator, alsoSaid }) =>
        locator ? [[locator, alsoSaid?.filter((text) => !text.includes('-Doc'))]] : [],
      ),
    ).toEqual([...to.values()].map((path) => [path, undefined]));
  });
});

describe('mentions of one file', () => {
  it('are one, though they differ in capitals and folders', () => {
    const bytes = raw(
      `DATA;\n${top}#11=PRODUCT('P','P','',());#12=PRODUCT_DEFINITION_FORMATION('','',#11);#13=PRODUCT_DEFINITION('','',#12,$);
#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);#7=DOCUMENT_FILE('Rod 1 m.stp','','',$,'',$);#8=EXTERNAL_SOURCE(IDENTIFIER('sub/rod 1 m.STP'));
#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('rod 1 m.stp',$,#8,(#7));#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#13));
#30=DESCRIPTIVE_REPRESENTATION_ITEM('file','ROD 1 M.STP');\nENDSEC;`,
    );
    const [, part] = readStep(bytes, 't.stp').products;
    expect(part?.locator).toBe('sub/rod 1 m.STP');
    expect(part?.alsoSaid?.toSorted()).toEqual(['ROD 1 M.STP', 'Rod 1 m.stp', 'rod 1 m.stp']);
    const rewritten = rewriteStep(bytes, {
      products: [],
      locators: [{ ref: 11, to: 'sub/rod 1 m.stp' }],
    }).bytes;
    expect(stringsWith(rewritten, /stp$/i)).toEqual(Array(4).fill('sub/rod 1 m.stp'));
  });

  it('share a folder that stands once, and go to different ones', () => {
    const part = (at: number, id: string): string =>
      `#${at}=PRODUCT('${id}','','',());#${at + 1}=PRODUCT_DEFINITION_FORMATION('','',#${at});#${at + 2}=PRODUCT_DEFINITION('','',#${at + 1},$);` +
      `#${at + 3}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#${at + 2},$);#${at + 4}=DOCUMENT_FILE('${id}.stp','','',$,'',$);` +
      `#${at + 5}=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('${id}.stp',$,#8,(#${at + 4}));#${at + 6}=APPLIED_DOCUMENT_REFERENCE(#${at + 4},'',(#${at + 2}));\n`;
    const bytes = raw(
      `DATA;\n${top}#8=EXTERNAL_SOURCE(IDENTIFIER('old\\\\dir\\\\'));\n${part(10, 'a')}${part(20, 'b')}${part(30, 'c')}ENDSEC;`,
    );
    const rewritten = rewriteStep(bytes, {
      products: [],
      locators: [
        { ref: 10, to: 'x/a.stp' },
        { ref: 20, to: 'y/b.stp' },
      ],
    }).bytes;
    expect(readStep(rewritten).products.map(({ locator }) => locator)).toEqual([
      undefined,
      'x/a.stp',
      'y/b.stp',
      'old\\dir/c.stp',
    ]);
  });

  it('to different files of one product are a definition and a file that is drawn on', () => {
    const bytes = raw(
      `DATA;\n${top}#11=PRODUCT('P','P','',());#12=PRODUCT_DEFINITION_FORMATION('','',#11);#13=PRODUCT_DEFINITION('','',#12,$);
#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);#7=DOCUMENT_FILE('p.stp','','',$,'',$);#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#13));
#8=DOCUMENT_FILE('p data.pdf','','',$,'',$);#21=APPLIED_DOCUMENT_REFERENCE(#8,'',(#13));\nENDSEC;`,
    );
    const reading = readStep(bytes, 't.stp');
    expect(reading.products.map(({ locator }) => locator)).toEqual([undefined, 'p.stp', 'p data.pdf']);
    expect(reading.uses.map(({ parent, child, relation }) => [parent, child, relation])).toEqual([
      [0, 1, undefined],
      [0, 2, 'draws on'],
    ]);
    expect(reading.unattached).toBeUndefined();
  });
});

describe('a name that belongs to no product', () => {
  it.each([
    ['a document file', "#7=DOCUMENT_FILE('norm','','',$,'',$);", 'norm'],
    ['a source', "#7=EXTERNAL_SOURCE(IDENTIFIER('lib/frame.dxf'));", 'lib/frame.dxf'],
    [
      'an externally defined item',
      "#7=EXTERNAL_SOURCE(IDENTIFIER(''));#8=EXTERNALLY_DEFINED_ITEM(IDENTIFIER('hook.stp'),#7);",
      'hook.stp',
    ],
    [
      'an identification of nothing',
      "#7=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('x.pdf',$,$,());",
      'x.pdf',
    ],
    ['any entity', "#7=SOMETHING_NOBODY_KNOWS(1.,('see','C:\\\\work\\\\leaf.stp'));", 'C:\\work\\leaf.stp'],
    ['a plain document', "#7=DOCUMENT('spec 4.pdf','','',$);", 'spec 4.pdf'],
  ])('in %s is said with its line and kept as drawn on', (_, data, locator) => {
    const reading = readStep(raw(`DATA;\n${top}${data}\nENDSEC;`), 't.stp');
    expect(reading.unattached).toEqual([{ line: 9, text: locator }]);
    expect(reading.products.at(-1)).toMatchObject({ id: '', locator });
    expect(reading.uses).toMatchObject([{ parent: 0, child: 1, relation: 'draws on' }]);
    const ref = reading.products.at(-1)?.ref ?? 0;
    const moved = rewriteStep(raw(`DATA;\n${top}${data}\nENDSEC;`), {
      products: [],
      locators: [{ ref, to: 'new/é.pdf' }],
    });
    expect(readStep(moved.bytes, 't.stp').products.at(-1)?.locator).toBe('new/é.pdf');
  });

  it('is no name of a file where it repeats a product', () => {
    const bytes = raw(
      `DATA;\n${top.replace("'T','T'", "'T','t part.stp'")}#7=SHAPE_REPRESENTATION('t part.stp',(),$);\nENDSEC;`,
    );
    expect(readStep(bytes, 't.stp').products).toHaveLength(1);
  });

  it('is no other file where it is the file’s own, and follows it', () => {
    const bytes = raw(
      `DATA;\n${top}#7=DOCUMENT_FILE('t.stp','','',$,'',$);#8=APPLIED_DOCUMENT_REFERENCE(#7,'',(#3));\nENDSEC;`,
    );
    const reading = readStep(bytes, 'T.stp');
    expect(reading.products.map(({ id, locator }) => [id, locator])).toEqual([['T', undefined]]);
    const rewritten = rewriteStep(bytes, { products: [], locators: [], fileName: 'n.stp' }, 't.stp').bytes;
    expect(stringsWith(rewritten, /stp$/)).toEqual(['n.stp']);
  });

  it('makes no second product of one that the file says it defines itself', () => {
    const data = `${top}#11=PRODUCT('Q','Q','',());#12=PRODUCT_DEFINITION_FORMATION('','',#11);#13=PRODUCT_DEFINITION('','',#12,$);
#21=PRODUCT('Q','Q','',());#22=PRODUCT_DEFINITION_FORMATION('','',#21);#23=PRODUCT_DEFINITION('','',#22,$);
#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);#6=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#23,$);
#7=DOCUMENT_FILE('t.stp','','',$,'',$);#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#23));`;
    const reading = readStep(raw(`DATA;\n${data}\nENDSEC;`), 't.stp');
    expect(reading.products.map(({ id }) => id)).toEqual(['T', 'Q']);
    expect(reading.uses.map(({ child }) => child)).toEqual([1, 1]);
  });
});

it('a product that another file defines and nothing uses is still needed', () => {
  const bytes = raw(
    `DATA;\n${top}#11=PRODUCT('P','P','',());#12=PRODUCT_DEFINITION_FORMATION('','',#11);#13=PRODUCT_DEFINITION('','',#12,$);
#7=DOCUMENT_FILE('p.stp','','',$,'',$);#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#13));\nENDSEC;`,
  );
  expect(readStep(bytes, 't.stp').uses).toMatchObject([{ parent: 0, child: 1, relation: 'draws on' }]);
});

describe('what is defined elsewhere after edition 3', () => {
  const bytes = raw(
    `ANCHOR;\n<top>=#3;\nENDSEC;\nREFERENCE;\n#13=<parts/plate%20left.stp#definition>;\nENDSEC;\nDATA;\n${top}#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','plate_1','',#3,#13,$);\nENDSEC;`,
  );

  it('is a product of the other file', () => {
    const reading = readStep(bytes, 't.stp');
    expect(reading.products.map(({ id, locator }) => [id, locator])).toEqual([
      ['T', undefined],
      ['plate%20left', 'parts/plate%20left.stp'],
    ]);
    expect(reading.uses).toHaveLength(1);
  });

  it('goes along with the file', () => {
    const rewritten = rewriteStep(bytes, {
      products: [],
      locators: [{ ref: 13, to: 'new/plate é.stp' }],
    }).bytes;
    expect(textOf(rewritten)).toContain('#13=<new/plate%20%C3%A9.stp#definition>;');
  });
});

describe('a string', () => {
  const set = (uses: readonly { id: string; name?: string; locator: string }[], more = ''): Uint8Array =>
    stepFile({ id: 'TOP', uses, more });
  const rename = (
    bytes: Uint8Array,
    names: Readonly<Record<string, { id?: string; name?: string; to?: string }>>,
  ): Uint8Array => {
    const { products } = readStep(bytes, 'top.stp');
    return rewriteStep(
      bytes,
      {
        products: products.flatMap(({ ref, id }) => (names[id] ? [{ ref, ...names[id] }] : [])),
        locators: products.flatMap(({ ref, id }) => (names[id]?.to ? [{ ref, to: names[id].to }] : [])),
      },
      'top.stp',
    ).bytes;
  };

  it('that is a file’s name is not changed because a product’s name stands in it', () => {
    const bytes = set(
      [
        { id: 'B1', name: 'Bracket', locator: 'b1.stp' },
        { id: 'B2', name: 'Bracket left', locator: 'bracket left.stp' },
        { id: 'B3', locator: 'sub/bracket.stp' },
      ],
      "#90001=SHAPE_REPRESENTATION('see bracket.pdf',(),$);\n#90002=FOO('bracket left.stp of Bracket');\n",
    );
    const said = stringsWith(rename(bytes, { B1: { name: 'Holder' } }), /\.(stp|pdf)/);
    expect(new Set(said)).toEqual(
      new Set([
        'b1.stp',
        'bracket left.stp',
        'sub/bracket.stp',
        'see bracket.pdf',
        'bracket left.stp of Bracket',
      ]),
    );
  });

  it('that two products share becomes that of the one it is about', () => {
    const bytes = set([
      { id: 'LEAF', locator: 'a/leaf.stp' },
      { id: 'LEAF', locator: 'b/leaf.stp' },
    ]);
    const { products } = readStep(bytes, 'top.stp');
    const rewritten = rewriteStep(bytes, {
      products: products.slice(1).map(({ ref }, at) => ({ ref, id: `L${at}`, name: `Blatt ${at}` })),
      locators: products.slice(1).map(({ ref }, at) => ({ ref, to: `l${at}.stp` })),
    }).bytes;
    expect(textOf(rewritten)).toMatch(/'L0_1','Placement of L0'/);
    expect(textOf(rewritten)).toMatch(/'L1_1','Placement of L1'/);
    expect(textOf(rewritten).match(/leaf/i)).toBeNull();
  });

  it('is changed as a whole or not at all, for any names of files', () => {
    const name = fc.stringMatching(/^[a-c][ a-c]{0,5}[a-c]$/);
    fc.assert(
      fc.property(fc.uniqueArray(name, { minLength: 2, maxLength: 5 }), fc.nat(4), (names, changed) => {
        const uses = names.map((id, at) => ({
          id: `P${at}`,
          name: id.split(' ')[0] ?? id,
          locator: `${id}.stp`,
        }));
        const which = `P${changed % names.length}`;
        const said = stringsWith(rename(set(uses), { [which]: { name: 'Z', to: 'new.stp' } }), /\.stp/);
        const expected = names.map((id, at) => (`P${at}` === which ? 'new.stp' : `${id}.stp`));
        expect(new Set(said)).toEqual(new Set(expected));
      }),
      { numRuns: 200 },
    );
  });
});

it('the key of a path is the same however it is spelled', () => {
  fc.assert(
    fc.property(fc.stringMatching(/^[a-zA-Z0-9 ._%'-]{1,12}$/), (name) => {
      fc.pre(name === name.trim() && name !== '.');
      for (const spelled of [`./${name}`, `.\\${name}`, name.toUpperCase(), ` ${name} `])
        expect(pathKey(spelled)).toBe(pathKey(name));
    }),
  );
});
