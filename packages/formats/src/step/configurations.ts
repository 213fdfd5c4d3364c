/**
 * Configurations that uses belong to: a configuration_effectivity ties a use to a configuration_design, which realises a
 * configuration_item of a product concept (ISO 10303-44, product structure configuration, configuration management
 * schema). A use that no effectivity speaks of belongs to every configuration.
 */
import { refOf, textOf, type StepFile } from './index-file.js';

export const CONFIGURATION_TYPES = [
  'CONFIGURATION_ITEM',
  'CONFIGURATION_DESIGN',
  'CONFIGURATION_EFFECTIVITY',
] as const;

/** Longer names are cut. */
const LONGEST_NAME = 120;

/** Names of the configurations of each use, by the use's instance number; uses that belong to all are absent. */
export function readConfigurations(file: StepFile): ReadonlyMap<number, readonly string[]> {
  const found = new Map<number, Set<string>>();
  for (const id of file.idsOf('CONFIGURATION_EFFECTIVITY')) {
    const { use, design } = effectivity(file, id);
    const name = use === undefined || design === undefined ? '' : nameOf(file, design);
    if (use === undefined || name === '') continue;
    const names = found.get(use);
    if (names) names.add(name);
    else found.set(use, new Set([name]));
  }
  return new Map([...found].map(([use, names]) => [use, [...names].sort()]));
}

/** The use and the configuration_design, whether the instance is written in one record or, with a date or lot, in several. */
function effectivity(file: StepFile, id: number): { use: number | undefined; design: number | undefined } {
  const own = file.record(id, 'CONFIGURATION_EFFECTIVITY')?.values ?? [];
  if (file.records(id).length === 1) return { use: refOf(own[1]), design: refOf(own[2]) };
  const relation = file.record(id, 'PRODUCT_DEFINITION_EFFECTIVITY')?.values ?? [];
  return { use: refOf(relation[0]), design: refOf(own[0]) };
}

/** The name of the configuration item, else its id. */
function nameOf(file: StepFile, design: number): string {
  const item = refOf(file.record(design, 'CONFIGURATION_DESIGN')?.values[0]);
  const values = item === undefined ? undefined : file.record(item, 'CONFIGURATION_ITEM')?.values;
  const [id, name] = [textOf(values?.[0])?.trim() ?? '', textOf(values?.[1])?.trim() ?? ''];
  return printable(name || id).slice(0, LONGEST_NAME);
}

function printable(text: string): string {
  return text.replace(/\p{Cc}+/gu, ' ').trim();
}
