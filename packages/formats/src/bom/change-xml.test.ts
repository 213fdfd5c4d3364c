/** The XML of change orders: what was given can be read back by a reader of its own, and holds to its schema. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { XMLParser } from 'fast-xml-parser';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { CHANGE_XSD, writeChangeXml, type OutChange } from './change-xml.js';

const PLAIN: OutChange = {
  ...{
    number: 'CO-1',
    name: 'Damp it',
    version: 'A/2',
    state: 'under way',
    why: 'It rattles',
    until: '2026-12-01',
  },
  ...{ takesEffect: 'when released', items: [], makes: [] },
};

const reader = new XMLParser({
  ignoreAttributes: false,
  parseAttributeValue: false,
  trimValues: false,
  parseTagValue: false,
});

it('says what was given, whatever stands in it', () => {
  const text = fc.string({ unit: 'grapheme', maxLength: 30 }).filter((each) => /^[^\r\n\t]*$/.test(each));
  fc.assert(
    fc.property(text, text, text, (name, note, before) => {
      const xml = writeChangeXml({
        ...{ ...PLAIN, name: `n${name}` },
        items: [{ relation: 'affects', number: 'A', name: '', note: `.${note}.` }],
        makes: [
          {
            ...{ number: 'A', name: '', from: null, to: 'A/1', says: 'new' },
            whole: [{ what: 'note', before: `b${before}`, after: '' }],
            rows: [{ sign: '+', number: 'B', name: '', before: '', after: 'A/1 ×4' }],
          },
        ],
      });
      const { change } = reader.parse(xml) as { change: Record<string, unknown> };
      expect(decoded(change['@_name'])).toBe(`n${name}`);
      const item = change['item'] as Record<string, unknown>;
      expect(decoded(item['#text'])).toBe(`.${note}.`);
      const makes = change['makes'] as Record<string, Record<string, unknown>>;
      expect(makes['@_from']).toBeUndefined();
      expect(decoded(makes['property']?.['@_before'])).toBe(`b${before}`);
      expect(makes['row']?.['@_after']).toBe('A/1 ×4');
    }),
  );
});

const said = fc.string({ unit: 'binary', maxLength: 20 });
const change: fc.Arbitrary<OutChange> = fc.record({
  ...{
    number: said,
    name: said,
    version: said,
    state: said,
    why: said,
    takesEffect: fc.string({ minLength: 1 }),
  },
  until: fc.constantFrom('', '2026-12-01'),
  items: fc.array(
    fc.record({
      relation: fc.constantFrom('affects', 'shows in'),
      number: fc.string({ minLength: 1 }),
      name: said,
      note: said,
    }),
    { maxLength: 4 },
  ),
  makes: fc.array(
    fc.record({
      ...{ number: fc.string({ minLength: 1 }), name: said, to: fc.constant('B/1'), says: said },
      from: fc.constantFrom(null, 'A/1'),
      whole: fc.array(fc.record({ what: fc.string({ minLength: 1 }), before: said, after: said }), {
        maxLength: 3,
      }),
      rows: fc.array(
        fc.record({ sign: fc.constantFrom('+', '−'), number: said, name: said, before: said, after: said }),
        { maxLength: 3 },
      ),
    }),
    { maxLength: 3 },
  ),
});

/** What xmllint, which shares nothing with the writer, says of them. */
function lint(files: readonly string[]): void {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-change-'));
  writeFileSync(join(folder, 'change.xsd'), CHANGE_XSD);
  const names = files.map((text, at) => {
    writeFileSync(join(folder, `${at}.xml`), text);
    return join(folder, `${at}.xml`);
  });
  execFileSync('xmllint', ['--noout', '--schema', join(folder, 'change.xsd'), ...names], { stdio: 'pipe' });
}

it('is found valid by xmllint, whatever stands in it; what is not, is refused', () => {
  const named = fc.sample(change, 60).map((each) => ({
    ...{ ...each, number: `N${each.number}`, version: 'A/1', state: 'under way' },
  }));
  lint(named.map(writeChangeXml));
  expect(() => lint([writeChangeXml(PLAIN).replace(' state=', ' stage=')])).toThrow(/attribute/);
}, 30_000);

it('leaves out what nobody said, and what XML has no place for', () => {
  const xml = writeChangeXml({ ...PLAIN, until: '', why: 'a\u0000b\ud800c' });
  expect(xml).not.toContain('until');
  expect(xml).toContain('<why>a\ufffdb\ufffdc</why>');
  expect(CHANGE_XSD).toContain('targetNamespace="urn:stem-trace:change-notice:1"');
});

/** References as another reader gives them. */
function decoded(value: unknown): string {
  return String(value)
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&apos;/g, "'")
    .replace(/&amp;/g, '&');
}
