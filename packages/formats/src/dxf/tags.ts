/**
 * The two-line groups of an ASCII DXF file: a group code, then a value. Values keep their place in the bytes, so that
 * one can be replaced and everything else stays as it is.
 */
import { FormatError, KeptWhole } from '../errors.js';

export interface DxfTag {
  readonly code: number;
  readonly value: string;
  /** 1-based line of the value. */
  readonly line: number;
  /** Place of the value's bytes, without the line end. */
  readonly start: number;
  readonly end: number;
}

const NEWLINE = 10;
const RETURN = 13;

/** `\U+00B0`: a character that the file's encoding lacks. */
const ESCAPE = /\\U\+([0-9A-Fa-f]{4})/g;

/**
 * Reads the groups one after another. `O(bytes)`.
 *
 * @throws FormatError where a group code is no number, or the file is the binary form
 */
export function* readTags(bytes: Uint8Array): Generator<DxfTag> {
  if (new TextDecoder('latin1').decode(bytes.subarray(0, 32)).includes('Binary DXF'))
    throw new KeptWhole('this is a binary DXF file; only ASCII DXF can be read', 0);
  const decoder = decoderFor(bytes);
  const cursor = new Lines(bytes);
  for (let codeLine = cursor.next(); codeLine; codeLine = cursor.next()) {
    const text = decoder.decode(bytes.subarray(codeLine.start, codeLine.end)).trim();
    if (text === '' && cursor.atEnd()) return;
    const value = cursor.next();
    if (!/^-?\d{1,5}$/.test(text))
      throw new FormatError(`'${text.slice(0, 40)}' stands where a group code should`, codeLine.line);
    if (!value) throw new FormatError(`the file ends after group code ${text}`, codeLine.line);
    yield {
      code: Number(text),
      value: decodeEscapes(decoder.decode(bytes.subarray(value.start, value.end))),
      line: value.line,
      start: value.start,
      end: value.end,
    };
  }
}

/** Newer files are UTF-8, older ones of some code page; what is no UTF-8 is read as the usual western one. */
function decoderFor(bytes: Uint8Array): InstanceType<typeof TextDecoder> {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return new TextDecoder('utf-8');
  } catch {
    return new TextDecoder('windows-1252');
  }
}

function decodeEscapes(text: string): string {
  return text.includes('\\U+')
    ? text.replace(ESCAPE, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)))
    : text;
}

/** First version of the format whose files are UTF-8 (DXF reference, `$ACADVER`): release 2007. */
const FIRST_IN_UTF8 = 'AC1021';

/** Whether a file of the version that its header states is UTF-8. */
export function isUtf8Version(version: string | undefined): boolean {
  return version !== undefined && /^AC\d{4}$/.test(version) && version >= FIRST_IN_UTF8;
}

/**
 * A value as it is written: as it is in a file that is UTF-8 by its version, else in ASCII, which every reader takes whatever
 * the file's code page.
 */
export function encodeValue(text: string, isUtf8: boolean): string {
  const flat = text.replace(/[\r\n]/g, ' ');
  return isUtf8 ? flat : asciiOf(flat);
}

function asciiOf(text: string): string {
  return text
    .split('')
    .map((unit) => {
      const code = unit.charCodeAt(0);
      return code < 0x20 || code > 0x7e ? `\\U+${code.toString(16).toUpperCase().padStart(4, '0')}` : unit;
    })
    .join('');
}

class Lines {
  private at = 0;
  private line = 0;

  constructor(private readonly bytes: Uint8Array) {}

  atEnd(): boolean {
    return this.at >= this.bytes.length;
  }

  next(): { start: number; end: number; line: number } | undefined {
    const { bytes } = this;
    if (this.at >= bytes.length) return undefined;
    const start = this.at;
    const found = bytes.indexOf(NEWLINE, start);
    const stop = found < 0 ? bytes.length : found;
    this.at = stop + 1;
    this.line++;
    const end = stop > start && bytes[stop - 1] === RETURN ? stop - 1 : stop;
    return { start, end, line: this.line };
  }
}
