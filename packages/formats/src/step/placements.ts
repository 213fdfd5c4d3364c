import { IDENTITY_PLACEMENT, invertRigid, multiply, type Placement } from '@stem-trace/core';
import { numberOf, numbersOf, refOf, refsOf, textOf, type StepFile } from './index-file.js';
import type { StepRecord } from './records.js';

type Vector = readonly [number, number, number];

/**
 * Placement of the child of a use in its parent (ISO 10303-44 clause 4.4, ISO 10303-43
 * item_defined_transformation): the frame in the parent times the inverse of the frame in the child.
 * Exporters disagree on which of the two representations comes first, so the child's own representations
 * decide which frame is which.
 *
 * @param relation instance of the representation relationship with its transformation
 * @param childRepresentations instances that are known to be shapes of the child
 */
export function placementOfRelation(
  file: StepFile,
  relation: number,
  childRepresentations: ReadonlySet<number>,
  units: UnitScale,
): Placement {
  const base = file.record(relation, 'REPRESENTATION_RELATIONSHIP', 'SHAPE_REPRESENTATION_RELATIONSHIP');
  const withTransformation = file.record(relation, 'REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION');
  const operator = refOf(withTransformation?.values.at(-1));
  if (!base || operator === undefined) return IDENTITY_PLACEMENT;
  const first = refOf(base.values[2]);
  const second = refOf(base.values[3]);
  const swapped = childComesSecond(file, relation, childRepresentations);
  const child = swapped ? second : first;
  const parent = swapped ? first : second;

  const defined = file.record(operator, 'ITEM_DEFINED_TRANSFORMATION');
  if (defined) {
    const one = refOf(defined.values[2]);
    const two = refOf(defined.values[3]);
    const inChild = frame(file, swapped ? two : one, units.of(file, child));
    const inParent = frame(file, swapped ? one : two, units.of(file, parent));
    return multiply(inParent, invertRigid(inChild));
  }
  const cartesian = file.record(operator, 'CARTESIAN_TRANSFORMATION_OPERATOR_3D');
  if (!cartesian) return IDENTITY_PLACEMENT;
  const placed = cartesianOperator(file, operator, units.of(file, parent));
  return swapped ? invertRigid(placed) : placed;
}

/** Whether the second of two related representations is the child's, as some exporters have it. */
export function childComesSecond(
  file: StepFile,
  relation: number,
  childRepresentations: ReadonlySet<number>,
): boolean {
  const base = file.record(relation, 'REPRESENTATION_RELATIONSHIP', 'SHAPE_REPRESENTATION_RELATIONSHIP');
  const first = refOf(base?.values[2]);
  const second = refOf(base?.values[3]);
  return (
    second !== undefined &&
    childRepresentations.has(second) &&
    !(first !== undefined && childRepresentations.has(first))
  );
}

/** Placement that a mapped item gives (ISO 10303-43 mapped_item): target frame times inverse of the origin. */
export function placementOfMappedItem(
  file: StepFile,
  mapped: StepRecord,
  parent: number,
  units: UnitScale,
): Placement {
  const map = refOf(mapped.values[1]);
  const mapRecord = map === undefined ? undefined : file.record(map, 'REPRESENTATION_MAP');
  const origin = frame(file, refOf(mapRecord?.values[0]), units.of(file, refOf(mapRecord?.values[1])));
  const targetId = refOf(mapped.values[2]);
  const target =
    targetId !== undefined && file.record(targetId, 'CARTESIAN_TRANSFORMATION_OPERATOR_3D')
      ? cartesianOperator(file, targetId, units.of(file, parent))
      : frame(file, targetId, units.of(file, parent));
  return multiply(target, invertRigid(origin));
}

/** Frame of an axis2_placement_3d as a matrix, in millimetres; undefined where the instance is none. */
export function placementOfFrame(file: StepFile, id: number, scale: number): Placement | undefined {
  return file.record(id, 'AXIS2_PLACEMENT_3D') ? frame(file, id, scale) : undefined;
}

/** Frame of an axis2_placement_3d as a matrix, in millimetres (ISO 10303-42 clause 4.4.19). */
function frame(file: StepFile, id: number | undefined, scale: number): Placement {
  const record = id === undefined ? undefined : file.record(id, 'AXIS2_PLACEMENT_3D');
  if (!record) return IDENTITY_PLACEMENT;
  const origin = vector(file, refOf(record.values[1])) ?? [0, 0, 0];
  return matrix(vector(file, refOf(record.values[2])), vector(file, refOf(record.values[3])), origin, scale);
}

function cartesianOperator(file: StepFile, id: number, scale: number): Placement {
  const record = file.record(id, 'CARTESIAN_TRANSFORMATION_OPERATOR_3D', 'CARTESIAN_TRANSFORMATION_OPERATOR');
  const refs =
    record?.values.flatMap((value) =>
      value.kind === 'none' || value.kind === 'ref' ? [refOf(value)] : [],
    ) ?? [];
  // Attributes in order: axis1 (x), axis2 (y), local_origin, [scale], axis3 (z).
  const [x, , origin, ...rest] = refs;
  return matrix(vector(file, rest.at(-1)), vector(file, x), vector(file, origin) ?? [0, 0, 0], scale);
}

function vector(file: StepFile, id: number | undefined): Vector | undefined {
  const record = id === undefined ? undefined : file.record(id, 'CARTESIAN_POINT', 'DIRECTION');
  const [x = 0, y = 0, z = 0] = numbersOf(record?.values[1]);
  return record ? [x, y, z] : undefined;
}

/** Right-handed frame from a z direction and an approximate x direction (ISO 10303-42 build_axes). */
function matrix(z: Vector | undefined, x: Vector | undefined, origin: Vector, scale: number): Placement {
  const zAxis = normalise(z ?? [0, 0, 1]) ?? [0, 0, 1];
  const hint = x ?? (Math.abs(zAxis[0]) > 0.999 ? [0, 1, 0] : [1, 0, 0]);
  const along = dot(hint, zAxis);
  const xAxis = normalise([
    hint[0] - along * zAxis[0],
    hint[1] - along * zAxis[1],
    hint[2] - along * zAxis[2],
  ]) ?? [1, 0, 0];
  const yAxis: Vector = [
    zAxis[1] * xAxis[2] - zAxis[2] * xAxis[1],
    zAxis[2] * xAxis[0] - zAxis[0] * xAxis[2],
    zAxis[0] * xAxis[1] - zAxis[1] * xAxis[0],
  ];
  return [0, 1, 2].flatMap((i) => [xAxis[i] ?? 0, yAxis[i] ?? 0, zAxis[i] ?? 0, (origin[i] ?? 0) * scale]);
}

function normalise(v: Vector): Vector | undefined {
  const length = Math.hypot(...v);
  return length > 1e-12 ? [v[0] / length, v[1] / length, v[2] / length] : undefined;
}

function dot(a: Vector, b: Vector): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** Length units of representations, as millimetres per unit; remembered per context. */
export class UnitScale {
  private readonly known = new Map<number, number>();
  /** By representation: one may have a hundred thousand items, each of which asks. */
  private readonly asked = new Map<number, number>();

  /** Millimetres per length unit of a representation's context; 1 where nothing is said. */
  of(file: StepFile, representation: number | undefined): number {
    if (representation === undefined) return 1;
    const known = this.asked.get(representation) ?? this.workOut(file, representation);
    this.asked.set(representation, known);
    return known;
  }

  private workOut(file: StepFile, representation: number): number {
    const context = refOf(file.records(representation)[0]?.values[2]);
    return context === undefined ? 1 : this.ofContext(file, context);
  }

  ofContext(file: StepFile, context: number): number {
    const known = this.known.get(context);
    if (known !== undefined) return known;
    const assigned = file.record(context, 'GLOBAL_UNIT_ASSIGNED_CONTEXT');
    let scale = 1;
    for (const unit of refsOf(assigned?.values[0])) {
      if (file.record(unit, 'LENGTH_UNIT')) scale = lengthUnit(file, unit, 0);
    }
    this.known.set(context, scale);
    return scale;
  }
}

const PREFIX_EXPONENTS: Readonly<Record<string, number>> = {
  EXA: 18,
  PETA: 15,
  TERA: 12,
  GIGA: 9,
  MEGA: 6,
  KILO: 3,
  HECTO: 2,
  DECA: 1,
  DECI: -1,
  CENTI: -2,
  MILLI: -3,
  MICRO: -6,
  NANO: -9,
  PICO: -12,
  FEMTO: -15,
  ATTO: -18,
};

/** Millimetres per unit of a length unit (ISO 10303-41 si_unit, conversion_based_unit). */
export function lengthUnit(file: StepFile, id: number, depth: number): number {
  if (depth > 8) return 1;
  const si = file.record(id, 'SI_UNIT');
  if (si) {
    const prefix = si.values.find((value) => value.kind === 'word' && value.word in PREFIX_EXPONENTS);
    return 1000 * 10 ** (prefix?.kind === 'word' ? (PREFIX_EXPONENTS[prefix.word] ?? 0) : 0);
  }
  const conversion = file.record(id, 'CONVERSION_BASED_UNIT');
  const factor = refOf(conversion?.values.at(-1));
  const measure = factor === undefined ? undefined : file.records(factor)[0];
  const value = numberOf(measure?.values[0]);
  const unit = refOf(measure?.values[1]);
  if (value === undefined || unit === undefined)
    return textOf(conversion?.values[0])?.toUpperCase() === 'INCH' ? 25.4 : 1;
  return value * lengthUnit(file, unit, depth + 1);
}
