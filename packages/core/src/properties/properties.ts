/** Properties with definitions: what may be entered for them, and which an item of a class must have. */
import type { PropertyValue } from '../model/reading.js';
import { sayValue } from './say-value.js';
import { areCompatible, parseQuantity, toSi } from '../quantity/quantity.js';

export const PROPERTY_KINDS = ['text', 'number', 'choice', 'date', 'yes/no'] as const;
export type PropertyKind = (typeof PROPERTY_KINDS)[number];

export interface PropertyDefinition {
  readonly name: string;
  readonly kind: PropertyKind;
  /** Of a number: what is meant where none is entered; others must be compatible with it. */
  readonly unit: string;
  readonly choices: readonly string[];
}

/** What an item is, as far as its properties go: a fastener, a sheet metal part. */
export interface ItemClass {
  readonly name: string;
  readonly properties: readonly { readonly name: string; readonly isRequired: boolean }[];
}

export type ParsedProperty =
  | { readonly kind: 'value'; readonly value: PropertyValue }
  /** The end of a sentence that begins with the property's name. */
  | { readonly kind: 'problem'; readonly says: string };

/** Reads what somebody entered for a property. A property that nobody defined is a text. */
export function parseProperty(
  name: string,
  entered: string,
  definition: PropertyDefinition | undefined,
): ParsedProperty {
  const text = entered.trim();
  switch (definition?.kind) {
    case undefined:
    case 'text':
      return value({ name, kind: 'text', text });
    case 'number':
      return parseNumber(name, text, definition.unit);
    case 'choice': {
      const choice = definition.choices.find((option) => option.toLowerCase() === text.toLowerCase());
      return choice === undefined
        ? problem(`must be one of ${definition.choices.join(', ')}, not '${text}'`)
        : value({ name, kind: 'choice', choice });
    }
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(text) && !Number.isNaN(Date.parse(text)) && isSameDay(text)
        ? value({ name, kind: 'date', date: text })
        : problem(`must be a day such as 2026-03-31, not '${text}'`);
    case 'yes/no': {
      const yes = /^(yes|y|true|1)$/i.test(text);
      if (!yes && !/^(no|n|false|0)$/i.test(text)) return problem(`must be yes or no, not '${text}'`);
      return value({ name, kind: 'yes/no', yes });
    }
  }
}

function parseNumber(name: string, text: string, unit: string): ParsedProperty {
  const entered = parseQuantity(text);
  if (!entered) return problem(`must be a number${unit === '' ? '' : ` in ${unit}`}, not '${text}'`);
  const own = entered.unit === '' ? unit : entered.unit;
  if (!areCompatible(own, unit))
    return problem(
      unit === '' ? `has no unit, so not '${own}'` : `is measured in ${unit}, which '${own}' does not fit`,
    );
  return value({ name, kind: 'number', value: entered.value, unit: own });
}

/** 31 February is no day though it looks like one. */
function isSameDay(text: string): boolean {
  return new Date(`${text}T00:00:00Z`).toISOString().startsWith(text);
}

function value(parsed: PropertyValue): ParsedProperty {
  return { kind: 'value', value: parsed };
}

function problem(says: string): ParsedProperty {
  return { kind: 'problem', says };
}

/** Whether two values say the same; 1 in and 25.4 mm do. */
export function isSameValue(a: PropertyValue, b: PropertyValue): boolean {
  if (a.kind !== 'number' || b.kind !== 'number') return a.kind === b.kind && sayValue(a) === sayValue(b);
  const [left, right] = [toSi(a.value, a.unit), toSi(b.value, b.unit)];
  if (!left || !right) return a.value === b.value && a.unit === b.unit;
  const scale = Math.max(Math.abs(left.value), Math.abs(right.value));
  return left.unit === right.unit && Math.abs(left.value - right.value) <= scale * 1e-9;
}

/** Properties that the class requires and the item lacks. */
export function missingProperties(of: ItemClass, values: readonly PropertyValue[]): string[] {
  const given = new Set(
    values.flatMap((property) => (sayValue(property) === '' ? [] : [property.name.toLowerCase()])),
  );
  return of.properties.flatMap(({ name, isRequired }) =>
    isRequired && !given.has(name.toLowerCase()) ? [name] : [],
  );
}

/** Values with some set anew; an empty entry takes a property away. Order is kept, new ones come last. */
export function withProperties(
  values: readonly PropertyValue[],
  changes: ReadonlyMap<string, PropertyValue | undefined>,
): PropertyValue[] {
  const left = new Map([...changes].map(([name, change]) => [name.toLowerCase(), change]));
  const kept = values.flatMap((property) => {
    const key = property.name.toLowerCase();
    if (!left.has(key)) return [property];
    const change = left.get(key);
    left.delete(key);
    return change ? [change] : [];
  });
  return [...kept, ...[...left.values()].flatMap((change) => change ?? [])];
}
