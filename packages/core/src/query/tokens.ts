import type { Span } from './query.js';

export type TokenKind = 'word' | 'phrase' | 'sign' | 'open' | 'close' | 'comma' | 'to' | 'end';

export interface Token extends Span {
  readonly kind: TokenKind;
  /** Of a phrase what is between the quotes. */
  readonly text: string;
  /** Of a phrase: whether it ends. */
  readonly isClosed: boolean;
}

/** One way to write each. */
const SIGNS: Readonly<Record<string, string>> = {
  '=': '=',
  '!=': '≠',
  '≠': '≠',
  '<': '<',
  '<=': '≤',
  '≤': '≤',
  '>': '>',
  '>=': '≥',
  '≥': '≥',
};
const PIECES: readonly (readonly [TokenKind, RegExp])[] = [
  ['open', /\(/y],
  ['close', /\)/y],
  ['comma', /,(?!\d)/y],
  ['to', /\.\.+|…/y],
  ['sign', /!=|<=|>=|[=≠<≤>≥]/y],
  // A quote that is meant is written twice.
  ['phrase', /"((?:[^"]|"")*)("|$)/y],
  // A word goes on until a blank or a sign; a point ends it only where a second one follows.
  ['word', /(?:\.(?!\.)|,(?=\d)|!(?!=)|[^\s()",.=≠<≤>≥!…])+/y],
];

/** Cuts a text into tokens; any text can be cut. The last one is the end. `O(length)` */
export function tokenise(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  while (at < text.length) {
    if (/\s/.test(text[at] ?? '')) {
      at++;
      continue;
    }
    const token = tokenAt(text, at);
    tokens.push(token);
    at = token.to;
  }
  tokens.push({ kind: 'end', text: '', from: text.length, to: text.length, isClosed: true });
  return tokens;
}

function tokenAt(text: string, from: number): Token {
  for (const [kind, pattern] of PIECES) {
    pattern.lastIndex = from;
    const found = pattern.exec(text);
    if (!found) continue;
    const [whole, inside = '', quote] = found;
    return {
      kind,
      text:
        kind === 'phrase' ? inside.replaceAll('""', '"') : kind === 'sign' ? (SIGNS[whole] ?? whole) : whole,
      from,
      to: from + whole.length,
      isClosed: quote !== '',
    };
  }
  // A lone point, comma or exclamation mark.
  return { kind: 'word', text: text[from] ?? '', from, to: from + 1, isClosed: true };
}
