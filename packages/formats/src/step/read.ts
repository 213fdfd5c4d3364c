import type { FileReading, ProductReading, PropertyValue, Source, UseReading } from '@stem-trace/core';
import { IDENTITY_PLACEMENT, stemOf } from '@stem-trace/core';
import { CONFIGURATION_TYPES } from './configurations.js';
import { StepError, lineAt } from './errors.js';
import { EntityTypes, indexStepFile, refOf, refsOf, textOf, type StepFile } from './index-file.js';
import { attachNames } from './attach-names.js';
import { isDesignFile } from './file-names.js';
import { documentProducts, LOCATOR_TYPES, type LocatorText, type NamedFile } from './locators.js';
import { UnitScale } from './placements.js';
import { readProperties } from './properties.js';
import { readUses, type LocatedUse } from './uses.js';

const FORMATIONS = [
  'PRODUCT_DEFINITION_FORMATION',
  'PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE',
] as const;
const DEFINITIONS = ['PRODUCT_DEFINITION', 'PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS'] as const;

const TYPES = new EntityTypes([
  'PRODUCT',
  ...FORMATIONS,
  ...DEFINITIONS,
  'PRODUCT_DEFINITION_CONTEXT',
  'PRODUCT_DEFINITION_SHAPE',
  'NEXT_ASSEMBLY_USAGE_OCCURRENCE',
  'MAKE_FROM_USAGE_OPTION',
  'PRODUCT_RELATED_PRODUCT_CATEGORY',
  'SHAPE_DEFINITION_REPRESENTATION',
  'CONTEXT_DEPENDENT_SHAPE_REPRESENTATION',
  'SHAPE_REPRESENTATION_RELATIONSHIP',
  'MAPPED_ITEM',
  'PROPERTY_DEFINITION_REPRESENTATION',
  ...LOCATOR_TYPES,
  ...CONFIGURATION_TYPES,
]);

/**
 * Reads the product structure of a STEP file: products, uses with placements, stated properties, and every other file
 * that it names. Geometry is passed over.
 *
 * @param bytes the whole file
 * @param fileName what the file is called, without folder; decides which product the file is about where several are
 *   used by nobody, and which names mean the file itself
 * @throws StepError with line and reason where the file is cut, malformed, refers to instances that do not
 *   exist, contains itself, or holds no product
 */
export function readStep(bytes: Uint8Array, fileName = ''): FileReading {
  return readStepForRewriting(bytes, fileName).reading;
}

/** A reading with the places of its strings. */
export interface LocatedReading {
  readonly file: StepFile;
  readonly reading: FileReading;
  /** Strings that name the file of a product of the reading, by the product's `ref`. */
  readonly locators: ReadonlyMap<number, readonly LocatorText[]>;
  /** Strings by which the file names itself. */
  readonly ownNames: readonly LocatorText[];
  /** Names of documents that are products; they are no parts, but their names may hold those of files. */
  readonly documents: ReadonlySet<number>;
  /** The uses of the reading that are components, in its order. */
  readonly uses: readonly LocatedUse[];
  readonly definitions: Definitions;
  readonly shapes: Shapes;
  readonly units: UnitScale;
  /** The products that an instance is about, for strings that repeat a name which several products have. */
  readonly ownersOf: (instance: number) => readonly number[];
}

/** As `readStep`, with what the rewriter needs besides. */
export function readStepForRewriting(bytes: Uint8Array, fileName = ''): LocatedReading {
  const file = indexStepFile(bytes, TYPES);
  const units = new UnitScale();
  const definitions = readDefinitions(file);
  const shapes = readShapes(file, definitions.productOf);
  const materials = readMaterials(file, definitions.productOf);
  const documents = readDocumentProducts(file, definitions);
  const properties = propertiesByProduct(file, definitions.productOf, units);
  const all = [...file.idsOf('PRODUCT'), ...file.references.map(({ id }) => id)].filter(
    (ref) => !materials.products.has(ref) && !documents.has(ref),
  );
  const named = attachNames(file, { refs: all, fileName, productOf: definitions.productOf, shapes });
  const refs = all.filter((ref) => !named.aliases.has(ref));
  const { externals } = named;
  const indexOf = new Map(refs.map((ref, index) => [ref, index]));
  for (const [ref, same] of named.aliases) indexOf.set(ref, indexOf.get(same) ?? -1);
  const located = readUses(file, definitions.productOf, indexOf, shapes, units).filter(
    // A file that refers outwards for a product has no say in what that product is made of.
    ({ use }) => !externals.has(refs[use.parent] ?? -1),
  );
  const uses = located.map(({ use }) => use);
  const parents = new Set(uses.map((use) => use.parent));
  const products = refs.map((ref, index): ProductReading => {
    const formation = definitions.formationOf.get(ref);
    const material = materials.of.get(ref);
    const external = externals.get(ref);
    return {
      ref,
      ...saidOf(file, ref, external),
      versionText: formation?.version ?? '',
      kind: parents.has(index) ? 'assembly' : 'part',
      source: formation?.source ?? 'unknown',
      properties: [
        ...(properties.get(ref) ?? []),
        ...(material ? [{ name: 'material', kind: 'text', text: material } as const] : []),
      ],
      ...(external ? nameOf(external) : {}),
    };
  });
  if (products.length === 0) throw new StepError('the file holds no product', 0);
  refuseCycles(products, uses, file);
  const root = chooseRoot(products, uses, stemOf(fileName));
  const others = named.others.map(({ file: other }) => fileOnly(file, other));
  return {
    file,
    reading: {
      format: 'step',
      schema: schemaOf(file),
      products: [...products, ...others.map(({ product }) => product)],
      root,
      uses: [
        ...uses,
        ...unusedExternals(products, uses).map((child): UseReading => ({
          parent: root,
          child,
          name: products[child]?.locator ?? '',
          placement: IDENTITY_PLACEMENT,
          relation: 'draws on',
        })),
        ...named.others.map(({ file: other, of }, at): UseReading => ({
          // What a file says of a product that lies elsewhere is still this file's to have at hand.
          parent: of === undefined || externals.has(of) ? root : (indexOf.get(of) ?? root),
          child: products.length + at,
          name: other.locator,
          placement: IDENTITY_PLACEMENT,
          relation: 'draws on',
        })),
      ],
      ...(others.some(({ unattached }) => unattached)
        ? { unattached: others.flatMap(({ unattached }) => unattached ?? []) }
        : {}),
    },
    locators: new Map([
      ...[...externals].map(([ref, { texts }]) => [ref, texts] as const),
      ...named.others.map(({ file: other }) => [other.ref, other.texts] as const),
    ]),
    ownNames: named.own.flatMap(({ texts }) => texts),
    documents,
    uses: located,
    definitions,
    shapes,
    units,
    ownersOf: ownersIn(file, definitions, shapes),
  };
}

function ownersIn(
  file: StepFile,
  { productOf, formationProduct }: Definitions,
  { subjectOf, productOfRepresentation }: Shapes,
): LocatedReading['ownersOf'] {
  const uses = new Set(file.idsOf('NEXT_ASSEMBLY_USAGE_OCCURRENCE'));
  return (instance) => {
    const subject = subjectOf.get(instance) ?? instance;
    const use = uses.has(subject) ? file.record(subject, 'NEXT_ASSEMBLY_USAGE_OCCURRENCE') : undefined;
    if (use)
      return [use.values[4], use.values[3]].flatMap((value) => productOf.get(refOf(value) ?? -1) ?? []);
    const product =
      productOf.get(subject) ?? formationProduct.get(instance) ?? productOfRepresentation.get(instance);
    return product === undefined ? [] : [product];
  };
}

/** Products that another file defines and that nothing here uses: what is named is needed, though nobody says for what. */
function unusedExternals(products: readonly ProductReading[], uses: readonly UseReading[]): number[] {
  const used = new Set(uses.map(({ child }) => child));
  return products.flatMap(({ locator }, at) => (locator !== undefined && !used.has(at) ? [at] : []));
}

/** Id, name and description; an instance that the REFERENCE section names has just its file to be called by. */
function saidOf(
  file: StepFile,
  ref: number,
  external: NamedFile | undefined,
): Pick<ProductReading, 'id' | 'name' | 'description'> {
  if (external && file.references.some(({ id }) => id === ref))
    return { id: stemOf(pathPart(external.locator)), name: '', description: '' };
  const values = file.record(ref, 'PRODUCT')?.values;
  return {
    id: clean(values?.[0]),
    name: clean(values?.[1]),
    description: meaningful(clean(values?.[2])),
  };
}

function pathPart(locator: string): string {
  return locator.replaceAll('\\', '/');
}

/** A locator, and how else the file writes it. */
function nameOf({ locator, texts }: NamedFile): Pick<ProductReading, 'locator' | 'alsoSaid'> {
  const others = new Set(texts.map(({ text }) => text).filter((text) => text !== locator));
  return { locator, ...(others.size === 0 ? {} : { alsoSaid: [...others] }) };
}

/** A file that the reading names without a product that it defines. */
function fileOnly(
  file: StepFile,
  named: NamedFile,
): { product: ProductReading; unattached?: { readonly line: number; readonly text: string } } {
  return {
    product: {
      ref: named.ref,
      id: '',
      name: '',
      description: '',
      versionText: '',
      kind: isDesignFile(named.locator) ? 'part' : 'document',
      source: 'unknown',
      properties: [],
      ...nameOf(named),
    },
    ...(named.definitions.length === 0
      ? { unattached: { line: lineAt(file.bytes, named.texts[0]?.start ?? 0), text: named.locator } }
      : {}),
  };
}

/**
 * Documents that are products: those that stand for a document, have a definition in the context of a document, or are
 * in the category `document` (ISO 10303-214 and -242, documents as products).
 */
function readDocumentProducts(file: StepFile, { productOf, formationProduct }: Definitions): Set<number> {
  const products = new Set<number>();
  for (const [, ref] of documentProducts(file)) {
    const product = formationProduct.get(ref) ?? productOf.get(ref) ?? ref;
    products.add(product);
  }
  const contexts = new Set(
    file.idsOf('PRODUCT_DEFINITION_CONTEXT').filter((id) => {
      const said = textOf(file.record(id, 'PRODUCT_DEFINITION_CONTEXT')?.values[0]) ?? '';
      return /^(digital|physical) document definition$/i.test(said.trim());
    }),
  );
  if (contexts.size > 0)
    for (const [definition, product] of productOf)
      if (contexts.has(refOf(file.records(definition)[0]?.values[3]) ?? -1)) products.add(product);
  for (const id of file.idsOf('PRODUCT_RELATED_PRODUCT_CATEGORY')) {
    const values = file.record(id, 'PRODUCT_RELATED_PRODUCT_CATEGORY')?.values;
    if (textOf(values?.[0])?.trim().toLowerCase() !== 'document') continue;
    for (const product of refsOf(values?.[2])) products.add(product);
  }
  return products;
}

export interface Definitions {
  /** Product by product definition. */
  readonly productOf: ReadonlyMap<number, number>;
  /** Product by formation. */
  readonly formationProduct: ReadonlyMap<number, number>;
  readonly formationOf: ReadonlyMap<number, { version: string; source: Source }>;
}

function readDefinitions(file: StepFile): Definitions {
  const productOfFormation = new Map<number, number>();
  const formationOf = new Map<number, { version: string; source: Source }>();
  for (const type of FORMATIONS) {
    for (const id of file.idsOf(type)) {
      const values = file.record(id, type)?.values;
      const product = refOf(values?.[2]);
      if (product === undefined || !file.record(product, 'PRODUCT')) continue;
      productOfFormation.set(id, product);
      const word = values?.[3]?.kind === 'word' ? values[3].word : '';
      const source = word === 'BOUGHT' ? 'bought' : word === 'MADE' ? 'made' : 'unknown';
      formationOf.set(product, { version: meaningful(clean(values?.[0])), source });
    }
  }
  const productOf = new Map<number, number>();
  for (const type of DEFINITIONS) {
    for (const id of file.idsOf(type)) {
      const formation = refOf(file.record(id, type)?.values[2]);
      if (formation === undefined) continue;
      file.require(formation, id);
      const product = productOfFormation.get(formation);
      if (product !== undefined) productOf.set(id, product);
    }
  }
  // What another file defines stands for itself.
  for (const { id } of file.references) productOf.set(id, id);
  return { productOf, formationProduct: productOfFormation, formationOf };
}

export interface Shapes {
  /** What a product_definition_shape describes: a product definition or a use. */
  readonly subjectOf: ReadonlyMap<number, number>;
  /** Representations of a product, with those that a plain relationship ties to them. */
  readonly representationsOf: ReadonlyMap<number, ReadonlySet<number>>;
  readonly productOfRepresentation: ReadonlyMap<number, number>;
}

function readShapes(file: StepFile, productOf: ReadonlyMap<number, number>): Shapes {
  const subjectOf = new Map<number, number>();
  for (const id of file.idsOf('PRODUCT_DEFINITION_SHAPE')) {
    const subject = refOf(file.record(id, 'PRODUCT_DEFINITION_SHAPE')?.values[2]);
    if (subject !== undefined) subjectOf.set(id, subject);
  }
  const representationsOf = new Map<number, Set<number>>();
  const productOfRepresentation = new Map<number, number>();
  for (const id of file.idsOf('SHAPE_DEFINITION_REPRESENTATION')) {
    const values = file.record(id, 'SHAPE_DEFINITION_REPRESENTATION')?.values;
    const product = productOf.get(subjectOf.get(refOf(values?.[0]) ?? -1) ?? -1);
    const representation = refOf(values?.[1]);
    if (product === undefined || representation === undefined) continue;
    representationsOf.set(product, (representationsOf.get(product) ?? new Set()).add(representation));
    productOfRepresentation.set(representation, product);
  }
  for (const id of file.idsOf('SHAPE_REPRESENTATION_RELATIONSHIP')) {
    const records = file.records(id);
    if (records.length !== 1) continue;
    const [one, two] = [refOf(records[0]?.values[2]), refOf(records[0]?.values[3])];
    for (const [known, other] of [
      [one, two],
      [two, one],
    ]) {
      const product = known === undefined ? undefined : productOfRepresentation.get(known);
      if (product !== undefined && other !== undefined) representationsOf.get(product)?.add(other);
    }
  }
  return { subjectOf, representationsOf, productOfRepresentation };
}

/** Materials are products too (ISO 10303-44 make_from_usage_option, category `raw material`), but not parts. */
function readMaterials(
  file: StepFile,
  productOf: ReadonlyMap<number, number>,
): { products: ReadonlySet<number>; of: ReadonlyMap<number, string> } {
  const products = new Set<number>();
  for (const id of file.idsOf('PRODUCT_RELATED_PRODUCT_CATEGORY')) {
    const values = file.record(id, 'PRODUCT_RELATED_PRODUCT_CATEGORY')?.values;
    if (textOf(values?.[0])?.toLowerCase() !== 'raw material') continue;
    for (const product of refsOf(values?.[2])) products.add(product);
  }
  const of = new Map<number, string>();
  for (const id of file.idsOf('MAKE_FROM_USAGE_OPTION')) {
    const values = file.record(id, 'MAKE_FROM_USAGE_OPTION')?.values;
    const made = productOf.get(refOf(values?.[3]) ?? -1);
    const from = productOf.get(refOf(values?.[4]) ?? -1);
    if (made === undefined || from === undefined || !products.has(from)) continue;
    const material = file.record(from, 'PRODUCT');
    of.set(made, [clean(material?.values[1]), clean(material?.values[0])].filter(Boolean).join(', '));
  }
  return { products, of };
}

function propertiesByProduct(
  file: StepFile,
  productOf: ReadonlyMap<number, number>,
  units: UnitScale,
): Map<number, PropertyValue[]> {
  const found = new Map<number, Map<string, PropertyValue>>();
  for (const [target, values] of readProperties(file, units)) {
    const shape = file.record(target, 'PRODUCT_DEFINITION_SHAPE');
    const product = productOf.get(target) ?? productOf.get(refOf(shape?.values[2]) ?? -1);
    if (product === undefined) continue;
    const own = found.get(product) ?? new Map<string, PropertyValue>();
    found.set(product, own);
    for (const value of values) if (!own.has(value.name)) own.set(value.name, value);
  }
  return new Map([...found].map(([product, own]) => [product, [...own.values()]]));
}

function refuseCycles(
  products: readonly ProductReading[],
  uses: readonly UseReading[],
  file: StepFile,
): void {
  const children = products.map((): number[] => []);
  for (const use of uses) children[use.parent]?.push(use.child);
  const state = new Uint8Array(products.length); // 0 unseen, 1 on the way down, 2 done
  for (let start = 0; start < products.length; start++) {
    if (state[start]) continue;
    const stack = [{ node: start, next: 0 }];
    state[start] = 1;
    while (stack.length > 0) {
      const top = stack[stack.length - 1];
      if (!top) break;
      const child = children[top.node]?.[top.next++];
      if (child === undefined) {
        state[top.node] = 2;
        stack.pop();
      } else if (state[child] === 1) {
        const product = products[child];
        throw new StepError(
          `product '${product?.id || product?.name}' is used inside itself`,
          file.lineOf(product?.ref ?? -1),
        );
      } else if (state[child] === 0) {
        state[child] = 1;
        stack.push({ node: child, next: 0 });
      }
    }
  }
}

function chooseRoot(
  products: readonly ProductReading[],
  uses: readonly UseReading[],
  baseName: string,
): number {
  const used = new Set(uses.map((use) => use.child));
  const own = products.flatMap((product, index) => (product.locator === undefined ? [index] : []));
  const tops = own.filter((index) => !used.has(index));
  const sameName = tops.find((index) => products[index]?.id.toLowerCase() === baseName.toLowerCase());
  const assembly = tops.find((index) => products[index]?.kind === 'assembly');
  return sameName ?? assembly ?? tops[0] ?? own[0] ?? 0;
}

function schemaOf(file: StepFile): string {
  const schema = file.header.find((record) => record.type === 'FILE_SCHEMA')?.values[0];
  return schema?.kind === 'list' ? (textOf(schema.items[0])?.split('{')[0]?.trim() ?? '') : '';
}

function clean(value: Parameters<typeof textOf>[0]): string {
  return textOf(value)?.trim() ?? '';
}

/** Fillers that systems write where they have nothing to say. */
function meaningful(text: string): string {
  return /^(none|not specified|last_version|unknown|\$)$/i.test(text) ? '' : text;
}
