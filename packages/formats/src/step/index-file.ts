/**
 * The first pass over a STEP file: where each instance lies and which instances bear on product structure.
 *
 * Most of a file is geometry. This pass touches each byte once, keeps one offset per instance in a typed
 * array and the instance numbers of the few types asked for, and parses nothing: the records of an instance
 * are parsed when somebody asks for them. That is what keeps reading structure far from loading geometry.
 */
import { StepError, lineAt } from './errors.js';
import { decodeStepString } from './strings.js';
import {
  ascii,
  isDigit,
  isNameByte,
  parseRecords,
  skipBlanks,
  type StepRecord,
  type StepValue,
} from './records.js';

/** An instance that another file defines. */
export interface StepReference {
  readonly id: number;
  /** The URI as written. */
  readonly text: string;
  /** Place of the URI between its angle brackets. */
  readonly start: number;
  readonly end: number;
}

export class StepFile {
  constructor(
    readonly bytes: Uint8Array,
    readonly header: readonly StepRecord[],
    private readonly offsets: OffsetTable,
    private readonly byType: ReadonlyMap<string, readonly number[]>,
    private readonly dotted: readonly number[],
    /** What the REFERENCE section says is defined elsewhere (ISO 10303-21:2016 clause 10). */
    readonly references: readonly StepReference[],
  ) {}

  /** Places of the strings of the data section that end in a dot and a few characters, as names of files do. */
  *fileNames(): Generator<{ readonly start: number; readonly end: number }> {
    for (let at = 0; at < this.dotted.length; at += 2)
      yield { start: this.dotted[at] ?? 0, end: this.dotted[at + 1] ?? 0 };
  }

  /** The string whose token stands at a place. */
  textAt(start: number, end: number): string {
    return decodeStepString(this.bytes.subarray(start + 1, end - 1));
  }

  /** Instance numbers of a type that was asked for when indexing, in file order. */
  idsOf(type: string): readonly number[] {
    return this.byType.get(type) ?? [];
  }

  has(id: number): boolean {
    return this.offsets.get(id) >= 0;
  }

  /**
   * Records of an instance, parsed anew at each call: nearly all are asked for once, and keeping them costs more than
   * parsing a few twice.
   * @throws StepError where no such instance exists
   */
  records(id: number, from = 0): readonly StepRecord[] {
    const offset = this.require(id, from);
    // What another file defines has its number here and nothing else.
    return this.bytes[offset] === 35 ? [] : parseRecords(this.bytes, offset);
  }

  /**
   * Offset of an instance's records.
   * @param from who refers to it, for the message
   * @throws StepError where no such instance exists
   */
  require(id: number, from = 0): number {
    const offset = this.offsets.get(id);
    if (offset >= 0) return offset;
    const what = from > 0 ? `#${from} refers to` : 'reference to';
    throw new StepError(`${what} #${id}, which does not exist`, from > 0 ? this.lineOf(from) : 0);
  }

  /** The record of a given type (or the first of several) in an instance, undefined where it has none. */
  record(id: number, ...types: string[]): StepRecord | undefined {
    return this.records(id).find((record) => types.length === 0 || types.includes(record.type));
  }

  lineOf(id: number): number {
    return lineAt(this.bytes, Math.max(0, this.offsets.get(id)));
  }
}

/** Byte offset of each instance's records, -1 where there is none. */
class OffsetTable {
  private dense = new Float64Array(1024).fill(-1);
  private readonly sparse = new Map<number, number>();

  /**
   * @param denseLimit instance numbers from here on are kept in a map. An instance takes four bytes at the
   *   very least, so honest files stay below a quarter of their length, and a number made up to waste
   *   memory cannot make the array longer than that.
   */
  constructor(private readonly denseLimit: number) {}

  get(id: number): number {
    return (id < this.dense.length ? this.dense[id] : this.sparse.get(id)) ?? -1;
  }

  set(id: number, offset: number): void {
    if (id >= this.denseLimit && id >= this.dense.length) {
      this.sparse.set(id, offset);
      return;
    }
    if (id >= this.dense.length) {
      const grown = new Float64Array(Math.max(id + 1, this.dense.length * 2)).fill(-1);
      grown.set(this.dense);
      this.dense = grown;
    }
    this.dense[id] = offset;
  }
}

/**
 * Indexes a file. `wanted` are the entity types whose instances will be asked for by `idsOf`; a complex
 * instance counts under each of its records' types.
 *
 * Cost: one pass, `O(bytes)`; memory 8 bytes an instance.
 *
 * @throws StepError with the line where the file is cut, or not a STEP file at all
 */
export function indexStepFile(bytes: Uint8Array, wanted: EntityTypes): StepFile {
  let at = skipBlanks(bytes, bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0);
  if (ascii(bytes, at, at + 13).toUpperCase() !== 'ISO-10303-21;') {
    throw new StepError("not a STEP file: it does not begin with 'ISO-10303-21;'", 1);
  }
  at += 13;
  const header: StepRecord[] = [];
  const offsets = new OffsetTable(bytes.length / 4);
  const byType = new Map<string, number[]>(wanted.names.map((type) => [type, []]));
  const dotted: number[] = [];
  const references: StepReference[] = [];
  let section: 'outside' | 'header' | 'anchor' | 'reference' | 'data' = 'outside';
  let sawData = false;

  for (;;) {
    at = skipBlanks(bytes, at);
    const byte = bytes[at];
    if (byte === undefined) throw cut(bytes);
    if (byte === 35 && section === 'data') {
      at = indexInstance(bytes, at, { offsets, byType, wanted, dotted });
      continue;
    }
    if (section === 'reference' && byte !== 69 && byte !== 101) {
      const reference = readReference(bytes, at);
      if (reference) {
        references.push(reference);
        offsets.set(reference.id, at);
      }
      at = endOfStatement(bytes, at) + 1;
      continue;
    }
    if (section === 'anchor' && byte === 60) {
      at = endOfStatement(bytes, at) + 1;
      continue;
    }
    const start = at;
    while (isNameByte(bytes[at])) at++;
    const word = ascii(bytes, start, at).toUpperCase();
    if (word === '') throw new StepError('an instance or a section expected', lineAt(bytes, start));
    if (word === 'END-ISO-10303-21') break;
    if (word === 'HEADER') section = 'header';
    else if (word === 'ANCHOR') section = 'anchor';
    else if (word === 'REFERENCE') section = 'reference';
    else if (word === 'DATA') {
      section = 'data';
      sawData = true;
    } else if (word === 'ENDSEC') section = 'outside';
    else if (section === 'header') header.push(...parseRecords(bytes, start));
    else if (section === 'data')
      throw new StepError(`'${word}' in the data section has no number`, lineAt(bytes, start));
    at = endOfStatement(bytes, at) + 1;
  }
  if (!sawData) throw new StepError('the file has no data section', lineAt(bytes, at));
  return new StepFile(bytes, header, offsets, byType, dotted, references);
}

/** `#10=<part.stp#id>;`; values that are defined elsewhere, `@10=<…>`, are no instances. */
function readReference(bytes: Uint8Array, from: number): StepReference | undefined {
  if (bytes[from] !== 35) return undefined;
  let at = from + 1;
  let id = 0;
  while (isDigit(bytes[at])) id = id * 10 + (bytes[at++] as number) - 48;
  at = skipBlanks(bytes, at);
  if (bytes[at] !== 61) return undefined;
  const open = skipBlanks(bytes, at + 1);
  const close = bytes.indexOf(62, open);
  if (bytes[open] !== 60 || close < 0 || at - from > 16) return undefined;
  return { id, text: decodeStepString(bytes.subarray(open + 1, close)), start: open + 1, end: close };
}

interface Indexing {
  readonly offsets: OffsetTable;
  readonly byType: Map<string, number[]>;
  readonly wanted: EntityTypes;
  readonly dotted: number[];
}

function indexInstance(
  bytes: Uint8Array,
  hash: number,
  { offsets, byType, wanted, dotted }: Indexing,
): number {
  let at = hash + 1;
  let id = 0;
  while (isDigit(bytes[at])) id = id * 10 + (bytes[at++] as number) - 48;
  if (at === hash + 1 || at - hash > 16)
    throw new StepError('an instance number is malformed', lineAt(bytes, hash));
  at = skipBlanks(bytes, at);
  if (bytes[at] !== 61) throw new StepError(`'=' expected after #${id}`, lineAt(bytes, at));
  at = skipBlanks(bytes, at + 1);
  if (offsets.get(id) >= 0) throw new StepError(`#${id} is defined twice`, lineAt(bytes, at));
  offsets.set(id, at);
  if (bytes[at] === 40) {
    // A complex instance: few in number, and its types come in alphabetical order, so look at all of them.
    for (const type of complexTypes(bytes, at)) byType.get(type)?.push(id);
  } else {
    const type = wanted.find(bytes, at);
    if (type !== undefined) byType.get(type)?.push(id);
  }
  return endOfStatement(bytes, at, dotted) + 1;
}

function complexTypes(bytes: Uint8Array, open: number): string[] {
  const types: string[] = [];
  let depth = 0;
  for (let at = open; at < bytes.length; at++) {
    const byte = bytes[at];
    if (byte === 39) at = endOfString(bytes, at);
    else if (byte === 40) depth++;
    else if (byte === 41) {
      if (--depth === 0) return types;
    } else if (byte === 59) return types;
    else if (depth === 1 && isNameByte(byte)) {
      const start = at;
      while (isNameByte(bytes[at])) at++;
      types.push(ascii(bytes, start, at--).toUpperCase());
    }
  }
  return types;
}

/**
 * Offset of the `;` that ends the statement; strings and comments may contain others.
 *
 * @param dotted gets start and end of each string that ends like a file name
 */
function endOfStatement(bytes: Uint8Array, from: number, dotted?: number[]): number {
  const length = bytes.length;
  for (let at = from; at < length; at++) {
    const byte = bytes[at] as number;
    if (byte > 59) continue;
    if (byte === 59) return at;
    if (byte === 39) {
      const open = at;
      at = endOfString(bytes, at);
      // An apostrophe that is meant is written twice, so that a string may seem to be several.
      while (bytes[at + 1] === 39) at = endOfString(bytes, at + 1);
      if (dotted && endsDotted(bytes, open, at)) dotted.push(open, at + 1);
    } else if (byte === 47 && bytes[at + 1] === 42) at = skipBlanks(bytes, at) - 1;
  }
  throw cut(bytes);
}

/** Whether a dot stands two to six characters before the end of a string; blanks behind do not count. */
function endsDotted(bytes: Uint8Array, open: number, close: number): boolean {
  let last = close - 1;
  while (last > open && (bytes[last] as number) <= 32) last--;
  for (let at = last - 2; at > open && at >= last - 6; at--) if (bytes[at] === 46) return true;
  return false;
}

/** Offset of the closing apostrophe; a doubled one just opens the next string, which comes to the same. */
function endOfString(bytes: Uint8Array, open: number): number {
  const close = bytes.indexOf(39, open + 1);
  if (close < 0) throw new StepError('a string is not closed', lineAt(bytes, open));
  return close;
}

function cut(bytes: Uint8Array): StepError {
  return new StepError("the file is cut: it ends before 'END-ISO-10303-21;'", lineAt(bytes, bytes.length));
}

/** A few entity types; finds which of them stands at an offset without making a string of each keyword met. */
export class EntityTypes {
  private readonly byHash = new Map<number, { text: string; codes: Uint8Array }[]>();

  constructor(readonly names: readonly string[]) {
    for (const text of names) {
      const codes = Uint8Array.from(text, (char) => char.charCodeAt(0));
      let hash = 0;
      for (const code of codes) hash = (hash * 31 + code) | 0;
      const bucket = this.byHash.get(hash) ?? [];
      bucket.push({ text, codes });
      this.byHash.set(hash, bucket);
    }
  }

  find(bytes: Uint8Array, start: number): string | undefined {
    let hash = 0;
    let at = start;
    for (; ; at++) {
      let byte = bytes[at];
      if (byte === undefined || !isNameByte(byte)) break;
      if (byte >= 97) byte -= 32;
      hash = (hash * 31 + byte) | 0;
    }
    const length = at - start;
    return this.byHash
      .get(hash)
      ?.find(
        ({ codes }) => codes.length === length && codes.every((code, i) => code === upper(bytes[start + i])),
      )?.text;
  }
}

function upper(byte: number | undefined): number {
  return byte === undefined ? 0 : byte >= 97 && byte <= 122 ? byte - 32 : byte;
}

// Accessors: a value of another kind than asked for counts as absent, since exporters leave blanks,
// `$` and numbers where a text is expected.

export function textOf(value: StepValue | undefined): string | undefined {
  if (value?.kind === 'text') return value.text;
  if (value?.kind === 'typed') return textOf(value.items[0]);
  return undefined;
}

export function refOf(value: StepValue | undefined): number | undefined {
  return value?.kind === 'ref' ? value.id : undefined;
}

export function refsOf(value: StepValue | undefined): number[] {
  return value?.kind === 'list' ? value.items.flatMap((item) => (item.kind === 'ref' ? [item.id] : [])) : [];
}

export function numberOf(value: StepValue | undefined): number | undefined {
  if (value?.kind === 'number') return value.value;
  if (value?.kind === 'typed') return numberOf(value.items[0]);
  return undefined;
}

export function numbersOf(value: StepValue | undefined): number[] {
  return value?.kind === 'list' ? value.items.map((item) => numberOf(item) ?? 0) : [];
}
