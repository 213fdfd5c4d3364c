import { IDENTITY_PLACEMENT, type UseReading } from '@stem-trace/core';
import { readConfigurations } from './configurations.js';
import { StepError } from './errors.js';
import { refOf, refsOf, textOf, type StepFile } from './index-file.js';
import { placementOfMappedItem, placementOfRelation, type UnitScale } from './placements.js';
import type { Shapes } from './read.js';
import type { StepValue } from './records.js';

/** A use, and where the file says it. */
export interface LocatedUse {
  /** The NEXT_ASSEMBLY_USAGE_OCCURRENCE. */
  readonly id: number;
  readonly use: UseReading;
  /** The MAPPED_ITEM that places it, where no relation of representations does. */
  readonly mappedItem?: number;
}

/**
 * Every use of one product in another, in the order in which the file says them (ISO 10303-44 next_assembly_usage_occurrence).
 *
 * @param productOf product by product definition
 * @param indexOf place of a product in the reading; uses whose ends have none are passed over
 * @throws StepError where a use names something that is no product definition
 */
export function readUses(
  file: StepFile,
  productOf: ReadonlyMap<number, number>,
  indexOf: ReadonlyMap<number, number>,
  shapes: Shapes,
  units: UnitScale,
): LocatedUse[] {
  const relationOf = new Map<number, number>();
  for (const id of file.idsOf('CONTEXT_DEPENDENT_SHAPE_REPRESENTATION')) {
    const values = file.record(id, 'CONTEXT_DEPENDENT_SHAPE_REPRESENTATION')?.values;
    const use = shapes.subjectOf.get(refOf(values?.[1]) ?? -1);
    const relation = refOf(values?.[0]);
    if (use !== undefined && relation !== undefined) relationOf.set(use, relation);
  }
  const mapped = new MappedPlacements(file, shapes, units);
  const configurations = readConfigurations(file);
  return file
    .idsOf('NEXT_ASSEMBLY_USAGE_OCCURRENCE')
    .map((id) => {
      const values = file.record(id, 'NEXT_ASSEMBLY_USAGE_OCCURRENCE')?.values ?? [];
      const parent = productAt(file, id, refOf(values[3]), productOf);
      const child = productAt(file, id, refOf(values[4]), productOf);
      const relation = relationOf.get(id);
      const mappedItem = relation === undefined ? mapped.next(parent, child) : undefined;
      const childShapes = shapes.representationsOf.get(child) ?? new Set<number>();
      const placement =
        relation !== undefined
          ? placementOfRelation(file, relation, childShapes, units)
          : (mapped.placementOf(mappedItem, parent) ?? IDENTITY_PLACEMENT);
      const use: UseReading = {
        parent: indexOf.get(parent) ?? -1,
        child: indexOf.get(child) ?? -1,
        name: occurrenceName(values[0], values[1], values[2], values[5]),
        placement,
        ...designatorOf(values[5]),
        ...(configurations.has(id) ? { configurations: configurations.get(id) ?? [] } : {}),
      };
      return { id, use, ...(mappedItem === undefined ? {} : { mappedItem }) };
    })
    .filter(({ use }) => use.parent >= 0 && use.child >= 0);
}

function productAt(
  file: StepFile,
  use: number,
  definition: number | undefined,
  productOf: ReadonlyMap<number, number>,
): number {
  if (definition === undefined)
    throw new StepError(`use #${use} names no product definition`, file.lineOf(use));
  file.require(definition, use);
  const product = productOf.get(definition);
  if (product === undefined)
    throw new StepError(
      `use #${use} refers to #${definition}, which is not a product definition`,
      file.lineOf(use),
    );
  return product;
}

/** ISO 10303-44, `assembly_component_usage.reference_designator`. */
function designatorOf(value: StepValue | undefined): { readonly designator?: string } {
  const designator = clean(value);
  return designator ? { designator } : {};
}

/** The reference designator where there is one, else the most telling of name, id and description. */
function occurrenceName(...values: readonly (StepValue | undefined)[]): string {
  const [id, name, description, designator] = values.map((value) => clean(value));
  if (designator) return designator;
  return name && !/^next assembly/i.test(name) ? name : [description, id].filter(Boolean).join(' ');
}

/** Placements of uses that come as mapped items in the parent's representation: taken in order, per child. */
class MappedPlacements {
  private queues: Map<string, { readonly items: number[]; next: number }> | undefined;

  constructor(
    private readonly file: StepFile,
    private readonly shapes: Shapes,
    private readonly units: UnitScale,
  ) {}

  /** The mapped item that places the next use of a child. */
  next(parent: number, child: number): number | undefined {
    this.queues ??= this.build();
    const queue = this.queues.get(`${parent} ${child}`);
    return queue?.items[queue.next++];
  }

  placementOf(item: number | undefined, parent: number): readonly number[] | undefined {
    const record = item === undefined ? undefined : this.file.record(item, 'MAPPED_ITEM');
    const [representation] = this.shapes.representationsOf.get(parent) ?? [];
    return record && representation !== undefined
      ? placementOfMappedItem(this.file, record, representation, this.units)
      : undefined;
  }

  private build(): Map<string, { readonly items: number[]; next: number }> {
    const queues = new Map<string, { readonly items: number[]; next: number }>();
    const productOfShape = new Map<number, number>();
    for (const [product, representations] of this.shapes.representationsOf)
      for (const id of representations) productOfShape.set(id, product);
    const isMapped = new Set(this.file.idsOf('MAPPED_ITEM'));
    for (const [representation, parent] of productOfShape) {
      for (const item of refsOf(this.file.records(representation)[0]?.values[1])) {
        if (!isMapped.has(item)) continue;
        const map = refOf(this.file.record(item, 'MAPPED_ITEM')?.values[1]);
        const source =
          map === undefined ? undefined : refOf(this.file.record(map, 'REPRESENTATION_MAP')?.values[1]);
        const child = source === undefined ? undefined : productOfShape.get(source);
        if (child === undefined) continue;
        const key = `${parent} ${child}`;
        const queue = queues.get(key);
        if (queue) queue.items.push(item);
        else queues.set(key, { items: [item], next: 0 });
      }
    }
    return queues;
  }
}

function clean(value: StepValue | undefined): string {
  return textOf(value)?.trim() ?? '';
}
