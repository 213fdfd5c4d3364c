/** New names for a stored DXF file on its way out; every byte that is not one of them stays as it is. */
import { addTo, titleBlockChanges, type TitleBlockField, type TitleBlockWords } from '@stem-trace/core';
import { beginsWithEnding, nameKey } from '../step/file-names.js';
import { dxfContents, plainText, type DxfContents } from './read.js';
import { encodeValue, isUtf8Version, readTags } from './tags.js';

export interface DxfRenaming {
  /**
   * What the drawing says of itself and of what it shows. One that is said in a field of the title block has that field's
   * line as `ref`, and only that field is its own; others are looked for by what they were called.
   */
  readonly products: readonly {
    readonly ref: number;
    readonly was: { readonly id: string; readonly name: string };
    readonly id?: string;
    readonly name?: string;
  }[];
  /** New paths by the line of the old one; `/` between folders. */
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
  /** What the store says of the drawing, for the fields that are properties. */
  readonly titleBlock?: TitleBlockWords;
}

/**
 * Cost: two passes over the bytes. Returns the same array where nothing changes.
 *
 * @throws FormatError where the file cannot be read
 */
export function rewriteDxf(bytes: Uint8Array, renaming: DxfRenaming): { bytes: Uint8Array; changed: number } {
  const contents = dxfContents(bytes);
  const texts = new Map<number, string>();
  const blocks = new Map<string, string>();
  for (const { ref, to } of renaming.locators) {
    const reference = contents.references.find((each) => each.ref === ref);
    for (const line of [ref, ...(reference?.repeats ?? [])]) texts.set(line, to);
    const block = reference && newBlockName(reference, to, contents.blocks);
    if (reference && block !== undefined) blocks.set(reference.name.toLowerCase(), block);
  }
  setFields(contents, renaming, texts);
  setLettering(contents, renaming, texts);
  const pieces: Uint8Array[] = [];
  let copied = 0;
  let changed = 0;
  let entity = '';
  let variable = '';
  let version: string | undefined;
  for (const { code, line, start, end, value } of readTags(bytes)) {
    if (code === 0) entity = value.trim();
    else if (code === 9) variable = value.trim();
    else if (code === 1 && variable === '$ACADVER') version ??= value.trim();
    const to = texts.get(line) ?? symbolName({ code, value, entity }, blocks);
    if (to === undefined || to === value) continue;
    pieces.push(
      bytes.subarray(copied, start),
      new TextEncoder().encode(encodeValue(to, isUtf8Version(version))),
    );
    copied = end;
    changed++;
  }
  if (changed === 0) return { bytes, changed };
  pieces.push(bytes.subarray(copied));
  return { bytes: concatenate(pieces), changed };
}

/** Fields of the title block that say a name from end to end. */
function setFields(
  { fields, furtherFields }: DxfContents,
  { products, titleBlock }: DxfRenaming,
  texts: Map<number, string>,
): void {
  const byField = new Map(
    products.flatMap((product) => (product.ref > 0 ? [[product.ref, product] as const] : [])),
  );
  const words = new Map<string, string>();
  for (const { ref, was, id, name } of products) {
    if (ref > 0) continue;
    if (id !== undefined && was.id !== '') words.set(was.id, id);
    if (name !== undefined && was.name !== '' && !words.has(was.name)) words.set(was.name, name);
  }
  for (const { ref, text } of fields) {
    const own = byField.get(ref);
    const to = own ? own.id : words.get(text);
    if (to !== undefined && to !== text) texts.set(ref, to);
  }
  if (titleBlock)
    for (const { ref, to } of titleBlockChanges(fields, titleBlock)) if (!texts.has(ref)) texts.set(ref, to);
  repeat(fields, furtherFields, texts);
}

/** Each sheet of a drawing has a title block: what says the same as a field of the first goes on to do so. */
function repeat(
  fields: readonly TitleBlockField[],
  further: readonly TitleBlockField[],
  texts: Map<number, string>,
): void {
  if (further.length === 0) return;
  const key = ({ tag, text }: TitleBlockField): string => `${tag.toLowerCase()} ${text}`;
  const changed = new Map(
    fields.flatMap((field) => {
      const to = texts.get(field.ref);
      return to === undefined ? [] : [[key(field), to] as const];
    }),
  );
  for (const field of further) {
    const to = changed.get(key(field));
    if (to !== undefined) texts.set(field.ref, to);
  }
}

/** Lettering that speaks of a number: as its whole text, or as a word of it where the number can be nothing else. */
function setLettering(
  { lettering, fields: first, furtherFields }: DxfContents,
  { products }: DxfRenaming,
  texts: Map<number, string>,
): void {
  const numbers = new Numbers(products);
  if (numbers.isEmpty && texts.size === 0) return;
  const fields = [...first, ...furtherFields];
  const plainOf = new Map(fields.map(({ ref, text }) => [ref, text]));
  const firstFields = new Set(first.map(({ ref }) => ref));
  for (const { line, value } of lettering) {
    const field = texts.get(line);
    if (field !== undefined) {
      // What formats the text stays where the name stands in it as one piece.
      const was = plainOf.get(line) ?? plainText(value);
      if (was !== value && value.includes(was))
        texts.set(
          line,
          value.replace(was, () => field),
        );
      continue;
    }
    if (firstFields.has(line)) continue;
    const to = numbers.replacedIn(value);
    if (to !== value) texts.set(line, to);
  }
}

/** Fewest characters of a number that is looked for within a text. */
const TELLING = 4;
const isTelling = (number: string): boolean => number.length >= TELLING && /\d/.test(number);

interface NewNumber {
  readonly was: string;
  readonly id: string;
}

/** New numbers by the old ones: however many there are, a text is gone through once. */
class Numbers {
  private readonly whole = new Map<string, string>();
  /** Those that are looked for within a text, by how they begin; the longest first. */
  private readonly telling = new Map<string, NewNumber[]>();

  constructor(products: DxfRenaming['products']) {
    for (const { was, id } of products) {
      if (id === undefined || id === was.id || was.id === '' || this.whole.has(was.id)) continue;
      this.whole.set(was.id, id);
      if (isTelling(was.id)) addTo(this.telling, was.id.slice(0, TELLING), { was: was.id, id });
    }
    for (const numbers of this.telling.values()) numbers.sort((a, b) => b.was.length - a.was.length);
  }

  get isEmpty(): boolean {
    return this.whole.size === 0;
  }

  /** All at once, so that a number that was given is not replaced again. */
  replacedIn(value: string): string {
    const whole = this.whole.get(value);
    if (whole !== undefined) return whole;
    let out = '';
    for (let at = 0; at < value.length;) {
      const found = this.telling
        .get(value.slice(at, at + TELLING))
        ?.find(
          ({ was }) =>
            value.startsWith(was, at) &&
            !/[\p{L}\p{N}_\-./]$/u.test(value.slice(0, at)) &&
            standsAlone(value.slice(at + was.length)),
        );
      out += found ? found.id : (value[at] ?? '');
      at += found ? found.was.length : 1;
    }
    return out;
  }
}

/** Whether a number ends where this goes on: not in a longer one, nor in the name of a file. */
function standsAlone(after: string): boolean {
  return !beginsWithEnding(after) && /^($|[^\p{L}\p{N}_\-./]|[-./]($|\s))/u.test(after);
}

/**
 * A block that is attached is usually called like its file; then it goes on to be. It may be spelled only as a symbol of the
 * format, and no other block may have the name.
 */
function newBlockName(
  { name, locator }: { readonly name: string; readonly locator: string },
  to: string,
  blocks: ReadonlySet<string>,
): string | undefined {
  const base = (path: string): string =>
    path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
  const stem = (path: string): string => base(path).replace(/\.[^.]*$/, '');
  if (name === '' || nameKey(stem(locator)) !== nameKey(name)) return undefined;
  const wanted = stem(to).replace(/[<>/\\":;?*|,=`]/g, '_');
  if (wanted === name) return undefined;
  let free = wanted;
  for (let count = 2; blocks.has(free.toLowerCase()) && free.toLowerCase() !== name.toLowerCase(); count++)
    free = `${wanted}-${count}`;
  return free;
}

/** Symbols that a block's name is part of: the block, its insertions, and layers and styles that came with it (`name|layer`). */
function symbolName(
  { code, value, entity }: { code: number; value: string; entity: string },
  blocks: ReadonlyMap<string, string>,
): string | undefined {
  if (blocks.size === 0) return undefined;
  const isName =
    (code === 2 && (entity === 'BLOCK' || entity === 'INSERT' || entity === 'BLOCK_RECORD')) ||
    (code === 3 && entity === 'BLOCK');
  if (isName) return blocks.get(value.trim().toLowerCase());
  const bar = value.indexOf('|');
  if (bar <= 0 || ![2, 3, 6, 7, 8].includes(code)) return undefined;
  const block = blocks.get(value.slice(0, bar).trim().toLowerCase());
  return block === undefined ? undefined : block + value.slice(bar);
}

function concatenate(pieces: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}
