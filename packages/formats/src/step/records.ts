import { StepError, lineAt } from './errors.js';
import { decodeStepString } from './strings.js';

/** A value inside a record; nested lists and typed values keep their shape. */
export type StepValue =
  | { readonly kind: 'text'; readonly text: string; readonly start: number; readonly end: number }
  | { readonly kind: 'number'; readonly value: number }
  | { readonly kind: 'ref'; readonly id: number }
  | { readonly kind: 'word'; readonly word: string }
  | { readonly kind: 'list'; readonly items: readonly StepValue[] }
  | { readonly kind: 'typed'; readonly type: string; readonly items: readonly StepValue[] }
  | { readonly kind: 'none' };

/** One simple record, `TYPE(…)`; a complex instance has several. */
export interface StepRecord {
  readonly type: string;
  readonly values: readonly StepValue[];
}

const NONE: StepValue = { kind: 'none' };
const MAX_DEPTH = 64;

/**
 * Reads the records of one instance, or of a header entity, from the first byte of its type name or of the
 * bracket that opens a complex instance (ISO 10303-21:2016 clauses 9.2, 10.2).
 *
 * @throws StepError at the first byte that does not belong there
 */
export function parseRecords(bytes: Uint8Array, offset: number): StepRecord[] {
  const cursor = new Cursor(bytes, offset);
  if (cursor.peek() !== 40) return [cursor.record()];
  cursor.take();
  const records: StepRecord[] = [];
  while (cursor.peek() !== 41) records.push(cursor.record());
  return records;
}

class Cursor {
  constructor(
    private readonly bytes: Uint8Array,
    private at: number,
  ) {}

  peek(): number {
    this.skipBlanks();
    const byte = this.bytes[this.at];
    if (byte === undefined) throw this.wrong('the file ends inside an instance');
    return byte;
  }

  take(): number {
    const byte = this.peek();
    this.at++;
    return byte;
  }

  record(): StepRecord {
    const type = this.name();
    return { type, values: this.values(0) };
  }

  private values(depth: number): StepValue[] {
    if (depth > MAX_DEPTH) throw this.wrong(`brackets are nested deeper than ${MAX_DEPTH}`);
    if (this.take() !== 40) throw this.wrong("'(' expected", this.at - 1);
    const values: StepValue[] = [];
    if (this.peek() === 41) {
      this.at++;
      return values;
    }
    for (;;) {
      values.push(this.value(depth + 1));
      const next = this.take();
      if (next === 41) return values;
      if (next !== 44) throw this.wrong("',' or ')' expected", this.at - 1);
    }
  }

  private value(depth: number): StepValue {
    const byte = this.peek();
    if (byte === 39) return this.text();
    if (byte === 35) {
      this.at++;
      return { kind: 'ref', id: this.integer() };
    }
    if (byte === 36 || byte === 42) {
      this.at++;
      return NONE;
    }
    if (byte === 40) return { kind: 'list', items: this.values(depth) };
    if (byte === 46) return this.enumeration();
    if (byte === 34) return this.binary();
    if (isDigit(byte) || byte === 43 || byte === 45) return this.number();
    if (isLetter(byte)) return { kind: 'typed', type: this.name(), items: this.values(depth) };
    throw this.wrong(`unexpected character '${printable(byte)}'`);
  }

  private text(): StepValue {
    const start = this.at;
    let i = start + 1;
    for (; ; i++) {
      const byte = this.bytes[i];
      if (byte === undefined) throw this.wrong('a string is not closed', start);
      if (byte !== 39) continue;
      if (this.bytes[i + 1] !== 39) break;
      i++;
    }
    this.at = i + 1;
    return { kind: 'text', text: decodeStepString(this.bytes.subarray(start + 1, i)), start, end: i + 1 };
  }

  private enumeration(): StepValue {
    const start = ++this.at;
    while (isNameByte(this.bytes[this.at])) this.at++;
    if (this.bytes[this.at] !== 46) throw this.wrong("'.' expected after an enumeration value");
    return { kind: 'word', word: ascii(this.bytes, start, this.at++) };
  }

  private binary(): StepValue {
    const end = this.bytes.indexOf(34, this.at + 1);
    if (end < 0) throw this.wrong('a binary value is not closed');
    this.at = end + 1;
    return NONE;
  }

  private number(): StepValue {
    const start = this.at;
    while (isNumberByte(this.bytes[this.at])) this.at++;
    const value = Number(ascii(this.bytes, start, this.at));
    if (!Number.isFinite(value)) throw this.wrong('a number is malformed', start);
    return { kind: 'number', value };
  }

  private integer(): number {
    const start = this.at;
    while (isDigit(this.bytes[this.at])) this.at++;
    if (this.at === start || this.at - start > 15) throw this.wrong('an instance number is malformed', start);
    return Number(ascii(this.bytes, start, this.at));
  }

  private name(): string {
    if (!isLetter(this.peek())) throw this.wrong('an entity name expected');
    const start = this.at;
    while (isNameByte(this.bytes[this.at])) this.at++;
    return ascii(this.bytes, start, this.at).toUpperCase();
  }

  private skipBlanks(): void {
    this.at = skipBlanks(this.bytes, this.at);
  }

  private wrong(reason: string, at = this.at): StepError {
    return new StepError(reason, lineAt(this.bytes, at));
  }
}

/** Offset of the first byte at or after `at` that is neither blank nor comment (clause 5.6). */
export function skipBlanks(bytes: Uint8Array, at: number): number {
  for (;;) {
    const byte = bytes[at];
    if (byte !== undefined && byte <= 32) at++;
    else if (byte === 47 && bytes[at + 1] === 42) {
      let i = at + 2;
      while (i < bytes.length && !(bytes[i] === 42 && bytes[i + 1] === 47)) i++;
      if (i >= bytes.length) throw new StepError('a comment is not closed', lineAt(bytes, at));
      at = i + 2;
    } else return at;
  }
}

export function isDigit(byte: number | undefined): boolean {
  return byte !== undefined && byte >= 48 && byte <= 57;
}

function isLetter(byte: number | undefined): boolean {
  return (
    byte !== undefined &&
    ((byte >= 65 && byte <= 90) || (byte >= 97 && byte <= 122) || byte === 33 || byte === 95)
  );
}

/** Bytes of a keyword: letters, digits, underscore, hyphen (END-ISO) and the mark of user-defined names. */
export function isNameByte(byte: number | undefined): boolean {
  return isLetter(byte) || isDigit(byte) || byte === 45;
}

function isNumberByte(byte: number | undefined): boolean {
  return isDigit(byte) || byte === 43 || byte === 45 || byte === 46 || byte === 69 || byte === 101;
}

export function ascii(bytes: Uint8Array, start: number, end: number): string {
  let text = '';
  for (let i = start; i < end; i++) text += String.fromCharCode(bytes[i] ?? 0);
  return text;
}

function printable(byte: number): string {
  return byte > 32 && byte < 127 ? String.fromCharCode(byte) : `0x${byte.toString(16)}`;
}
