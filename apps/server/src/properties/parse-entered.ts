import { parseProperty, type PropertyDefinition, type PropertyValue } from '@stem-trace/core';
import { ProblemError } from '../problems/problem.js';

/**
 * Values as people enter them, by property; undefined takes a property away.
 *
 * @throws ProblemError INPUT_INVALID with every value that does not fit
 */
export function parseEntered(
  set: Readonly<Record<string, string>>,
  definitions: readonly PropertyDefinition[],
): Map<string, PropertyValue | undefined> {
  const byName = new Map(definitions.map((definition) => [definition.name.toLowerCase(), definition]));
  const problems: string[] = [];
  const changes = new Map<string, PropertyValue | undefined>();
  for (const [name, entered] of Object.entries(set)) {
    const definition = byName.get(name.toLowerCase());
    if (entered.trim() === '') {
      changes.set(name, undefined);
      continue;
    }
    const parsed = parseProperty(definition?.name ?? name, entered, definition);
    if (parsed.kind === 'problem') problems.push(`${name} ${parsed.says}`);
    else changes.set(name, parsed.value);
  }
  if (problems.length > 0)
    throw new ProblemError('INPUT_INVALID', `${problems.join('; ')}. Nothing was changed.`, problems);
  return changes;
}
