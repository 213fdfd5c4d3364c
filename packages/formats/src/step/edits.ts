/** Changes of a text of bytes, made all at once. */
export interface Edit {
  readonly start: number;
  readonly end: number;
  /** As it stands in the file. */
  readonly written: string;
}

/** The bytes with some stretches replaced; the rest is the same byte for byte. Stretches do not overlap. `O(bytes)` */
export function applyEdits(bytes: Uint8Array, edits: readonly Edit[]): Uint8Array {
  const encoder = new TextEncoder();
  const sorted = [...edits].sort((a, b) => a.start - b.start || a.end - b.end);
  const parts: Uint8Array[] = [];
  let at = 0;
  for (const edit of sorted) {
    parts.push(bytes.subarray(at, edit.start), encoder.encode(edit.written));
    at = edit.end;
  }
  parts.push(bytes.subarray(at));
  return concatenated(parts);
}

/** Stretches of bytes one behind the other. */
export function concatenated(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let offset = 0;
  for (const part of parts) {
    out.set(part, offset);
    offset += part.length;
  }
  return out;
}
