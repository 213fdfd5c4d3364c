/** New names for a stored DXF file on its way out; every byte that is not one of them stays as it is. */
import { dxfContents } from './read.js';
import { encodeValue, readTags } from './tags.js';

export interface DxfRenaming {
  /** What the title block says of the drawing and of what it shows, from end to end of a field. */
  readonly products: readonly {
    readonly was: { readonly id: string; readonly name: string };
    readonly id?: string;
    readonly name?: string;
  }[];
  /** New paths by the line of the old one; `/` between folders. */
  readonly locators: readonly { readonly ref: number; readonly to: string }[];
}

/**
 * Cost: two passes over the bytes. Returns the same array where nothing changes.
 *
 * @throws FormatError where the file cannot be read
 */
export function rewriteDxf(bytes: Uint8Array, renaming: DxfRenaming): { bytes: Uint8Array; changed: number } {
  const { fields } = dxfContents(bytes);
  const texts = new Map(renaming.locators.map(({ ref, to }) => [ref, to]));
  const words = new Map<string, string>();
  for (const { was, id, name } of renaming.products) {
    if (id !== undefined && was.id !== '') words.set(was.id, id);
    if (name !== undefined && was.name !== '' && !words.has(was.name)) words.set(was.name, name);
  }
  for (const { ref, text } of fields) {
    const to = words.get(text);
    if (to !== undefined && to !== text) texts.set(ref, to);
  }
  const pieces: Uint8Array[] = [];
  let copied = 0;
  let changed = 0;
  for (const { line, start, end, value } of readTags(bytes)) {
    const to = texts.get(line);
    if (to === undefined || to === value) continue;
    pieces.push(bytes.subarray(copied, start), new TextEncoder().encode(encodeValue(to)));
    copied = end;
    changed++;
  }
  if (changed === 0) return { bytes, changed };
  pieces.push(bytes.subarray(copied));
  return { bytes: concatenate(pieces), changed };
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
