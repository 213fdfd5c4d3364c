/**
 * What two sides each made of what both come from, field by field. What one side changed is taken, what both changed alike is
 * taken once, and where they contradict somebody decides; seen from the other side it is the same.
 */
import { addTo } from '../collections.js';
import type { PropertyValue } from '../model/reading.js';
import { isSameValue } from './properties.js';
import { sayValue } from './say-value.js';

export type CarrySide = 'origin' | 'copy';

/** A thing as it was, and as both sides have it now. */
export interface Sides<T> {
  readonly base: T;
  readonly origin: T;
  readonly copy: T;
}

/** A field that both changed, each in its own way; empty where it is not there. */
export interface CarryContradiction {
  readonly field: string;
  readonly base: string;
  readonly origin: string;
  readonly copy: string;
}

/** By field, in small letters. */
export type CarryDecisions = ReadonlyMap<string, CarrySide>;

/** Which side a field is taken from; undefined where both changed it and nobody decided. */
export function sideOf<T>(
  { base, origin, copy }: Sides<T>,
  isSame: (a: T, b: T) => boolean,
): CarrySide | undefined {
  if (isSame(base, copy) || isSame(origin, copy)) return 'origin';
  return isSame(base, origin) ? 'copy' : undefined;
}

export interface MergedProperties {
  readonly properties: readonly PropertyValue[];
  readonly contradictions: readonly CarryContradiction[];
  /** What the copy keeps as its own. */
  readonly kept: readonly string[];
}

/**
 * Properties in the origin's order, then what the copy has besides. What is not decided stays as the copy has it.
 * `O(properties)`
 *
 * @param ofFile properties that a file says of itself, in small letters, which come with it
 * @param file whose file the merged thing has
 */
export function mergeProperties(
  { base, origin, copy }: Sides<readonly PropertyValue[]>,
  {
    decided,
    ofFile,
    file,
  }: { readonly decided: CarryDecisions; readonly ofFile: ReadonlySet<string>; readonly file: CarrySide },
): MergedProperties {
  const [was, one, other] = [grouped(base), grouped(origin), grouped(copy)];
  const contradictions: CarryContradiction[] = [];
  const kept: string[] = [];
  const properties = [...new Set([...one.keys(), ...other.keys()])].flatMap((name) => {
    const sides = { base: was.get(name) ?? [], origin: one.get(name) ?? [], copy: other.get(name) ?? [] };
    if (ofFile.has(name)) return sides[file];
    const side = sideOf(sides, areSameValues);
    const label = (sides.copy[0] ?? sides.origin[0])?.name ?? name;
    if (side === undefined)
      contradictions.push({
        field: label,
        ...{ base: sayAll(sides.base), origin: sayAll(sides.origin), copy: sayAll(sides.copy) },
      });
    const taken = side ?? decided.get(name) ?? 'copy';
    if (taken === 'copy') kept.push(label);
    return sides[taken];
  });
  return { properties, contradictions, kept };
}

function grouped(values: readonly PropertyValue[]): Map<string, PropertyValue[]> {
  const byName = new Map<string, PropertyValue[]>();
  for (const value of values) addTo(byName, value.name.toLowerCase(), value);
  return byName;
}

function areSameValues(a: readonly PropertyValue[], b: readonly PropertyValue[]): boolean {
  return (
    a.length === b.length &&
    a.every((value, at) => {
      const other = b[at];
      return other !== undefined && isSameValue(value, other);
    })
  );
}

function sayAll(values: readonly PropertyValue[]): string {
  return values.map(sayValue).join('; ');
}

/** What is known of a version's properties. */
export interface KnownProperties {
  readonly properties: readonly PropertyValue[];
  /** What its file says of itself, where that is something else. */
  readonly stated?: readonly PropertyValue[];
}

/**
 * Properties of a new file of the same item: what the file says now, and what people said besides that the file before did not
 * say. Where both said something new, it is the file's. `O(properties)`
 */
export function handOnProperties(
  { properties: copy, stated: base = copy }: KnownProperties,
  file: readonly PropertyValue[],
): KnownProperties {
  const names = [...file, ...copy].map(({ name }) => [name.toLowerCase(), 'origin'] as const);
  const { properties } = mergeProperties(
    { base, origin: file, copy },
    { decided: new Map(names), ofFile: new Set(), file: 'origin' },
  );
  return knownProperties(properties, file);
}

/** Properties of a version, with what its file says where that is something else. */
export function knownProperties(
  properties: readonly PropertyValue[],
  file: readonly PropertyValue[],
): KnownProperties {
  const isSame =
    properties.length === file.length &&
    properties.every((value, at) => {
      const other = file[at];
      return other?.name === value.name && isSameValue(value, other);
    });
  return isSame ? { properties } : { properties, stated: file };
}
