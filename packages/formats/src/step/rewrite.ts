/**
 * New names for a stored STEP file on its way out. The result has the same bytes as the original except for
 * the strings that name what got a new name: products, the files referred to, the file itself.
 *
 * Three kinds of string are told apart:
 * - strings that *are* a name by their place (product id and name, locator, the header's file name) are set by
 *   instance, so that two products that share an id can get different ones;
 * - strings that *repeat* names in running text (`Placement of NUT with respect to PLATE`) get each whole word
 *   replaced, longest name first and all at once, so that names may be swapped or contain one another;
 * - any other string is replaced only where it is a name from end to end, and never in the entities whose
 *   strings are vocabulary of the standard (units, contexts, roles, property kinds).
 */
import { readStepForRewriting } from './read.js';
import { isNameByte, skipBlanks, ascii, type StepRecord } from './records.js';
import { decodeStepString, encodeStepString } from './strings.js';
import type { LocatorText } from './locators.js';
import { wordReplacer } from './words.js';

export interface StepRenaming {
  /** New id and name by the instance number of the PRODUCT; absent members stay. */
  readonly products: readonly { readonly ref: number; readonly id?: string; readonly name?: string }[];
  /** New locators by the instance number of the PRODUCT that the other file defines; `/` between folders. */
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
  /** New name for the header, where the file itself is renamed. */
  readonly fileName?: string;
}

export interface RewrittenStep {
  readonly bytes: Uint8Array;
  /** Number of strings that changed. */
  readonly changed: number;
}

interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/**
 * Rewrites names in a STEP file.
 *
 * Cost: two passes over the bytes. Returns the same array where nothing changes.
 *
 * @throws StepError where the file cannot be read
 */
export function rewriteStep(bytes: Uint8Array, renaming: StepRenaming): RewrittenStep {
  const { file, reading, externals } = readStepForRewriting(bytes);
  const edits = new Map<number, Edit>();
  const put = (start: number, end: number, text: string): void => {
    const current = decodeStepString(bytes.subarray(start + 1, end - 1));
    if (current !== text) edits.set(start, { start, end, text });
  };
  const words = new Map<string, string>();
  for (const product of reading.products) {
    for (const own of [product.id, product.name]) if (own) words.set(own, words.get(own) ?? own);
  }
  const renamedProducts = new Map(renaming.products.map((product) => [product.ref, product]));
  for (const product of reading.products) {
    const to = renamedProducts.get(product.ref);
    if (!to) continue;
    const values = file.record(product.ref, 'PRODUCT')?.values ?? [];
    for (const [index, was, becomes] of [
      [1, product.name, to.name],
      [0, product.id, to.id],
    ] as const) {
      const value = values[index];
      if (becomes === undefined || value?.kind !== 'text') continue;
      put(value.start, value.end, becomes);
      if (was) words.set(was, becomes);
    }
  }
  for (const { ref, to } of renaming.locators) {
    const external = externals.get(ref);
    if (!external) continue;
    const { folder, name } = splitPath(to);
    const holdsFolder = external.texts.some((text) => text.holds === 'folder');
    for (const text of external.texts) put(text.start, text.end, locatorPart(text, { to, folder, name }));
    const was = external.locator;
    words.set(was, to);
    words.set(splitPath(was).name, holdsFolder ? name : splitPath(to).name);
  }
  if (renaming.fileName !== undefined) {
    const value = file.header.find((record: StepRecord) => record.type === 'FILE_NAME')?.values[0];
    if (value?.kind === 'text') put(value.start, value.end, renaming.fileName);
  }
  if ([...words].some(([was, becomes]) => was !== becomes)) repeatNames(bytes, words, edits, put);
  if (edits.size === 0) return { bytes, changed: 0 };
  return { bytes: applyEdits(bytes, [...edits.values()]), changed: edits.size };
}

function locatorPart(text: LocatorText, to: { to: string; folder: string; name: string }): string {
  if (text.holds === 'folder') return to.folder === '' ? './' : `${to.folder}/`;
  return text.holds === 'name' ? to.name : to.to;
}

function splitPath(path: string): { folder: string; name: string } {
  const at = Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\'));
  return at < 0 ? { folder: '', name: path } : { folder: path.slice(0, at), name: path.slice(at + 1) };
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
  words: ReadonlyMap<string, string>,
  edits: ReadonlyMap<number, Edit>,
  put: (start: number, end: number, text: string) => void,
): void {
  const replaceWords = wordReplacer(words);
  forEachString(bytes, (start, end, type, position) => {
    if (end - start <= 2 || edits.has(start) || VOCABULARY.has(type)) return;
    if (type === 'PRODUCT' && position < 2) return;
    if (VALUE_ONLY.has(type) && position === 0) return;
    const text = decodeStepString(bytes.subarray(start + 1, end - 1));
    const positions = DESCRIPTIVE.get(type);
    if (positions && (positions.length === 0 || positions.includes(position)))
      put(start, end, replaceWords(text));
    else if (!positions) put(start, end, words.get(text.trim()) ?? text);
  });
}

/**
 * Calls back for each string token with the entity that holds it and its position among the entity's
 * attributes. Only for files that `readStep` accepts.
 */
function forEachString(
  bytes: Uint8Array,
  visit: (start: number, end: number, type: string, position: number) => void,
): void {
  let type = '';
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
      visit(start, at + 1, type, position);
    } else if (byte === 47 && bytes[at + 1] === 42) at = skipBlanks(bytes, at) - 1;
    else if (byte === 40) {
      if (depth === 0 && type === '') recordDepth = 2;
      depth++;
      if (depth === recordDepth) position = 0;
    } else if (byte === 41) depth--;
    else if (byte === 44 && depth === recordDepth) position++;
    else if (byte === 59) {
      type = '';
      depth = 0;
      recordDepth = 1;
    } else if (depth === recordDepth - 1 && byte > 64 && isNameByte(byte)) {
      const start = at;
      while (isNameByte(bytes[at])) at++;
      type = ascii(bytes, start, at--).toUpperCase();
    }
  }
}

function applyEdits(bytes: Uint8Array, edits: readonly Edit[]): Uint8Array {
  const encoder = new TextEncoder();
  const sorted = [...edits].sort((a, b) => a.start - b.start);
  const parts: Uint8Array[] = [];
  let at = 0;
  for (const edit of sorted) {
    parts.push(bytes.subarray(at, edit.start), encoder.encode(encodeStepString(edit.text)));
    at = edit.end;
  }
  parts.push(bytes.subarray(at));
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let offset = 0;
  for (const part of parts) {
    out.set(part, offset);
    offset += part.length;
  }
  return out;
}
