import type { PropertyValue } from '@stem-trace/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readExchangeFile } from '../testing/exchange-files.js';
import { annotateStepPart } from './annotate.js';
import { readStep } from './read.js';
import { writeStepAssembly } from './write.js';

const label = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
  .map((text) => text.replace(/[\r\n]/g, ' ').trim())
  .filter((text) => text !== '' && !/^(none|not specified|last_version|unknown|\$)$/i.test(text));
const length = fc
  .double({ min: -5000, max: 5000, noNaN: true })
  .map((value) => Math.round(value * 1000) / 1000);

/** A turn about z and then about x, with a shift. */
const placement = fc
  .tuple(
    fc.double({ min: 0, max: 6.28, noNaN: true }),
    fc.double({ min: 0, max: 6.28, noNaN: true }),
    length,
    length,
    length,
  )
  .map(([a, b, x, y, z]) => {
    const [ca, sa, cb, sb] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b)];
    return [ca, -sa * cb, sa * sb, x, sa, ca * cb, -ca * sb, y, 0, sb, cb, z];
  });

const assembly = fc
  .record({
    id: label,
    name: label,
    description: label,
    source: fc.constantFrom('made', 'bought', 'unknown' as const),
    children: fc.uniqueArray(
      fc.record({
        id: label,
        name: label,
        locator: label.map((text) => `${text.replace(/[\\/%:]/g, '_')}.stp`),
      }),
      { minLength: 1, maxLength: 5, selector: ({ id }) => id },
    ),
    seeds: fc.array(fc.tuple(fc.nat(), label, placement, fc.subarray(['cold', 'hot', "it's both"])), {
      maxLength: 8,
    }),
  })
  .map(({ seeds, ...rest }) => ({
    ...rest,
    uses: seeds.map(([seed, name, at, configurations]) => ({
      child: seed % rest.children.length,
      name,
      placement: at,
      configurations,
    })),
  }));

describe('writing an assembly', () => {
  it('is read back as it was', () => {
    fc.assert(
      fc.property(assembly, (model) => {
        const reading = readStep(
          writeStepAssembly({ ...model, fileName: 'a.stp', time: '2026-01-01T00:00:00' }),
        );
        const top = reading.products[0];
        expect({ id: top?.id, name: top?.name, description: top?.description, source: top?.source }).toEqual({
          id: model.id,
          name: model.name,
          description: model.description,
          source: model.source,
        });
        expect(reading.products.slice(1).map(({ id, name, locator }) => ({ id, name, locator }))).toEqual(
          model.children,
        );
        const placed = reading.uses.filter(({ relation }) => relation === undefined);
        expect(
          placed.map(({ child, name, configurations = [] }) => ({
            child: child - 1,
            name,
            configurations,
          })),
        ).toEqual(model.uses.map(({ child, name, configurations }) => ({ child, name, configurations })));
        placed.forEach((use, index) =>
          use.placement.forEach((value, at) =>
            expect(value).toBeCloseTo(model.uses[index]?.placement[at] ?? NaN, 5),
          ),
        );
      }),
      { numRuns: 60 },
    );
  });

  it('refuses a use of a child that is not there', () => {
    expect(() =>
      writeStepAssembly({
        id: 'A',
        name: 'A',
        fileName: 'a.stp',
        time: '',
        children: [],
        uses: [{ child: 0, name: '', placement: [] }],
      }),
    ).toThrow(RangeError);
  });
});

describe('annotating a part', () => {
  const cube = readExchangeFile('../cube-fcstd/cube.step');
  const properties: PropertyValue[] = [
    { name: 'volume', kind: 'number', value: 1234.5, unit: 'mm³' },
    { name: 'surface', kind: 'number', value: 77, unit: 'mm²' },
    { name: 'mass', kind: 'number', value: 0.25, unit: 'kg' },
    { name: 'material', kind: 'text', text: 'Steel ‘S355’' },
  ];

  it('states the item and its properties, and keeps the geometry', () => {
    const annotated = annotateStepPart(cube, {
      id: 'FM-1',
      name: 'Klötzchen',
      description: 'a block',
      version: 'A',
      source: 'bought',
      properties,
      fileName: 'FM-1.stp',
      time: '2026-01-01',
    });
    const [product] = readStep(annotated).products;
    expect(product).toMatchObject({
      id: 'FM-1',
      name: 'Klötzchen',
      description: 'a block',
      versionText: 'A',
      source: 'bought',
    });
    expect([...(product?.properties ?? [])].sort((a, b) => a.name.localeCompare(b.name))).toEqual(
      [...properties].sort((a, b) => a.name.localeCompare(b.name)),
    );
    const geometry = (bytes: Uint8Array): string[] =>
      new TextDecoder().decode(bytes).match(/^#\d+ ?= ?(CARTESIAN_POINT|ADVANCED_FACE|EDGE_CURVE).*$/gm) ??
      [];
    expect(geometry(annotated)).toEqual(geometry(cube));
  });

  it('refuses a file with several products', () => {
    expect(() =>
      annotateStepPart(readExchangeFile('as1-oc-214.stp'), {
        id: '',
        name: '',
        description: '',
        version: '',
        source: 'made',
        properties: [],
        fileName: '',
        time: '',
      }),
    ).toThrow(/exactly one PRODUCT/);
  });
});
