import type { FileFormat, PropertyValue, Source } from '@stem-trace/core';

/** What a version's file says about it. */
export interface VersionFacts {
  readonly description: string;
  readonly format?: FileFormat;
  readonly schema: string;
  readonly versionText: string;
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
}

/** Versions from before other kinds of file were taken in do not say: they are STEP. */
export function formatOf(facts: VersionFacts): FileFormat {
  return facts.format ?? 'step';
}

/** The text that words are looked up in: lower case, one line per field so that no word spans two. */
export function searchText(number: string, name: string, facts: VersionFacts): string {
  const properties = facts.properties.map((property) =>
    property.kind === 'text'
      ? `${property.name} ${property.text}`
      : `${property.name} ${property.value} ${property.unit}`,
  );
  return [number, name, facts.description, ...properties].join('\n').toLowerCase();
}
