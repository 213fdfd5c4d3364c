/**
 * Other structure for a stored STEP file: uses taken out, exchanged and added, as text. What is not concerned stays byte for
 * byte, geometry above all; the place of an exchanged use stays, and what is said about the use stays with it.
 *
 * Sources: ISO 10303-44 next_assembly_usage_occurrence, ISO 10303-43 context_dependent_shape_representation and mapped_item,
 * ISO 10303-21:2016 clause 10; placeholders follow the CAx-IF recommended practice for external references.
 */
import {
  addTo,
  IDENTITY_PLACEMENT,
  type FileReading,
  type Placement,
  type UseReading,
} from '@stem-trace/core';
import { Eraser } from './eraser.js';
import { StepError } from './errors.js';
import { refOf, refsOf, textOf, type StepFile } from './index-file.js';
import { LOCATOR_TYPES } from './locators.js';
import { childComesSecond, placementOfFrame } from './placements.js';
import { readStep, readStepForRewriting, type LocatedReading } from './read.js';
import { aboutAnother } from './renames.js';
import { StatementGraph } from './statements.js';
import { encodeStepString } from './strings.js';
import type { LocatedUse } from './uses.js';
import {
  writeAxis,
  writeExternalFile,
  writeGeometricContext,
  writeProduct,
  type InstanceSink,
  type WrittenProduct,
} from './write.js';

/** What a use leads to: a product that the file has, by its `ref`, or one that another file defines, by a name of the caller's. */
export type UseTarget = { readonly ref: number } | { readonly external: string };

/** A product that another file defines, to be named in this one. */
export interface ExternalProduct {
  readonly id: string;
  readonly name: string;
  /** Path of its file from this one, with `/`. */
  readonly locator: string;
}

/** One use of the file, by what a reading says of it. */
export interface NamedUse {
  /** `ref`s of the products. */
  readonly parent: number;
  readonly child: number;
  /** Names of the configurations that it belongs to; all where empty. */
  readonly configurations: readonly string[];
  /** Among the uses that are alike in all of this, the first being 0. */
  readonly nth: number;
}

export interface StructureEdit {
  readonly uses: readonly { readonly use: NamedUse; readonly becomes: 'nothing' | UseTarget }[];
  readonly added: readonly {
    /** `ref` of the product that gets the use. */
    readonly parent: number;
    readonly target: UseTarget;
    readonly name: string;
    readonly placement: Placement;
    readonly designator?: string;
  }[];
  /** By the name that targets have for them. */
  readonly externals: readonly (readonly [name: string, product: ExternalProduct])[];
  /** Products, by `ref`, whose stated volume, area and centre no longer hold. */
  readonly stale?: readonly number[];
}

export interface EditedStructure {
  readonly bytes: Uint8Array;
  /** `ref` of each external product's placeholder, by the caller's name for it. */
  readonly externals: ReadonlyMap<string, number>;
  /** `ref`s of products that are no longer in the file, for nothing uses them any more. */
  readonly gone: readonly number[];
}

/**
 * Changes the structure that a STEP file states. `O(bytes)`.
 *
 * @param fileName what the file is called, as for `readStep`
 * @throws StepError where the file cannot be read, or what came out does not read as it should; nothing is returned then
 */
export function editStepStructure(bytes: Uint8Array, fileName: string, edit: StructureEdit): EditedStructure {
  const located = readStepForRewriting(bytes, fileName);
  const uses = placesOf(located, edit);
  const edited = new StructureEditor(located).apply(uses, edit);
  proveEdit(located, uses, edit, { ...edited, reading: readStep(edited.bytes, fileName) });
  return edited;
}

/**
 * A file with one of its products and what that uses; all else that it holds is taken out. `O(bytes)`.
 *
 * @param ref of the product that stays; what it is made of is named, not held, by the file
 * @throws StepError where the file cannot be read
 */
export function keepOnlyProduct(bytes: Uint8Array, fileName: string, ref: number): Uint8Array {
  return new StructureEditor(readStepForRewriting(bytes, fileName)).keepOnly(ref);
}

type Becomes = 'nothing' | UseTarget;

/** What becomes of uses, by their place among the components of the reading. */
function placesOf({ reading, uses }: LocatedReading, edit: StructureEdit): ReadonlyMap<number, Becomes> {
  const places = new Map<string, number[]>();
  uses.forEach(({ use: { parent, child, configurations = [] } }, at) => {
    const [from, to] = [reading.products[parent]?.ref ?? -1, reading.products[child]?.ref ?? -1];
    addTo(places, JSON.stringify([from, to, [...configurations].sort()]), at);
  });
  return new Map(
    edit.uses.map(({ use: { parent, child, configurations, nth }, becomes }) => {
      const at = places.get(JSON.stringify([parent, child, [...configurations].sort()]))?.[nth];
      if (at === undefined)
        throw new StepError(`the file does not use #${child} in #${parent} ${nth + 1} times`, 0);
      return [at, becomes];
    }),
  );
}

class Additions implements InstanceSink {
  private readonly lines: string[] = [];
  private readonly numbers: Generator<number>;

  /** @param refersTo told of every instance that a new one refers to */
  constructor(
    graph: StatementGraph,
    private readonly refersTo: (id: number) => void,
  ) {
    this.numbers = graph.freeNumbers();
  }

  add(record: string): string {
    for (const [, ref] of record.replace(/'(?:[^']|'')*'/g, '').matchAll(/#(\d+)/g))
      this.refersTo(Number(ref));
    const id = this.numbers.next().value as number;
    this.lines.push(`#${id}=${record};\n`);
    return `#${id}`;
  }

  get text(): string {
    return this.lines.join('');
  }
}

/** What a use needs to know of the product that it leads to. */
interface Placeable {
  readonly definition: string;
  /** None where the file says nothing of its shape. */
  readonly representation: string | undefined;
  /** Millimetres per unit of that representation. */
  readonly scale: number;
  /** A frame in it, where one was written for the purpose. */
  readonly axis: string | undefined;
}

/** Entities that name a file and are there for nothing else. */
const NAMING: ReadonlySet<string> = new Set(LOCATOR_TYPES);
const DOCUMENT_REFERENCES =
  /^(APPLIED_DOCUMENT_REFERENCE|DOCUMENT_REFERENCE|CC_DESIGN_SPECIFICATION_REFERENCE)$/;

const PLACES = ['CONTEXT_DEPENDENT_SHAPE_REPRESENTATION', 'PRODUCT_DEFINITION_SHAPE'] as const;

class StructureEditor {
  private readonly file: StepFile;
  private readonly graph: StatementGraph;
  private readonly eraser: Eraser;
  private readonly out: Additions;
  private readonly definitionOf = new Map<number, number>();
  private readonly externals = new Map<string, WrittenProduct & { readonly axis: string }>();
  private readonly named = new Map<string, ExternalProduct>();
  /** Frames of uses that went or moved to another child, with the representation that lists them. */
  private readonly frames: { readonly frame: number; readonly holder: number }[] = [];

  constructor(private readonly located: LocatedReading) {
    this.file = located.file;
    this.graph = StatementGraph.of(located.file.bytes);
    for (const [definition, product] of located.definitions.productOf)
      if (!this.definitionOf.has(product)) this.definitionOf.set(product, definition);
    const used = new Set(located.uses.map(({ use }) => this.refAt(use.child)));
    this.eraser = new Eraser(
      this.graph,
      new Set(
        [...this.definitionOf].flatMap(([product, definition]) => (used.has(product) ? [] : [definition])),
      ),
    );
    this.out = new Additions(this.graph, (id) => this.eraser.pin(id));
  }

  apply(
    uses: ReadonlyMap<number, Becomes>,
    { added, externals, stale = [] }: StructureEdit,
  ): EditedStructure {
    for (const [name, external] of externals) this.named.set(name, external);
    const { gone, lost } = this.unusedAfter(uses, added);
    const isGone = new Set(gone);
    for (const [at, becomes] of uses) {
      const located = this.located.uses[at];
      if (!located) continue;
      // What changes in something that goes, goes with it.
      if (isGone.has(this.refAt(located.use.parent))) continue;
      if (becomes === 'nothing') this.takeOut(located);
      else this.exchange(located, becomes);
    }
    for (const use of added) this.place(use);
    this.eraser.settle();
    this.eraser.remove(lost);
    for (const ref of gone) this.removeProduct(ref, isGone);
    this.dropFrames();
    this.removeStale(stale);
    return {
      bytes: this.eraser.write(this.out.text),
      externals: new Map([...this.externals].map(([name, { product }]) => [name, Number(product.slice(1))])),
      gone,
    };
  }

  /** Takes out all products but one and those that it uses. */
  keepOnly(ref: number): Uint8Array {
    const { uses, reading } = this.located;
    const own = uses.filter(({ use }) => this.refAt(use.parent) === ref);
    const stays = new Set([ref, ...own.map(({ use }) => this.refAt(use.child))]);
    const gone = new Set(reading.products.flatMap(({ ref: each }) => (stays.has(each) ? [] : each)));
    for (const located of uses) if (this.refAt(located.use.parent) !== ref) this.takeOut(located);
    for (const each of gone) if (this.definitionOf.has(each)) this.removeProduct(each, gone);
    this.dropFrames();
    return this.eraser.write('');
  }

  private refAt(index: number): number {
    return this.located.reading.products[index]?.ref ?? -1;
  }

  private takeOut(located: LocatedUse): void {
    const { id, use, mappedItem } = located;
    this.noteFrame(located);
    this.eraser.remove([id]);
    if (mappedItem !== undefined) this.unmap(mappedItem, this.refAt(use.parent));
  }

  /** A mapped item is only held by the list of its parent's representation. */
  private unmap(item: number, parent: number): void {
    const holders = this.located.shapes.representationsOf.get(parent) ?? new Set<number>();
    for (const { id } of this.eraser.referrersOf(item)) if (holders.has(id)) this.eraser.drop(id, item);
    if (!this.eraser.isRemoved(item)) this.eraser.remove([item]);
  }

  private exchange(located: LocatedUse, target: UseTarget): void {
    const { id, use, mappedItem } = located;
    const parent = this.refAt(use.parent);
    const values = this.file.record(id, 'NEXT_ASSEMBLY_USAGE_OCCURRENCE')?.values ?? [];
    const child = this.placeable(parent, target);
    const was = refOf(values[4]);
    if (was === undefined)
      throw new StepError(`use #${id} names no product definition`, this.file.lineOf(id));
    this.eraser.redirect(id, was, child.definition);
    this.renameUse(id, use.child, target);
    const placed = this.placingOf(located);
    if (placed) {
      this.noteFrame(located);
      const relation = this.relate(parent, child, use.placement, placed.parentFrame);
      if (relation !== undefined) this.eraser.redirect(placed.id, placed.relation, relation);
      return;
    }
    if (mappedItem !== undefined) this.unmap(mappedItem, parent);
    if (mappedItem === undefined && isIdentity(use.placement)) return;
    const relation = this.relate(parent, child, use.placement);
    if (relation === undefined) return;
    const shape = this.out.add(`PRODUCT_DEFINITION_SHAPE('Placement','Placement of an item',#${id})`);
    this.out.add(`CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(${relation},${shape})`);
  }

  /** A use that is called after what it leads to is called after the other from now on. */
  private renameUse(use: number, child: number, target: UseTarget): void {
    const { reading } = this.located;
    const was = reading.products[child];
    const becomes =
      'ref' in target
        ? reading.products.find(({ ref }) => ref === target.ref)
        : this.named.get(target.external);
    if (!was || !becomes) return;
    const shapes = this.graph
      .referrersOf(use)
      .filter(({ id }) => this.file.record(id, 'PRODUCT_DEFINITION_SHAPE') !== undefined);
    for (const holder of [use, ...shapes.map(({ id }) => id)]) {
      // The designator is of the place, whatever stands there.
      for (const value of this.file.records(holder)[0]?.values.slice(0, 3) ?? []) {
        if (value.kind !== 'text') continue;
        const text = aboutAnother(value.text, was, becomes);
        if (text !== value.text)
          this.eraser.rewrite(holder, {
            start: value.start,
            end: value.end,
            written: encodeStepString(text),
          });
      }
    }
  }

  /** The relation that places a use, with the frame in the parent where it has one that can stay. */
  private placingOf({
    id: use,
    use: { child },
  }: LocatedUse):
    { readonly id: number; readonly relation: number; readonly parentFrame: number | undefined } | undefined {
    const shapes = this.located.shapes.representationsOf.get(this.refAt(child)) ?? new Set<number>();
    for (const shape of this.graph.referrersOf(use)) {
      if (!this.file.record(shape.id, PLACES[1])) continue;
      for (const { id } of this.graph.referrersOf(shape.id)) {
        const relation = refOf(this.file.record(id, PLACES[0])?.values[0]);
        if (relation !== undefined) return { id, relation, parentFrame: this.parentFrame(relation, shapes) };
      }
    }
    return undefined;
  }

  /** Of the two frames of a relation the one in the parent; exporters disagree on which representation comes first. */
  private parentFrame(relation: number, child: ReadonlySet<number>): number | undefined {
    const transformation = refOf(
      this.file.record(relation, 'REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION')?.values.at(-1),
    );
    const defined =
      transformation === undefined
        ? undefined
        : this.file.record(transformation, 'ITEM_DEFINED_TRANSFORMATION');
    return refOf(defined?.values[childComesSecond(this.file, relation, child) ? 2 : 3]);
  }

  private noteFrame(use: LocatedUse): void {
    const placed = this.placingOf(use);
    if (placed?.parentFrame === undefined) return;
    for (const { id } of this.graph.referrersOf(placed.parentFrame)) {
      if (this.located.shapes.productOfRepresentation.has(id))
        this.frames.push({ frame: placed.parentFrame, holder: id });
    }
  }

  /** Frames of uses that are gone leave the lists of their parents, which keep one at least. */
  private dropFrames(): void {
    for (const { frame, holder } of this.frames) {
      if ([frame, holder].some((id) => this.eraser.isRemoved(id)) || this.eraser.isPinned(frame)) continue;
      const others = this.eraser.referrersOf(frame).filter(({ id }) => id !== holder);
      const listed = refsOf(this.file.records(holder)[0]?.values[1]).filter(
        (item) => !this.eraser.isRemoved(item),
      );
      if (others.length === 0 && listed.length > 1) this.eraser.drop(holder, frame);
    }
  }

  /**
   * Products that nothing uses any more once the uses are as asked for, with all that they are made of where nothing else
   * uses that, and the uses within them.
   */
  private unusedAfter(
    changed: ReadonlyMap<number, Becomes>,
    added: StructureEdit['added'],
  ): {
    readonly gone: readonly number[];
    readonly lost: readonly number[];
  } {
    const counts = new Map<number, number>();
    const within = new Map<number, { readonly child: number; readonly id: number }[]>();
    const left = new Set<number>();
    const count = (ref: number, by: number): number => {
      const sum = (counts.get(ref) ?? 0) + by;
      counts.set(ref, sum);
      return sum;
    };
    this.located.uses.forEach(({ id, use }, at) => {
      const becomes = changed.get(at);
      if (becomes !== undefined) left.add(this.refAt(use.child));
      const child = becomes === undefined ? this.refAt(use.child) : refIn(becomes);
      if (child !== undefined) count(child, 1);
      addTo(within, this.refAt(use.parent), { child: child ?? -1, id });
    });
    for (const { target } of added) if ('ref' in target) count(target.ref, 1);
    const gone: number[] = [];
    const lost: number[] = [];
    const waiting = [...left].filter((ref) => (counts.get(ref) ?? 0) === 0);
    for (let ref = waiting.pop(); ref !== undefined; ref = waiting.pop()) {
      gone.push(ref);
      for (const { child, id } of within.get(ref) ?? []) {
        lost.push(id);
        if (child >= 0 && count(child, -1) === 0) waiting.push(child);
      }
    }
    return { gone, lost };
  }

  private removeProduct(ref: number, gone: ReadonlySet<number>): void {
    const { representationsOf, productOfRepresentation } = this.located.shapes;
    const own = [...(representationsOf.get(ref) ?? [])].filter(
      (id) => productOfRepresentation.get(id) === ref,
    );
    const naming = this.namingOf(ref, gone);
    this.eraser.remove([ref, ...own, ...naming.flatMap((id) => this.standsFor(id)), ...naming]);
  }

  /** Instances that name the file of a product, and of no product that stays. */
  private namingOf(ref: number, gone: ReadonlySet<number>): number[] {
    const idsOf = (product: number): number[] =>
      (this.located.locators.get(product) ?? []).flatMap(({ start }) => this.graph.at(start)?.id ?? []);
    const staying = new Set(
      [...this.located.locators.keys()].flatMap((other) => (gone.has(other) ? [] : idsOf(other))),
    );
    const naming = idsOf(ref).filter((id) => !staying.has(id) && NAMING.has(this.typeOf(id)));
    const documents = naming.flatMap((id) =>
      this.graph
        .referrersOf(id)
        .flatMap(({ id: holder }) => this.located.definitions.productOf.get(holder) ?? []),
    );
    const definition = this.definitionOf.get(ref);
    const referred = (definition === undefined ? [] : this.graph.referrersOf(definition)).flatMap(
      (reference) => {
        if (!DOCUMENT_REFERENCES.test(this.graph.typeOf(reference))) return [];
        const record = this.file.records(reference.id)[0];
        const document = refOf(record?.values[0]);
        const isOnly = refsOf(record?.values[2]).every((other) => other === definition);
        const isShared =
          document === undefined ||
          this.graph
            .referrersOf(document)
            .some(
              ({ id }) =>
                id !== reference.id &&
                DOCUMENT_REFERENCES.test(this.typeOf(id)) &&
                !this.eraser.isRemoved(id),
            );
        return document === undefined || !isOnly || isShared ? [] : [document];
      },
    );
    return [...naming, ...documents.filter((id) => this.located.documents.has(id)), ...referred];
  }

  private typeOf(id: number): string {
    const statement = this.graph.get(id);
    return statement ? this.graph.typeOf(statement) : '';
  }

  /** The product that stands for a document, with its definitions. */
  private standsFor(document: number): number[] {
    return this.graph.referrersOf(document).flatMap(({ id }) => {
      const type = this.typeOf(id);
      if (type !== 'DOCUMENT_PRODUCT_EQUIVALENCE' && type !== 'DOCUMENT_PRODUCT_ASSOCIATION') return [];
      const formation = refOf(this.file.records(id)[0]?.values[3]);
      if (formation === undefined) return [];
      const product = this.located.definitions.formationProduct.get(formation);
      return product === undefined ? [formation] : [formation, product];
    });
  }

  /** What a product is said to weigh or fill no longer holds where it is made of other things. */
  private removeStale(stale: readonly number[]): void {
    const subjects = new Set<number>();
    for (const ref of stale) {
      const definition = this.definitionOf.get(ref);
      if (definition === undefined) continue;
      subjects.add(definition);
      for (const { id } of this.graph.referrersOf(definition))
        if (this.file.record(id, 'PRODUCT_DEFINITION_SHAPE')) subjects.add(id);
    }
    for (const subject of subjects) {
      for (const { id } of this.eraser.referrersOf(subject)) {
        const said = textOf(this.file.record(id, 'PROPERTY_DEFINITION')?.values[0])?.toLowerCase() ?? '';
        if (said === 'geometric validation property' || said === 'assembly validation property')
          this.eraser.remove([id]);
      }
    }
  }

  private place({ parent, target, ...use }: StructureEdit['added'][number]): void {
    const definition = this.definitionOf.get(parent);
    if (definition === undefined)
      throw new StepError(`product #${parent} has no definition`, this.file.lineOf(parent));
    const child = this.placeable(parent, target);
    const id = this.out.add(
      `NEXT_ASSEMBLY_USAGE_OCCURRENCE(${encodeStepString(use.name)},${encodeStepString(use.name)},'',#${definition},${child.definition},${use.designator === undefined ? '$' : encodeStepString(use.designator)})`,
    );
    const relation = this.relate(parent, child, use.placement);
    if (relation === undefined && isIdentity(use.placement)) return;
    if (relation === undefined)
      throw new StepError(
        'the file says nothing of the shape of an assembly, so that nothing can be placed in it',
        this.file.lineOf(parent),
      );
    const shape = this.out.add(`PRODUCT_DEFINITION_SHAPE('Placement','Placement of an item',${id})`);
    this.out.add(`CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(${relation},${shape})`);
  }

  /**
   * A relation of two representations that puts a child where it shall stand.
   *
   * @param frame an instance that says the place already, where the child's own frame is its origin
   * @returns nothing where the parent has no representation
   */
  private relate(parent: number, child: Placeable, placement: Placement, frame?: number): string | undefined {
    const holder = this.shapeOf(parent);
    if (holder === undefined || child.representation === undefined) return undefined;
    const scale = this.located.units.of(this.file, holder);
    const says = frame === undefined ? undefined : placementOfFrame(this.file, frame, scale);
    let target = `#${frame}`;
    if (!says || !isSame(says, placement)) {
      target = writeAxis(this.out, scaled(placement, 1 / scale));
      this.eraser.append(holder, target);
    }
    let axis = child.axis;
    if (axis === undefined) {
      axis = writeAxis(this.out);
      this.eraser.append(Number(child.representation.slice(1)), axis);
    }
    const transformation = this.out.add(`ITEM_DEFINED_TRANSFORMATION('','',${axis},${target})`);
    return this.out.add(
      `(REPRESENTATION_RELATIONSHIP('','',${child.representation},#${holder})` +
        `REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(${transformation})SHAPE_REPRESENTATION_RELATIONSHIP())`,
    );
  }

  private shapeOf(ref: number): number | undefined {
    const [representation] = this.located.shapes.representationsOf.get(ref) ?? [];
    return representation;
  }

  private placeable(parent: number, target: UseTarget): Placeable {
    if ('ref' in target) {
      const definition = this.definitionOf.get(target.ref);
      if (definition === undefined)
        throw new StepError(`product #${target.ref} has no definition`, this.file.lineOf(target.ref));
      const representation = this.shapeOf(target.ref);
      return {
        definition: `#${definition}`,
        representation: representation === undefined ? undefined : `#${representation}`,
        scale: representation === undefined ? 1 : this.located.units.of(this.file, representation),
        axis: undefined,
      };
    }
    const written = this.external(parent, target.external);
    const shape = this.shapeOf(parent);
    return {
      definition: written.definition,
      representation: written.representation,
      scale: shape === undefined ? 1 : this.located.units.of(this.file, shape),
      axis: written.axis,
    };
  }

  /** A product that another file defines, written once for all its uses, in the contexts of its first parent. */
  private external(parent: number, name: string): WrittenProduct & { readonly axis: string } {
    const known = this.externals.get(name);
    if (known) return known;
    const external = this.named.get(name);
    if (!external) throw new Error(`no external product is called ${name}`);
    const definition = this.definitionOf.get(parent);
    const values = definition === undefined ? [] : (this.file.records(definition)[0]?.values ?? []);
    const shape = this.shapeOf(parent);
    const context = shape === undefined ? undefined : refOf(this.file.records(shape)[0]?.values[2]);
    const [productContext] = refsOf(this.file.record(parent, 'PRODUCT')?.values[3]);
    const definitionContext = refOf(values[3]);
    const axis = writeAxis(this.out);
    const written = writeProduct(
      {
        out: this.out,
        productContext:
          productContext === undefined ? this.context('PRODUCT_CONTEXT', 'mechanical') : `#${productContext}`,
        definitionContext:
          definitionContext === undefined
            ? this.context('PRODUCT_DEFINITION_CONTEXT', 'design')
            : `#${definitionContext}`,
        geometry: context === undefined ? writeGeometricContext(this.out) : `#${context}`,
      },
      { id: external.id, name: external.name, items: `(${axis})` },
    );
    writeExternalFile(this.out, written, external.locator);
    const made = { ...written, axis };
    this.externals.set(name, made);
    return made;
  }

  private context(type: 'PRODUCT_CONTEXT' | 'PRODUCT_DEFINITION_CONTEXT', word: string): string {
    const application = this.out.add(`APPLICATION_CONTEXT('automotive design')`);
    return this.out.add(`${type}('',${application},'${word}')`);
  }
}

function refIn(becomes: Becomes): number | undefined {
  return becomes !== 'nothing' && 'ref' in becomes ? becomes.ref : undefined;
}

function isIdentity(placement: Placement): boolean {
  return isSame(placement, IDENTITY_PLACEMENT);
}

/** To the last places that a file may write. */
function isSame(one: Placement, two: Placement): boolean {
  return one.every((value, at) => Math.abs(value - (two[at] ?? 0)) <= 1e-9 * Math.max(1, Math.abs(value)));
}

/** A placement in other length units. */
function scaled(placement: Placement, factor: number): Placement {
  return placement.map((value, at) => (at % 4 === 3 ? value * factor : value));
}

/** What came out must read as what was asked for, use by use: what stays at its place, what is new at its own. */
function proveEdit(
  { reading, uses }: LocatedReading,
  changed: ReadonlyMap<number, Becomes>,
  edit: StructureEdit,
  { reading: after, externals }: EditedStructure & { readonly reading: FileReading },
): void {
  const refOfTarget = (target: UseTarget): number =>
    'ref' in target ? target.ref : (externals.get(target.external) ?? -1);
  const wanted = uses.flatMap(({ use }, at): SaidUse[] => {
    const becomes = changed.get(at);
    if (becomes === 'nothing') return [];
    const child = becomes === undefined ? (reading.products[use.child]?.ref ?? -1) : refOfTarget(becomes);
    return [{ parent: reading.products[use.parent]?.ref ?? -1, child, placement: use.placement }];
  });
  for (const { parent, target, placement } of edit.added)
    wanted.push({ parent, child: refOfTarget(target), placement });
  const found = after.uses.flatMap((use: UseReading): SaidUse[] =>
    (use.relation ?? 'component') === 'component'
      ? [
          {
            parent: after.products[use.parent]?.ref ?? -1,
            child: after.products[use.child]?.ref ?? -1,
            placement: use.placement,
          },
        ]
      : [],
  );
  const inFile = new Set(after.products.map(({ ref }) => ref));
  // What stood in something that went is gone with it.
  const expected = wanted.filter(({ parent }) => inFile.has(parent));
  const isAsMeant = ({ parent, child, placement }: SaidUse, at: number): boolean => {
    const said = found[at];
    return said?.parent === parent && said.child === child && isNear(said.placement, placement);
  };
  if (expected.length !== found.length || !expected.every(isAsMeant))
    throw new StepError('the changed structure does not read back as it was meant', 0);
}

interface SaidUse {
  readonly parent: number;
  readonly child: number;
  readonly placement: Placement;
}

/** Within a hundredth of a micrometre, or what a file's own digits leave. */
function isNear(one: Placement, two: Placement): boolean {
  return one.every(
    (value, at) => Math.abs(value - (two[at] ?? 0)) <= 1e-5 * Math.max(1, Math.abs(value) / 1e3),
  );
}
