import { sayValue, type Placement, type PropertyValue, type Source } from '@stem-trace/core';
import { encodeStepString } from './strings.js';

export interface StepAssembly {
  readonly id: string;
  readonly name: string;
  readonly description?: string;
  readonly version?: string;
  readonly source?: Source;
  readonly properties?: readonly PropertyValue[];
  readonly fileName: string;
  /** ISO 8601, for the header. */
  readonly time: string;
  /** Products used, each defined by the file that its locator names. */
  readonly children: readonly { readonly id: string; readonly name: string; readonly locator: string }[];
  /** Occurrences; `child` is an index into `children`, placements in millimetres. */
  readonly uses: readonly {
    readonly child: number;
    readonly name: string;
    readonly placement: Placement;
    /** Reference designator; none where absent. */
    readonly designator?: string;
    /** Names of the configurations that it belongs to; all where absent or empty. */
    readonly configurations?: readonly string[];
  }[];
}

/**
 * Writes one node of a product structure as a STEP file of its own (ISO 10303-214), whose parts are external
 * references after the CAx-IF recommended practice: document file, applied document reference to the product
 * definition, `external definition` property to its shape, and the external identification with its source.
 */
export function writeStepAssembly(assembly: StepAssembly): Uint8Array {
  const out = new Instances();
  const context = out.add(`APPLICATION_CONTEXT('automotive design')`);
  out.add(`APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2001,${context})`);
  const productContext = out.add(`PRODUCT_CONTEXT('',${context},'mechanical')`);
  const definitionContext = out.add(`PRODUCT_DEFINITION_CONTEXT('part definition',${context},'design')`);
  const geometry = writeGeometricContext(out);
  const scope = { out, productContext, definitionContext, geometry };

  const top = writeProduct(scope, { ...assembly, items: `(${writeAxis(out)})` });
  writeProperties(
    out,
    { definition: top.definition, shape: top.shape, context: geometry },
    assembly.properties ?? [],
  );
  const children = assembly.children.map((child) => {
    const axis = writeAxis(out);
    const written = writeProduct(scope, { ...child, items: `(${axis})` });
    writeExternalFile(out, written, child.locator);
    return { ...written, axis };
  });
  const configurations = new ConfigurationWriter(out, productContext, top.formation);
  assembly.uses.forEach((use, index) => {
    const child = children[use.child];
    if (!child) throw new RangeError(`use ${index} names child ${use.child} of ${children.length}`);
    const id = out.add(
      `NEXT_ASSEMBLY_USAGE_OCCURRENCE('${index + 1}',${text(use.name)},'',${top.definition},${child.definition},${use.designator === undefined ? '$' : text(use.designator)})`,
    );
    const shape = out.add(`PRODUCT_DEFINITION_SHAPE('Placement','Placement of an item',${id})`);
    const target = writeAxis(out, use.placement);
    const transformation = out.add(`ITEM_DEFINED_TRANSFORMATION('','',${child.axis},${target})`);
    const relation = out.add(
      `(REPRESENTATION_RELATIONSHIP('','',${child.representation},${top.representation})` +
        `REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(${transformation})SHAPE_REPRESENTATION_RELATIONSHIP())`,
    );
    out.add(`CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(${relation},${shape})`);
    for (const name of use.configurations ?? []) configurations.add(name, id);
  });
  return out.file(assembly);
}

const text = encodeStepString;

/** Says which uses belong to which configurations of an assembly; see `configurations.ts` for what is written. */
class ConfigurationWriter {
  private readonly designs = new Map<string, string>();

  constructor(
    private readonly out: Instances,
    private readonly productContext: string,
    private readonly formation: string,
  ) {}

  add(name: string, use: string): void {
    let design = this.designs.get(name);
    if (design === undefined) {
      const concept = this.out.add(`PRODUCT_CONCEPT(${text(name)},${text(name)},'',${this.productContext})`);
      const item = this.out.add(`CONFIGURATION_ITEM(${text(name)},${text(name)},$,${concept},$)`);
      design = this.out.add(`CONFIGURATION_DESIGN(${item},${this.formation})`);
      this.designs.set(name, design);
    }
    this.out.add(`CONFIGURATION_EFFECTIVITY('',${use},${design})`);
  }
}

/** Where instances are written to. */
export interface InstanceSink {
  /** @returns the reference to the new instance, e.g. `#12` */
  add(record: string): string;
}

/** Collects instances in order and numbers them. */
export class Instances implements InstanceSink {
  private readonly lines: string[] = [];

  constructor(private readonly first = 1) {}

  add(record: string): string {
    this.lines.push(record);
    return `#${this.first + this.lines.length - 1}`;
  }

  data(): string {
    return this.lines.map((line, index) => `#${this.first + index}=${line};\n`).join('');
  }

  file(header: { readonly fileName: string; readonly time: string; readonly name: string }): Uint8Array {
    return new TextEncoder().encode(
      `ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('assembly with external references'),'2;1');\n` +
        `FILE_NAME(${text(header.fileName)},${text(header.time)},(''),(''),'','Stem Trace','');\n` +
        `FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n${this.data()}ENDSEC;\nEND-ISO-10303-21;\n`,
    );
  }
}

/** Millimetres, radians, three dimensions. */
export function writeGeometricContext(out: InstanceSink): string {
  const length = out.add('(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))');
  const angle = out.add('(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))');
  const solid = out.add('(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())');
  return out.add(
    `(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNIT_ASSIGNED_CONTEXT((${length},${angle},${solid}))REPRESENTATION_CONTEXT('','3D'))`,
  );
}

export interface WrittenProduct {
  readonly product: string;
  readonly formation: string;
  readonly definition: string;
  readonly shape: string;
  readonly representation: string;
}

/** A product with its definition and a representation of its shape (ISO 10303-41). */
export function writeProduct(
  scope: {
    readonly out: InstanceSink;
    readonly productContext: string;
    readonly definitionContext: string;
    readonly geometry: string;
  },
  product: {
    readonly id: string;
    readonly name: string;
    readonly description?: string;
    readonly version?: string;
    readonly source?: Source;
    readonly items: string;
  },
): WrittenProduct {
  const { out } = scope;
  const id = out.add(
    `PRODUCT(${text(product.id)},${text(product.name)},${text(product.description ?? '')},(${scope.productContext}))`,
  );
  out.add(`PRODUCT_RELATED_PRODUCT_CATEGORY('part',$,(${id}))`);
  const formation = out.add(writeFormation(id, product.version ?? '', product.source ?? 'unknown'));
  const definition = out.add(`PRODUCT_DEFINITION('design','',${formation},${scope.definitionContext})`);
  const shape = out.add(`PRODUCT_DEFINITION_SHAPE('','',${definition})`);
  const representation = out.add(`SHAPE_REPRESENTATION('',${product.items},${scope.geometry})`);
  out.add(`SHAPE_DEFINITION_REPRESENTATION(${shape},${representation})`);
  return { product: id, formation, definition, shape, representation };
}

/** A formation, with the source where it is known (ISO 10303-44 make_or_buy). */
export function writeFormation(product: string, version: string, source: Source): string {
  if (source === 'unknown') return `PRODUCT_DEFINITION_FORMATION(${text(version)},'',${product})`;
  return `PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE(${text(version)},'',${product},.${source.toUpperCase()}.)`;
}

/** Says that another file defines a product. */
export function writeExternalFile(out: InstanceSink, product: WrittenProduct, locator: string): void {
  const type = out.add(`DOCUMENT_TYPE('geometry')`);
  const document = out.add(`DOCUMENT_FILE(${text(locator)},'','',${type},'',$)`);
  out.add(`DOCUMENT_REPRESENTATION_TYPE('digital',${document})`);
  const definition = out.add(`PROPERTY_DEFINITION('external definition','',${document})`);
  out.add(`PROPERTY_DEFINITION_REPRESENTATION(${definition},${product.representation})`);
  const role = out.add(`IDENTIFICATION_ROLE('external document id and location',$)`);
  const source = out.add(`EXTERNAL_SOURCE(IDENTIFIER(''))`);
  out.add(`APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT(${text(locator)},${role},${source},(${document}))`);
  const reference = out.add(`APPLIED_DOCUMENT_REFERENCE(${document},'',(${product.definition}))`);
  const object = out.add(`OBJECT_ROLE('mandatory',$)`);
  out.add(`ROLE_ASSOCIATION(${object},${reference})`);
}

/**
 * An axis placement (ISO 10303-42).
 *
 * @param placement in the units of the representation that it is for; the origin where absent
 */
export function writeAxis(out: InstanceSink, placement?: Placement): string {
  const at = (index: number, otherwise: number): number => placement?.[index] ?? otherwise;
  const point = out.add(`CARTESIAN_POINT('',(${real(at(3, 0))},${real(at(7, 0))},${real(at(11, 0))}))`);
  const z = out.add(`DIRECTION('',(${real(at(2, 0))},${real(at(6, 0))},${real(at(10, 1))}))`);
  const x = out.add(`DIRECTION('',(${real(at(0, 1))},${real(at(4, 0))},${real(at(8, 0))}))`);
  return out.add(`AXIS2_PLACEMENT_3D('',${point},${z},${x})`);
}

/** Writes stated properties of a product: geometric validation properties, the rest as user-defined attributes. */
export function writeProperties(
  out: InstanceSink,
  product: { readonly definition: string; readonly shape: string; readonly context: string },
  properties: readonly PropertyValue[],
): void {
  const lengthUnit = '(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))';
  const state = (kind: string, subject: string, representation: string, item: string): void => {
    const definition = out.add(`PROPERTY_DEFINITION('${kind}','',${subject})`);
    const holder = out.add(`REPRESENTATION('${representation}',(${item}),${product.context})`);
    out.add(`PROPERTY_DEFINITION_REPRESENTATION(${definition},${holder})`);
  };
  const geometric = 'geometric validation property';
  for (const property of properties) {
    if (property.kind === 'number' && (property.name === 'volume' || property.name === 'surface')) {
      const [measure, label, power] =
        property.name === 'volume' ? ['VOLUME_MEASURE', 'volume', 3] : ['AREA_MEASURE', 'surface area', 2];
      const unit = out.add(
        `DERIVED_UNIT((${out.add(`DERIVED_UNIT_ELEMENT(${out.add(lengthUnit)},${power}.)`)}))`,
      );
      const item = out.add(
        `MEASURE_REPRESENTATION_ITEM('${label} measure',${measure}(${real(property.value)}),${unit})`,
      );
      state(geometric, product.shape, String(label), item);
    } else if (property.kind === 'number') {
      const unit = out.add('(MASS_UNIT()NAMED_UNIT(*)SI_UNIT(.KILO.,.GRAM.))');
      const measure = property.unit === 'kg' ? 'MASS_MEASURE' : 'POSITIVE_RATIO_MEASURE';
      const item = out.add(
        `MEASURE_REPRESENTATION_ITEM(${text(property.name)},${measure}(${real(property.value)}),${unit})`,
      );
      state('user defined attribute', product.definition, 'user defined attribute', item);
    } else {
      const item = out.add(
        `DESCRIPTIVE_REPRESENTATION_ITEM(${text(property.name)},${text(sayValue(property))})`,
      );
      state('user defined attribute', product.definition, 'user defined attribute', item);
    }
  }
}

/** A real as Part 21 wants it: always with a point. */
function real(value: number): string {
  if (!Number.isFinite(value)) throw new RangeError(`not a finite number: ${value}`);
  const [mantissa = '0', exponent] = String(value).split('e');
  return `${mantissa.includes('.') ? mantissa : `${mantissa}.`}${exponent === undefined ? '' : `E${Number(exponent)}`}`;
}
