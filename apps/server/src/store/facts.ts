import {
  knownProperties,
  sayValue,
  type FileFormat,
  type PropertyValue,
  type Source,
} from '@stem-trace/core';

/** What a version's file says about it. */
export interface VersionFacts {
  readonly description: string;
  readonly format?: FileFormat;
  readonly schema: string;
  readonly versionText: string;
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
  /** What the file says of itself, where people said something else. */
  readonly stated?: readonly PropertyValue[];
}

/** Facts with other properties; the file goes on saying what it said. */
export function withValues(facts: VersionFacts, properties: readonly PropertyValue[]): VersionFacts {
  const { stated = facts.properties, ...others } = facts;
  return { ...others, ...knownProperties(properties, stated) };
}

/** What a version says of itself, with what steps set of its revision: that counts where both say something. */
export function propertiesOf({
  facts,
  setValues,
}: {
  readonly facts: VersionFacts;
  readonly setValues: readonly PropertyValue[];
}): readonly PropertyValue[] {
  if (setValues.length === 0) return facts.properties;
  const set = new Set(setValues.map(({ name }) => name.toLowerCase()));
  return [...facts.properties.filter(({ name }) => !set.has(name.toLowerCase())), ...setValues];
}

/** Versions from before other kinds of file were taken in do not say: they are STEP. */
export function formatOf(facts: VersionFacts): FileFormat {
  return facts.format ?? 'step';
}

/** The text that words are looked up in: lower case, one line per field so that no word spans two. */
export function searchText(number: string, name: string, facts: VersionFacts): string {
  const properties = facts.properties.map((property) => `${property.name} ${sayValue(property)}`);
  return [number, name, facts.description, ...properties].join('\n').toLowerCase();
}
