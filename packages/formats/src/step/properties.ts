import type { PropertyValue } from '@stem-trace/core';
import { numberOf, numbersOf, refOf, refsOf, textOf, type StepFile } from './index-file.js';
import { lengthUnit, type UnitScale } from './placements.js';
import type { StepRecord } from './records.js';

/** Names that validation properties get in the store, with the power of length of their unit. */
const MEASURES: readonly { match: RegExp; name: string; power: number; unit: string }[] = [
  { match: /^volume/i, name: 'volume', power: 3, unit: 'mm³' },
  { match: /^(surface area|wetted area|area)/i, name: 'surface', power: 2, unit: 'mm²' },
];

/**
 * Properties that a file states for a product: the geometric validation properties (volume, surface, centroid;
 * CAx-IF recommended practice), and text or number items of user-defined attributes.
 *
 * Both hang on a property definition: property_definition_representation → representation → items. A measure's
 * own derived unit wins over the unit of the context.
 *
 * @returns properties by the instance that they describe: a product definition or its shape
 */
export function readProperties(file: StepFile, units: UnitScale): Map<number, PropertyValue[]> {
  const found = new Map<number, Map<string, PropertyValue>>();
  for (const id of file.idsOf('PROPERTY_DEFINITION_REPRESENTATION')) {
    const link = file.record(id, 'PROPERTY_DEFINITION_REPRESENTATION');
    const definition = refOf(link?.values[0]);
    const representation = refOf(link?.values[1]);
    if (definition === undefined || representation === undefined) continue;
    const subject = file.record(definition, 'PROPERTY_DEFINITION');
    const target = refOf(subject?.values[2]);
    const kind = textOf(subject?.values[0])?.replaceAll('_', ' ').toLowerCase() ?? '';
    const wanted =
      kind === 'geometric validation property' ||
      kind.startsWith('user defined') ||
      kind === 'material property';
    if (!subject || target === undefined || !wanted) continue;
    const record = file.records(representation, definition)[0];
    const scale = units.of(file, representation);
    for (const item of refsOf(record?.values[1])) {
      const value = propertyOf(file, item, kind, scale);
      if (!value) continue;
      const own = found.get(target) ?? new Map<string, PropertyValue>();
      found.set(target, own);
      if (!own.has(value.name)) own.set(value.name, value);
    }
  }
  return new Map([...found].map(([target, own]) => [target, [...own.values()]]));
}

function propertyOf(file: StepFile, id: number, kind: string, scale: number): PropertyValue | undefined {
  const item = file.records(id)[0];
  if (!item) return undefined;
  const name = textOf(item.values[0])?.trim() ?? '';
  if (item.type === 'DESCRIPTIVE_REPRESENTATION_ITEM') {
    const text = textOf(item.values[1])?.trim() ?? '';
    return name && text ? { name, kind: 'text', text } : undefined;
  }
  if (item.type === 'CARTESIAN_POINT' && kind === 'geometric validation property') {
    const text = numbersOf(item.values[1])
      .map((value) => Number((value * scale).toPrecision(9)))
      .join(' ');
    return { name: 'centroid', kind: 'text', text: `${text} mm` };
  }
  if (item.type !== 'MEASURE_REPRESENTATION_ITEM') return undefined;
  const value = numberOf(item.values[1]);
  if (value === undefined) return undefined;
  const measure = MEASURES.find(({ match }) => match.test(name));
  if (measure) {
    const factor = derivedUnit(file, item, measure.power) ?? scale ** measure.power;
    return { name: measure.name, kind: 'number', value: value * factor, unit: measure.unit };
  }
  const type = item.values[1]?.kind === 'typed' ? item.values[1].type : '';
  if (kind.startsWith('user defined') && name) {
    return {
      name,
      kind: 'number',
      value: value * (type === 'MASS_MEASURE' ? massUnit(file, item) : 1),
      unit: type === 'MASS_MEASURE' ? 'kg' : '',
    };
  }
  return undefined;
}

/** Factor to millimetres to the given power of a derived unit made of one length unit. */
function derivedUnit(file: StepFile, item: StepRecord, power: number): number | undefined {
  const unit = refOf(item.values[2]);
  const derived =
    unit === undefined ? undefined : file.record(unit, 'DERIVED_UNIT', 'AREA_UNIT', 'VOLUME_UNIT');
  const element = refsOf(derived?.values[0])[0];
  const record = element === undefined ? undefined : file.record(element, 'DERIVED_UNIT_ELEMENT');
  const base = refOf(record?.values[0]);
  return base === undefined ? undefined : lengthUnit(file, base, 0) ** (numberOf(record?.values[1]) ?? power);
}

/** Kilograms per unit of a mass measure; the SI mass unit is the gram with its prefix. */
function massUnit(file: StepFile, item: StepRecord): number {
  const unit = refOf(item.values[2]);
  const si = unit === undefined ? undefined : file.record(unit, 'SI_UNIT');
  return si?.values.some((value) => value.kind === 'word' && value.word === 'KILO') ? 1 : 0.001;
}
