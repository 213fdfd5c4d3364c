import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { PropertyValue } from '../model/reading.js';
import {
  isSameValue,
  missingProperties,
  parseProperty,
  withProperties,
  type PropertyDefinition,
} from './properties.js';
import { sayValue } from './say-value.js';

const definition = (
  kind: PropertyDefinition['kind'],
  given: Partial<PropertyDefinition> = {},
): PropertyDefinition => ({
  name: 'p',
  kind,
  unit: '',
  choices: [],
  ...given,
});
const LENGTH = definition('number', { unit: 'mm' });
const FINISH = definition('choice', { choices: ['Raw', 'Galvanised'] });

describe('properties', () => {
  it.each([
    [LENGTH, '12,5', '12.5 mm'],
    [LENGTH, '2 in', '2 in'],
    [FINISH, 'galvanised', 'Galvanised'],
    [definition('date'), '2026-02-28', '2026-02-28'],
    [definition('yes/no'), 'Yes', 'yes'],
    [undefined, ' any text ', 'any text'],
  ])('%# take %j', (of, entered, said) => {
    const parsed = parseProperty('p', entered, of);
    expect(parsed.kind === 'value' && sayValue(parsed.value)).toBe(said);
  });

  it.each([
    [LENGTH, 'long', /must be a number in mm/],
    [LENGTH, '3 kg', /measured in mm, which 'kg' does not fit/],
    [definition('number'), '3 mm', /has no unit/],
    [FINISH, 'painted', /one of Raw, Galvanised/],
    [definition('date'), '2026-02-31', /a day such as/],
    [definition('yes/no'), 'maybe', /yes or no/],
  ])('%# refuse %j', (of, entered, says) => {
    const parsed = parseProperty('p', entered, of);
    expect(parsed.kind === 'problem' && parsed.says).toMatch(says);
  });

  it('are the same whatever unit they are written in', () => {
    const number = (value: number, unit: string): PropertyValue => ({
      name: 'p',
      kind: 'number',
      value,
      unit,
    });
    expect(isSameValue(number(1, 'in'), number(25.4, 'mm'))).toBe(true);
    expect(isSameValue(number(1, 'in'), number(25, 'mm'))).toBe(false);
    expect(isSameValue(number(1, 'kg'), number(1, 'mm'))).toBe(false);
    expect(isSameValue(number(1, ''), { name: 'p', kind: 'text', text: '1' })).toBe(false);
  });

  it('that a class requires are missed', () => {
    const fastener = {
      name: 'Fastener',
      properties: [
        { name: 'Thread', isRequired: true },
        { name: 'coating', isRequired: false },
      ],
    };
    expect(missingProperties(fastener, [])).toEqual(['Thread']);
    expect(missingProperties(fastener, [{ name: 'thread', kind: 'text', text: '' }])).toEqual(['Thread']);
    expect(missingProperties(fastener, [{ name: 'thread', kind: 'text', text: 'M8' }])).toEqual([]);
  });

  it('are set, added and taken away by name, whatever its capitals', () => {
    const text = (name: string, said: string): PropertyValue => ({ name, kind: 'text', text: said });
    const before = [text('a', '1'), text('B', '2'), text('c', '3')];
    const after = withProperties(
      before,
      new Map([
        ['A', text('A', '9')],
        ['b', undefined],
        ['d', text('d', '4')],
        ['none', undefined],
      ]),
    );
    expect(after.map((property) => `${property.name}=${sayValue(property)}`)).toEqual(['A=9', 'c=3', 'd=4']);
  });

  it('say what can be entered again', () => {
    const of = fc.constantFrom(LENGTH, FINISH, definition('date'), definition('yes/no'), definition('text'));
    fc.assert(
      fc.property(
        of,
        fc.oneof(fc.string({ maxLength: 20 }), fc.constantFrom('3 mm', 'raw', '2026-01-01', 'no')),
        (given, entered) => {
          const parsed = parseProperty('p', entered, given);
          if (parsed.kind === 'problem') return;
          expect(parseProperty('p', sayValue(parsed.value), given)).toEqual(parsed);
        },
      ),
    );
  });
});
