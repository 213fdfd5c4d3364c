import type { PropertyValue, Source } from '@stem-trace/core';
import { EntityTypes, indexStepFile, refOf, textOf } from './index-file.js';
import { StepError } from './errors.js';
import { encodeStepString } from './strings.js';
import { Instances, writeFormation, writeProperties } from './write.js';

export interface StepAnnotation {
  readonly id: string;
  readonly name: string;
  readonly description: string;
  readonly version: string;
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
  readonly fileName: string;
  /** ISO 8601, for the header. */
  readonly time: string;
}

const TYPES = new EntityTypes([
  'PRODUCT',
  'PRODUCT_DEFINITION_FORMATION',
  'PRODUCT_DEFINITION',
  'PRODUCT_DEFINITION_SHAPE',
  'SHAPE_DEFINITION_REPRESENTATION',
]);

/**
 * Gives a one-product STEP file from a geometry kernel the data of an item: id, name, description, version,
 * source and stated properties. Geometry and instance numbers stay as they are.
 *
 * @throws StepError where the file does not hold exactly one product
 */
export function annotateStepPart(bytes: Uint8Array, annotation: StepAnnotation): Uint8Array {
  const file = indexStepFile(bytes, TYPES);
  const one = (type: string): number => {
    const ids = file.idsOf(type);
    const id = ids[0];
    if (id === undefined || (type === 'PRODUCT' && ids.length > 1))
      throw new StepError(`exactly one ${type} expected, ${ids.length} found`, 0);
    return id;
  };
  const product = one('PRODUCT');
  const formation = one('PRODUCT_DEFINITION_FORMATION');
  const definition = one('PRODUCT_DEFINITION');
  const representation = refOf(file.record(one('SHAPE_DEFINITION_REPRESENTATION'))?.values[1]);
  const context = refOf(
    representation === undefined ? undefined : file.records(representation)[0]?.values[2],
  );
  if (context === undefined) throw new StepError('the product has no shape', 0);
  const productContext = file.record(product)?.values[3];
  const productContextRef = productContext?.kind === 'list' ? refOf(productContext.items[0]) : undefined;
  if (textOf(file.record(product)?.values[0]) === undefined) throw new StepError('the product has no id', 0);

  const replaced = new Map([
    [
      product,
      `PRODUCT(${[annotation.id, annotation.name, annotation.description].map(encodeStepString).join(',')},(#${productContextRef}))`,
    ],
    [formation, writeFormation(`#${product}`, annotation.version, annotation.source)],
  ]);
  const source = new TextDecoder().decode(bytes);
  const added = new Instances(highestInstance(source) + 1);
  writeProperties(
    added,
    { definition: `#${definition}`, shape: `#${one('PRODUCT_DEFINITION_SHAPE')}`, context: `#${context}` },
    annotation.properties,
  );
  const text = source
    .replace(
      /FILE_NAME\([\s\S]*?\);/,
      `FILE_NAME(${encodeStepString(annotation.fileName)},${encodeStepString(annotation.time)},(''),(''),'','Stem Trace','');`,
    )
    .replace(/FILE_DESCRIPTION\([\s\S]*?\);/, "FILE_DESCRIPTION(('part'),'2;1');")
    .replace(/^#(\d+)\s*=\s*(?:PRODUCT|PRODUCT_DEFINITION_FORMATION)\([\s\S]*?\);/gm, (all, id: string) => {
      const record = replaced.get(Number(id));
      return record === undefined ? all : `#${id}=${record};`;
    })
    .replace(/ENDSEC;\s*END-ISO-10303-21;\s*$/, () => `${added.data()}ENDSEC;\nEND-ISO-10303-21;\n`);
  return new TextEncoder().encode(text);
}

function highestInstance(source: string): number {
  let highest = 0;
  for (const match of source.matchAll(/^#(\d+)\s*=/gm)) highest = Math.max(highest, Number(match[1]));
  return highest;
}
