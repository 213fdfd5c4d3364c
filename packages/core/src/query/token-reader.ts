/** Goes through the tokens of a query, one after another. */
import type { QueryProblem, Span } from './query.js';
import { tokenise, type Token } from './tokens.js';

/** A query that does not say what its language allows; caught where parsing begins. */
export class Wrong extends Error {
  constructor(readonly problem: QueryProblem) {
    super(problem.says);
  }
}

export class TokenReader {
  private readonly tokens: readonly Token[];
  private at = 0;

  constructor(readonly text: string) {
    this.tokens = tokenise(text);
  }

  get next(): Token {
    return this.peek(0);
  }

  peek(ahead: number): Token {
    const token = this.tokens[this.at + ahead] ?? this.tokens.at(-1);
    if (!token) throw new Error('a text has at least its end');
    return token;
  }

  wrong(at: Span, says: string): never {
    throw new Wrong({ from: at.from, to: at.to, says });
  }

  /** Whether words follow, in any case; a phrase is never one of the language's own words. */
  follows(...words: readonly string[]): boolean {
    return words.every((word, ahead) => {
      const token = this.peek(ahead);
      return token.kind === 'word' && token.text.toLowerCase() === word;
    });
  }

  take(...words: readonly string[]): boolean {
    if (!this.follows(...words)) return false;
    this.at += words.length;
    return true;
  }

  /** One word or a phrase. */
  value(name: string): Token {
    const token = this.next;
    if (token.kind === 'phrase' && !token.isClosed) this.wrong(token, 'This quote is never closed.');
    if (token.kind !== 'word' && token.kind !== 'phrase')
      this.wrong(token, `What should ${name} be? Write a word, or several in quotes.`);
    this.at++;
    return token;
  }

  /** The longest of some names that the next words make up; they are taken then. */
  longest(names: readonly string[]): string | undefined {
    let best: { readonly name: string; readonly length: number } | undefined;
    for (const name of names) {
      const parts = tokenise(name.toLowerCase()).slice(0, -1);
      const fits =
        parts.length > 0 &&
        parts.every(({ text }, ahead) => {
          const token = this.peek(ahead);
          return token.kind !== 'phrase' && token.kind !== 'end' && token.text.toLowerCase() === text;
        });
      if (fits && parts.length > (best?.length ?? 0)) best = { name, length: parts.length };
    }
    this.at += best?.length ?? 0;
    return best?.name;
  }

  skip(count = 1): void {
    this.at += count;
  }
}

export function isOperand({ kind }: Token): boolean {
  return kind === 'word' || kind === 'phrase';
}
