/**
 * New names for a stored STEP file on its way out. The result has the same bytes as the original except for
 * the strings that name what got a new name: products, the files referred to, the file itself.
 *
 * Three kinds of string are told apart:
 * - strings that *are* a name by their place (product id and name, every mention of another file, the header's file name)
 *   are set by instance, so that two products that share an id can get different ones;
 * - strings that *repeat* names in running text (`Placement of NUT with respect to PLATE`) get each whole name replaced;
 * - any other string is replaced only where it is a name from end to end, and never in the entities whose
 *   strings are vocabulary of the standard (units, contexts, roles, property kinds).
 *
 * What a string of the last two kinds becomes is said in `renames.ts`.
 */
import { applyEdits, type Edit } from './edits.js';
import type { LocatorText } from './locators.js';
import { readStepForRewriting, type LocatedReading } from './read.js';
import { isDigit, isNameByte, skipBlanks, ascii, type StepRecord } from './records.js';
import { Renames, type PathRename } from './renames.js';
import { decodeStepString, encodeStepString } from './strings.js';

export interface StepRenaming {
  /** New id and name by the instance number of the PRODUCT; absent members stay. */
  readonly products: readonly { readonly ref: number; readonly id?: string; readonly name?: string }[];
  /** New locators by the `ref` of the product that the other file defines; `/` between folders. */
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
  /** New name for the header and for mentions of the file itself, where it is renamed. */
  readonly fileName?: string;
}

export interface RewrittenStep {
  readonly bytes: Uint8Array;
  /** Number of strings that changed. */
  readonly changed: number;
}

/**
 * Rewrites names in a STEP file.
 *
 * Cost: two passes over the bytes. Returns the same array where nothing changes.
 *
 * @param storedName what the file was called when it was stored, by which it may name itself
 * @throws StepError where the file cannot be read
 */
export function rewriteStep(bytes: Uint8Array, renaming: StepRenaming, storedName = ''): RewrittenStep {
  const located = readStepForRewriting(bytes, storedName);
  const { file, reading } = located;
  const edits = new Map<number, Edit>();
  const put = (start: number, end: number, text: string): void => {
    const current = decodeStepString(bytes.subarray(start + 1, end - 1));
    if (current !== text) edits.set(start, { start, end, written: encodeStepString(text) });
  };
  const renamedProducts = new Map(renaming.products.map((product) => [product.ref, product]));
  const products = reading.products.map(({ ref, id, name }) => {
    const to = renamedProducts.get(ref);
    return { ref, id, name, newId: to?.id ?? id, newName: to?.name ?? name };
  });
  for (const product of products) {
    if (!renamedProducts.has(product.ref) || file.references.some(({ id }) => id === product.ref)) continue;
    const values = file.record(product.ref, 'PRODUCT')?.values ?? [];
    for (const [index, becomes] of [
      [0, product.newId],
      [1, product.newName],
    ] as const) {
      const value = values[index];
      // What only differs by blanks around it has not been renamed.
      if (value?.kind === 'text' && value.text.trim() !== becomes) put(value.start, value.end, becomes);
    }
  }
  const paths = setLocators(located, renaming, { bytes, edits, put });
  if (renaming.fileName !== undefined) {
    const value = file.header.find((record: StepRecord) => record.type === 'FILE_NAME')?.values[0];
    if (value?.kind === 'text') put(value.start, value.end, renaming.fileName);
    for (const { start, end } of located.ownNames) put(start, end, renaming.fileName);
    if (storedName !== '') paths.push({ said: [storedName], to: renaming.fileName });
  }
  const renames = new Renames(products, paths);
  if (!renames.isEmpty) repeatNames(bytes, located, { renames, edits, put });
  if (edits.size === 0) return { bytes, changed: 0 };
  return { bytes: applyEdits(bytes, [...edits.values()]), changed: edits.size };
}

interface Editing {
  readonly bytes: Uint8Array;
  readonly edits: Map<number, Edit>;
  readonly put: (start: number, end: number, text: string) => void;
}

/**
 * Lets every mention of a file say its whole path. A folder that stood in a string of its own says the path too, or nothing
 * where files that go to different folders share it; those of them that stay then say their folder themselves.
 *
 * @returns what each named file was called and is called now
 */
function setLocators(
  { reading, locators }: LocatedReading,
  renaming: StepRenaming,
  { edits, put }: Editing,
): PathRename[] {
  const wanted = new Map(renaming.locators.map(({ ref, to }) => [ref, to]));
  const toOf = (ref: number, locator: string): string => wanted.get(ref) ?? locator;
  const named = reading.products.flatMap(({ ref, locator }) =>
    locator === undefined ? [] : [{ ref, locator, texts: locators.get(ref) ?? [] }],
  );
  const folders = new Map<number, Set<string>>();
  for (const { ref, locator, texts } of named) {
    for (const { start, holds } of texts)
      if (holds === 'folder') folders.set(start, (folders.get(start) ?? new Set()).add(toOf(ref, locator)));
  }
  const isTouched = (text: LocatorText): boolean =>
    named.some(({ ref, texts }) => wanted.has(ref) && texts.some(({ start }) => start === text.start));
  for (const { ref, locator, texts } of named) {
    const folder = texts.find(({ holds }) => holds === 'folder');
    if (!wanted.has(ref) && !(folder && isTouched(folder))) continue;
    const to = toOf(ref, locator);
    for (const { start, end, text, holds } of texts) {
      if (holds === 'locator') put(start, end, to);
      else if (holds === 'folder') put(start, end, folders.get(start)?.size === 1 ? to : '');
      else {
        const written =
          encodeURI(to).replaceAll('#', '%23') + (text.includes('#') ? text.slice(text.indexOf('#')) : '');
        if (written !== text) edits.set(start, { start, end, written });
      }
    }
  }
  return named.map(({ ref, locator, texts }) => ({
    said: [locator, ...texts.flatMap(({ text, holds }) => (holds === 'locator' ? [text] : []))],
    to: toOf(ref, locator),
  }));
}

/** Entities whose strings repeat names in running text, with the positions where they do; `[]` for all. */
const DESCRIPTIVE: ReadonlyMap<string, readonly number[]> = new Map([
  ['PRODUCT', [2]],
  ['PRODUCT_DEFINITION', [1]],
  ['PRODUCT_DEFINITION_FORMATION', [1]],
  ['PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE', [1]],
  ['PRODUCT_DEFINITION_SHAPE', []],
  ['PRODUCT_RELATED_PRODUCT_CATEGORY', [1]],
  ['PRODUCT_CATEGORY_RELATIONSHIP', [1]],
  ['NEXT_ASSEMBLY_USAGE_OCCURRENCE', []],
  ['MAKE_FROM_USAGE_OPTION', [0, 2]],
  ['PROPERTY_DEFINITION', [1]],
  ['GENERAL_PROPERTY', [2]],
  ['ITEM_DEFINED_TRANSFORMATION', []],
  ['REPRESENTATION_RELATIONSHIP', []],
  ['SHAPE_REPRESENTATION_RELATIONSHIP', []],
  ['SHAPE_REPRESENTATION', [0]],
  ['ADVANCED_BREP_SHAPE_REPRESENTATION', [0]],
  ['REPRESENTATION_CONTEXT', [0]],
  ['MANIFOLD_SOLID_BREP', [0]],
  ['SHAPE_ASPECT', [0, 1]],
  ['MAPPED_ITEM', [0]],
  ['DOCUMENT_FILE', [0, 1, 2]],
  ['FILE_DESCRIPTION', []],
]);

/** Entities whose strings mean something to a reader and are never names of ours. */
const VOCABULARY: ReadonlySet<string> = new Set([
  'APPLICATION_CONTEXT',
  'APPLICATION_PROTOCOL_DEFINITION',
  'PRODUCT_CONTEXT',
  'PRODUCT_DEFINITION_CONTEXT',
  'PRODUCT_CATEGORY',
  'IDENTIFICATION_ROLE',
  'OBJECT_ROLE',
  'DOCUMENT_TYPE',
  'DOCUMENT_REPRESENTATION_TYPE',
  'CONVERSION_BASED_UNIT',
  'CONTEXT_DEPENDENT_UNIT',
  'UNCERTAINTY_MEASURE_WITH_UNIT',
  'NAME_ATTRIBUTE',
  'REPRESENTATION',
  'MEASURE_REPRESENTATION_ITEM',
  'VALUE_REPRESENTATION_ITEM',
  'COLOUR_RGB',
  'DRAUGHTING_PRE_DEFINED_COLOUR',
  'DRAUGHTING_PRE_DEFINED_CURVE_FONT',
  'PRE_DEFINED_TERMINATOR_SYMBOL',
  'DRAUGHTING_PRE_DEFINED_TEXT_FONT',
  'DATE_TIME_ROLE',
  'APPROVAL_ROLE',
  'APPROVAL_STATUS',
  'PERSON_AND_ORGANIZATION_ROLE',
  'SECURITY_CLASSIFICATION_LEVEL',
  'FILE_SCHEMA',
  'FILE_NAME',
]);

/** Descriptive items name their property first; only the value may be one of our names. */
const VALUE_ONLY: ReadonlySet<string> = new Set(['DESCRIPTIVE_REPRESENTATION_ITEM']);

function repeatNames(
  bytes: Uint8Array,
  { documents, ownersOf }: LocatedReading,
  { renames, edits, put }: Pick<Editing, 'edits' | 'put'> & { renames: Renames },
): void {
  forEachString(bytes, ({ start, end, type, position, instance }) => {
    if (end - start <= 2 || edits.has(start) || VOCABULARY.has(type)) return;
    if (type === 'PRODUCT' && position < 2 && !documents.has(instance)) return;
    if (VALUE_ONLY.has(type) && position === 0) return;
    const positions = DESCRIPTIVE.get(type);
    const isListed = !positions || positions.length === 0 || positions.includes(position);
    if (!isListed && !documents.has(instance)) return;
    const text = decodeStepString(bytes.subarray(start + 1, end - 1));
    const place = {
      isRunningText: positions !== undefined && isListed,
      owners: renames.hasDoubled ? ownersOf(instance) : [],
    };
    put(start, end, renames.rename(text, place));
  });
}

interface PlacedString {
  readonly start: number;
  readonly end: number;
  readonly type: string;
  /** Among the attributes of its record. */
  readonly position: number;
  /** 0 in the header. */
  readonly instance: number;
}

/**
 * Calls back for each string token with the entity that holds it and its position among the entity's
 * attributes. Only for files that `readStep` accepts.
 */
function forEachString(bytes: Uint8Array, visit: (string: PlacedString) => void): void {
  let type = '';
  let instance = 0;
  let position = 0;
  let depth = 0;
  /** Depth at which attributes of the current record lie: 1, or 2 inside a complex instance. */
  let recordDepth = 1;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at] as number;
    if (byte === 39) {
      const start = at;
      while (bytes[++at] !== 39 || bytes[at + 1] === 39) {
        if (bytes[at] === 39) at++;
        if (at >= bytes.length) return;
      }
      visit({ start, end: at + 1, type, position, instance });
    } else if (byte === 47 && bytes[at + 1] === 42) at = skipBlanks(bytes, at) - 1;
    else if (byte === 35 && depth === 0 && type === '') {
      instance = 0;
      while (isDigit(bytes[at + 1])) instance = instance * 10 + (bytes[++at] as number) - 48;
    } else if (byte === 40) {
      if (depth === 0 && type === '') recordDepth = 2;
      depth++;
      if (depth === recordDepth) position = 0;
    } else if (byte === 41) depth--;
    else if (byte === 44 && depth === recordDepth) position++;
    else if (byte === 59) {
      type = '';
      instance = 0;
      depth = 0;
      recordDepth = 1;
    } else if (depth === recordDepth - 1 && byte > 64 && isNameByte(byte)) {
      const start = at;
      while (isNameByte(bytes[at])) at++;
      type = ascii(bytes, start, at--).toUpperCase();
    }
  }
}
