import type { FileReading } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXTERNAL_SETS, readExchangeFile, readExchangeSet, WHOLE_FILES } from '../testing/exchange-files.js';
import { readStep } from './read.js';
import { rewriteStep, type StepRenaming } from './rewrite.js';

const name = fc
  .string({
    unit: fc.oneof(
      fc.constantFrom(...'ABCxyz0189-_ .()[]{}\'"\\/$^*+?|#;,=@&%'),
      fc.constantFrom('é', 'Ж', '部', '😀'),
    ),
    minLength: 1,
    maxLength: 16,
  })
  .filter((text) => text.trim() !== '' && text === text.trim());

const files: readonly (readonly [string, Uint8Array])[] = [
  ...WHOLE_FILES.map((file) => [file, readExchangeFile(file)] as const),
  ...EXTERNAL_SETS.flatMap((set) =>
    [...readExchangeSet(set)].map(([file, bytes]) => [`${set}/${file}`, bytes] as const),
  ),
];

/** What must not change: everything but ids, names, locators and texts. */
function shapeOf(reading: FileReading): unknown {
  return {
    schema: reading.schema,
    products: reading.products.map(({ ref, kind, source, locator }) => ({
      ref,
      kind,
      source,
      external: locator !== undefined,
    })),
    uses: reading.uses.map(({ parent, child, placement }) => ({ parent, child, placement })),
  };
}

function withoutStrings(bytes: Uint8Array): string {
  return new TextDecoder('latin1').decode(bytes).replace(/'(?:[^']|'')*'/g, "''");
}

describe('rewriting', () => {
  it('gives the very same array back where nothing changes', () => {
    for (const [, bytes] of files) {
      const reading = readStep(bytes);
      const same: StepRenaming = {
        products: reading.products.map(({ ref, id, name: own }) => ({ ref, id, name: own })),
        locators: reading.products.flatMap(({ ref, locator }) =>
          locator === undefined ? [] : [{ ref, to: locator }],
        ),
      };
      const rewritten = rewriteStep(bytes, same);
      expect(rewritten.bytes).toBe(bytes);
      expect(rewritten.changed).toBe(0);
    }
  });

  it('changes strings only, says the new names, and keeps the structure, for any names', () => {
    fc.assert(
      fc.property(fc.nat(files.length - 1), fc.infiniteStream(name), (which, names) => {
        const [, bytes] = files[which] ?? ['', new Uint8Array()];
        const before = readStep(bytes);
        const next = (): string => names.next().value as string;
        const wanted = before.products.map(({ ref, locator }) => ({
          ref,
          id: next(),
          name: next(),
          ...(locator === undefined ? {} : { locator: `${next().replace(/[\\/%]/g, '_')}.stp` }),
        }));
        const { bytes: rewritten } = rewriteStep(bytes, {
          products: wanted.map(({ ref, id, name: given }) => ({ ref, id, name: given })),
          locators: wanted.flatMap(({ ref, locator }) =>
            locator === undefined ? [] : [{ ref, to: locator }],
          ),
          fileName: 'new.stp',
        });
        const after = readStep(rewritten);
        expect(shapeOf(after)).toEqual(shapeOf(before));
        expect(after.products.map((product) => product.id)).toEqual(wanted.map(({ id }) => id));
        expect(after.products.map((product) => product.locator)).toEqual(
          wanted.map(({ locator }) => locator),
        );
        expect(withoutStrings(rewritten)).toBe(withoutStrings(bytes));
      }),
      { numRuns: 120 },
    );
  });

  it('leaves no trace of the old names in the strings that repeat them', () => {
    for (const [file, bytes] of files) {
      const reading = readStep(bytes);
      const { bytes: rewritten } = rewriteStep(bytes, {
        products: reading.products.map(({ ref }, index) => ({ ref, id: `NEW${index}`, name: `NEW${index}` })),
        locators: reading.products.flatMap(({ ref, locator }, index) =>
          locator === undefined ? [] : [{ ref, to: `new${index}.stp` }],
        ),
        fileName: 'new.stp',
      });
      const strings = [...new TextDecoder('latin1').decode(rewritten).matchAll(/'((?:[^']|'')*)'/g)].map(
        (match) => match[1] ?? '',
      );
      const olds = reading.products
        .flatMap(({ id, name: own, locator }) => [id, own, locator ?? ''])
        .filter((text) => text.length > 2);
      for (const old of olds) {
        const holding = strings.filter((text) => text === old || text.split(/[^A-Za-z0-9_-]+/).includes(old));
        expect({ file, old, holding }).toEqual({ file, old, holding: [] });
      }
    }
  });

  it('can swap two names at once', () => {
    const bytes = readExchangeFile('as1-oc-214.stp');
    const reading = readStep(bytes);
    const ref = (id: string): number => reading.products.find((product) => product.id === id)?.ref ?? -1;
    const { bytes: swapped } = rewriteStep(bytes, {
      products: [
        { ref: ref('nut'), id: 'bolt', name: 'bolt' },
        { ref: ref('bolt'), id: 'nut', name: 'nut' },
      ],
      locators: [],
    });
    const after = readStep(swapped);
    expect(after.products.find((product) => product.ref === ref('nut'))?.id).toBe('bolt');
    expect(
      after.uses
        .map(({ name: own }) => own)
        .filter((own) => /^(nut|bolt)_/.test(own))
        .sort(),
    ).toEqual(['bolt_1', 'bolt_2', 'bolt_3', 'nut_1']);
  });

  it('leaves the vocabulary of the standard alone, even where a product is called like it', () => {
    const bytes = new TextEncoder().encode(
      "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n#1=PRODUCT('part','mechanical','',(#4));\n#2=PRODUCT_DEFINITION_FORMATION('','',#1);\n" +
        "#3=PRODUCT_DEFINITION('','',#2,#5);\n#4=PRODUCT_CONTEXT('',#9,'mechanical');\n#5=PRODUCT_DEFINITION_CONTEXT('part',#9,'design');\n#6=PRODUCT_RELATED_PRODUCT_CATEGORY('part','part',(#1));\nENDSEC;\nEND-ISO-10303-21;\n",
    );
    const text = new TextDecoder().decode(
      rewriteStep(bytes, { products: [{ ref: 1, id: 'X', name: 'Y' }], locators: [] }).bytes,
    );
    expect(text).toContain("PRODUCT('X','Y'");
    expect(text).toContain("PRODUCT_CONTEXT('',#9,'mechanical')");
    expect(text).toContain("PRODUCT_DEFINITION_CONTEXT('part',#9,'design')");
    expect(text).toContain("PRODUCT_RELATED_PRODUCT_CATEGORY('part','X'");
  });

  it('lets every mention say the whole path where the folder stood apart', () => {
    const bytes = new TextEncoder().encode(
      "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=PRODUCT('T','','',());#2=PRODUCT_DEFINITION_FORMATION('','',#1);#3=PRODUCT_DEFINITION('','',#2,$);\n" +
        "#11=PRODUCT('P','','',());#12=PRODUCT_DEFINITION_FORMATION('','',#11);#13=PRODUCT_DEFINITION('','',#12,$);#5=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#3,#13,$);\n" +
        "#7=DOCUMENT_FILE('p.stp','','',$,'',$);#8=EXTERNAL_SOURCE(IDENTIFIER('old/dir'));#9=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('p.stp',$,#8,(#7));#20=APPLIED_DOCUMENT_REFERENCE(#7,'',(#13));\nENDSEC;\nEND-ISO-10303-21;\n",
    );
    for (const to of ['../new/q.stp', 'q.stp', 'old/dir/p.stp']) {
      const moved = rewriteStep(bytes, { products: [], locators: [{ ref: 11, to }] }).bytes;
      expect(new TextDecoder().decode(moved).split(`'${to}'`)).toHaveLength(4);
      expect(readStep(moved).products[1]?.locator).toBe(to);
    }
  });
});
