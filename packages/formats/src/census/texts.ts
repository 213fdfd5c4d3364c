/**
 * Every text that a design file holds, found without understanding the file: no entity, table or rule of the readers and
 * rewriters is known here, for this is the second witness of what they did. Nothing outside this folder may be imported.
 */

/** One text with the line on which it begins. */
export interface CensusText {
  readonly line: number;
  readonly text: string;
  /** Whether it stands before the data, where a file says how it came to be. */
  readonly isHeader?: boolean;
  /** Whether it may be an ordinary word of a drawing: a mark, a revision, a note. */
  readonly isLettering?: boolean;
}

/**
 * The different texts of a file, each at its first line; undefined for a file that is no text which is ever changed.
 * One pass, `O(bytes)`.
 */
export function textsOf(bytes: Uint8Array): CensusText[] | undefined {
  const start = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  if (/^\uFEFF?(ï»¿)?\s*(\/\*[\s\S]*?\*\/\s*)*ISO-10303-21/i.test(start)) return distinct(quoted(bytes));
  if (/^(\s*999\r?\n[^\n]*\n)*\s*0\r?\n\s*SECTION/.test(start.replace(/^ï»¿/, '')))
    return distinct(valueLines(bytes));
  return undefined;
}

function distinct(all: Iterable<CensusText>): CensusText[] {
  const found = new Map<string, CensusText>();
  for (const each of all) {
    const key = `${each.isHeader === true} ${each.text}`;
    if (each.text !== '' && !found.has(key)) found.set(key, each);
  }
  return [...found.values()];
}

/** What stands between apostrophes or angle brackets; what stands in comments is nobody's name. */
function* quoted(bytes: Uint8Array): Generator<CensusText> {
  const all = decode(bytes);
  const counter = new LineCounter(all);
  const [quote, comment, bracket] = ["'", '/*', '<'].map((sign) => new Next(all, sign)) as [Next, Next, Next];
  const headerEnd = endOfHeader(all);
  for (let at = 0; ;) {
    const [q, c, b] = [quote.from(at), comment.from(at), bracket.from(at)];
    const start = Math.min(q, c, b);
    if (start === Infinity) return;
    if (start === c) {
      const end = all.indexOf('*/', c + 2);
      if (end < 0) return;
      at = end + 2;
      continue;
    }
    const end = start === q ? closing(all, q) : all.indexOf('>', b);
    if (end < 0) return;
    at = end + 1;
    if (end === start + 1) continue;
    const inside = all.slice(start + 1, end);
    const said = start === q ? unescaped(inside) : unescapedUri(inside.replace(/#.*$/, ''));
    yield { line: counter.lineAt(start), text: said, ...(start < headerEnd ? { isHeader: true } : {}) };
  }
}

/** The apostrophe that ends a string; one that is meant is written twice. */
function closing(all: string, open: number): number {
  let end = all.indexOf("'", open + 1);
  while (end >= 0 && all[end + 1] === "'") end = all.indexOf("'", end + 2);
  return end;
}

/** Where the first section ends; a string or a comment that holds the word is no matter, for headers hold few. */
function endOfHeader(all: string): number {
  const end = /ENDSEC\s*;/.exec(all)?.index;
  return end ?? 0;
}

/** The next place of a sign, looked for no more often than it is passed. */
class Next {
  private at = -1;

  constructor(
    private readonly text: string,
    private readonly sign: string,
  ) {}

  from(at: number): number {
    if (this.at < at) {
      const found = this.text.indexOf(this.sign, at);
      this.at = found < 0 ? Infinity : found;
    }
    return this.at;
  }
}

/** A day such as 2026-11-27 is none. */
const NUMBER = /^[-+]?[0-9]*\.?[0-9]*(e[-+]?[0-9]+)?$/i;

/** Every second line, with and without what formats it. */
function* valueLines(bytes: Uint8Array): Generator<CensusText> {
  const lines = decode(bytes).split('\n');
  for (let at = 1; at < lines.length; at += 2) {
    const text = (lines[at] ?? '').replace(/\r$/, '').trim();
    if (text === '' || NUMBER.test(text)) continue;
    const plain = text.replace(/\\U\+([0-9A-F]{4})/gi, (_, hex: string) =>
      String.fromCharCode(parseInt(hex, 16)),
    );
    yield { line: at + 1, text: plain, isLettering: true };
    const bare = plain.replace(/\\[A-Za-z][^;\\{}]*;|\\[A-Za-z~]|[{}]/g, '').trim();
    if (bare !== plain && bare !== '') yield { line: at + 1, text: bare, isLettering: true };
  }
}

/** UTF-8 where it is that, else byte by byte. */
function decode(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('latin1').decode(bytes);
  }
}

/** ISO 10303-21:2016 clause 6.4.3, read anew. */
function unescaped(text: string): string {
  if (!/['\\\r\n]/.test(text)) return text;
  let out = '';
  const flat = text.replace(/[\r\n]/g, '');
  for (let at = 0; at < flat.length;) {
    if (flat.startsWith("''", at)) {
      out += "'";
      at += 2;
    } else if (flat.startsWith('\\\\', at)) {
      out += '\\';
      at += 2;
    } else if (flat.startsWith('\\X2\\', at) || flat.startsWith('\\X4\\', at)) {
      const width = flat[at + 2] === '2' ? 4 : 8;
      const end = flat.indexOf('\\X0\\', at);
      if (end < 0) return out + flat.slice(at);
      for (let hex = at + 4; hex + width <= end; hex += width) {
        const code = parseInt(flat.slice(hex, hex + width), 16);
        out += width === 4 ? String.fromCharCode(code) : code <= 0x10ffff ? String.fromCodePoint(code) : '';
      }
      at = end + 4;
    } else if (flat.startsWith('\\X\\', at)) {
      out += String.fromCharCode(parseInt(flat.slice(at + 3, at + 5), 16));
      at += 5;
    } else if (flat.startsWith('\\S\\', at)) {
      out += String.fromCharCode(flat.charCodeAt(at + 3) + 128);
      at += 4;
    } else if (/^\\P[A-I]\\/.test(flat.slice(at, at + 4))) at += 4;
    else out += flat[at++] ?? '';
  }
  return out;
}

function unescapedUri(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}

/** Lines of growing offsets, counted as they come. */
class LineCounter {
  private line = 1;
  private at = 0;

  constructor(private readonly text: string) {}

  lineAt(offset: number): number {
    for (
      let next = this.text.indexOf('\n', this.at);
      next >= 0 && next < offset;
      next = this.text.indexOf('\n', this.at)
    ) {
      this.line++;
      this.at = next + 1;
    }
    return this.line;
  }
}
