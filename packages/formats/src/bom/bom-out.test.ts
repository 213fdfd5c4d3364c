/** What is written of BOMs, before readers that have nothing in common with the writers. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Spec, Validation } from '@cyclonedx/cyclonedx-library';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { BOM_XSD, writeBomXml } from './bom-xml.js';
import { writeCycloneDx } from './cyclonedx.js';
import type { OutBom, OutLine } from './model.js';

/** Anything that a name may hold, also what XML has no place for. */
const anyText = fc.string({ maxLength: 12, unit: fc.oneof(fc.constantFrom('<', '&', '"', ']]>', '\u0001', '\u0000', 'ß', '😀', '\ud800', '\ufffe', ' ', '\n'), fc.string({ minLength: 1, maxLength: 1 })) }); // prettier-ignore
const amount = fc.oneof(
  fc.record({ value: fc.nat(99).map(String), unit: fc.constantFrom('', 'm', 'ml'), basis: fc.constantFrom('each' as const, 'batch' as const, 'fixed' as const) }), // prettier-ignore
  fc.constant({ value: '0.4', unit: 'm', basis: 'each' as const, scrap: '0.05', step: '0.5' }),
  fc.constant({ value: '', unit: '', basis: 'as required' as const }),
);
const facts = {
  ...{ number: anyText, name: anyText, version: fc.constantFrom('', 'B/3'), amount },
  find: fc.constantFrom('', '10'),
  designators: fc.array(fc.constantFrom('R1', 'C2', '<x>'), { maxLength: 3 }),
  configurations: fc.array(anyText, { maxLength: 2 }),
  values: fc.dictionary(anyText, anyText, { maxKeys: 3 }),
  alternates: fc.array(fc.record({ number: anyText, name: anyText, rank: fc.integer({ min: 1, max: 9 }) }), { maxLength: 2 }), // prettier-ignore
};
const within = (children: fc.Arbitrary<OutLine[]>): fc.Arbitrary<OutLine> =>
  fc.record({ ...facts, children });
const leaf = within(fc.constant([]));
const line = within(fc.array(within(fc.array(leaf, { maxLength: 3 })), { maxLength: 3 }));
const bom: fc.Arbitrary<OutBom> = line.map((root) => ({
  ...root,
  writtenAt: '2026-03-31T08:00:00.000Z',
  lens: 'as recorded',
}));
const SERIAL = '3e671687-395b-41f5-a30f-a58921a69b79';

it('is XML that xmllint finds valid, whatever stands in it', () => {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-bom-'));
  writeFileSync(join(folder, 'bom.xsd'), BOM_XSD);
  const files = fc.sample(bom, 60).map((root, at) => {
    const file = join(folder, `${at}.xml`);
    writeFileSync(file, writeBomXml(root));
    return file;
  });
  // It says which of them it is not content with, and ends with a failure then.
  execFileSync('xmllint', ['--noout', '--schema', join(folder, 'bom.xsd'), ...files], { stdio: 'pipe' });
}, 30_000);

it('is refused by xmllint where something is wrong, so that the check above says something', () => {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-bom-'));
  writeFileSync(join(folder, 'bom.xsd'), BOM_XSD);
  const [root] = fc.sample(bom, { numRuns: 1, seed: 1 });
  if (!root) throw new Error('no sample');
  writeFileSync(join(folder, 'wrong.xml'), writeBomXml(root).replace(' written=', ' read='));
  expect(() =>
    execFileSync('xmllint', ['--noout', '--schema', join(folder, 'bom.xsd'), join(folder, 'wrong.xml')], {
      stdio: 'pipe',
    }),
  ).toThrow(/attribute/);
});

it('is CycloneDX 1.6 by the schema of the standard', async () => {
  const validator = new Validation.JsonStrictValidator(Spec.Version.v1dot6);
  for (const root of fc.sample(bom, 40))
    expect(await validator.validate(writeCycloneDx(root, SERIAL))).toBeNull();
  expect(
    await validator.validate('{"bomFormat":"CycloneDX","specVersion":"1.6","components":[{}]}'),
  ).not.toBeNull();
}, 30_000);

it('names everything once in CycloneDX, though it is used twice', () => {
  const part = (number: string): OutLine => ({
    ...{ number, name: '', version: 'A/1', amount: { value: '2', unit: '', basis: 'each' }, find: '' },
    ...{ designators: [], configurations: [], values: {}, alternates: [], children: [] },
  });
  const text = writeCycloneDx(
    { ...part('TOP'), children: [part('A'), part('A')], writtenAt: '2026-03-31T08:00:00Z', lens: 'newest' },
    SERIAL,
  );
  const { components, dependencies } = JSON.parse(text) as {
    components: { 'bom-ref': string }[];
    dependencies: { ref: string; dependsOn?: string[] }[];
  };
  expect(components.map((each) => each['bom-ref'])).toEqual(['A', 'A#2']);
  expect(dependencies[0]).toEqual({ ref: 'the BOM of TOP', dependsOn: ['A', 'A#2'] });
});
