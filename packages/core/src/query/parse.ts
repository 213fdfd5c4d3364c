/** Reads what was typed into the find box; the language is described in docs/find.md. */
import { closest, distance } from 'fastest-levenshtein';
import type { PropertyDefinition } from '../properties/properties.js';
import { BELONGINGS, ITEM_RELATIONS, OPTION_FIELDS, TEXT_FIELDS, TIME_FIELDS } from './fields.js';
import {
  MAX_DEPTH,
  MAX_QUERY,
  type Belonging,
  type ItemRelation,
  type OptionField,
  type ParsedQuery,
  type Query,
  type QueryProblem,
  type QueryWords,
  type Span,
  type TextField,
  type TimeField,
} from './query.js';
import { isOperand, TokenReader, Wrong } from './token-reader.js';
import type { Token } from './tokens.js';
import { ValueReader } from './values.js';

/** Reads a query. Any text gives a query or a problem that says where it is; never an exception. `O(length)` */
export function parseQuery(text: string, words: QueryWords): ParsedQuery {
  if (text.length > MAX_QUERY)
    return problem({
      from: MAX_QUERY,
      to: text.length,
      says: `A search has at most ${MAX_QUERY} characters.`,
    });
  try {
    return { kind: 'query', query: new Parser(text, words).all() };
  } catch (error) {
    if (error instanceof Wrong) return problem(error.problem);
    throw error;
  }
}

function problem(found: QueryProblem): ParsedQuery {
  return { kind: 'problem', problem: found };
}

/** How a field that stands before a sign is to be read. */
type Field =
  | { readonly kind: 'text'; readonly name: TextField }
  | { readonly kind: 'option'; readonly name: OptionField; readonly options: readonly string[] }
  | { readonly kind: 'time'; readonly name: TimeField }
  | { readonly kind: 'person' }
  | { readonly kind: 'property'; readonly definition: PropertyDefinition };

class Parser {
  private readonly reader: TokenReader;
  private readonly values: ValueReader;
  private depth = 0;

  constructor(
    text: string,
    private readonly words: QueryWords,
  ) {
    this.reader = new TokenReader(text);
    this.values = new ValueReader(this.reader, words);
  }

  all(): Query {
    if (this.reader.next.kind === 'end') return { kind: 'all' };
    const query = this.either();
    if (this.reader.next.kind === 'close')
      this.reader.wrong(this.reader.next, 'This bracket closes none. Take it away, or open one before.');
    return query;
  }

  private either(): Query {
    const parts = [this.every()];
    while (this.reader.take('or')) parts.push(this.every());
    return joined('or', parts);
  }

  private every(): Query {
    const parts = [this.single()];
    for (;;) {
      const hasAnd = this.reader.take('and');
      if (
        !hasAnd &&
        (this.reader.next.kind === 'end' || this.reader.next.kind === 'close' || this.reader.follows('or'))
      )
        break;
      parts.push(this.single());
    }
    return joined('and', parts);
  }

  private single(): Query {
    if (++this.depth > MAX_DEPTH)
      this.reader.wrong(this.reader.next, `Brackets and not go at most ${MAX_DEPTH} deep.`);
    const query = this.reader.take('not') ? negated(this.single()) : this.operand();
    this.depth--;
    return query;
  }

  private operand(): Query {
    const token = this.reader.next;
    switch (token.kind) {
      case 'open': {
        this.reader.skip();
        const inside = this.either();
        if (this.reader.next.kind !== 'close') this.reader.wrong(token, 'This bracket is never closed.');
        this.reader.skip();
        return inside;
      }
      case 'end':
        return this.reader.wrong(token, 'Something is missing at the end: a word or a filter.');
      case 'close':
        return this.reader.wrong(token, 'Something is missing before this bracket: a word or a filter.');
      case 'comma':
      case 'to':
      case 'sign':
        return this.reader.wrong(
          token,
          `'${token.text}' stands after a name, as in state = draft, released.`,
        );
      case 'word':
      case 'phrase':
        return this.filter() ?? this.relation() ?? this.plain();
    }
  }

  /** A name with a sign and what it is held against; undefined where no sign follows. */
  private filter(): Query | undefined {
    const length = this.signAfter();
    if (length === 0) return undefined;
    const first = this.reader.next;
    const name = Array.from({ length }, (_, ahead) => this.reader.peek(ahead).text).join(' ');
    const span = { from: first.from, to: this.reader.peek(length - 1).to };
    const field = this.field(name, span);
    this.reader.skip(length);
    const sign = this.reader.next;
    this.reader.skip();
    const query = this.against(field, name, sign);
    return sign.text === '≠' ? negated(query) : query;
  }

  /** How many words make up the name before a sign; 0 where there is none. */
  private signAfter(): number {
    if (this.reader.next.kind === 'phrase') return this.isSign(1, this.reader.next.text) ? 1 : 0;
    // Names of properties may have blanks; the longest that is known counts.
    for (let length = 6; length > 1; length--) {
      const tokens = Array.from({ length }, (_, ahead) => this.reader.peek(ahead));
      const name = tokens.map(({ text }) => text).join(' ');
      if (tokens.every(({ kind }) => kind === 'word') && this.definition(name) && this.isSign(length, name))
        return length;
    }
    return this.isSign(1, this.reader.next.text) ? 1 : 0;
  }

  /** `has` is a word that people look for as well: it is a sign only after a name that there is. */
  private isSign(ahead: number, name: string): boolean {
    const token = this.reader.peek(ahead);
    if (token.kind === 'sign') return true;
    return (
      token.kind === 'word' &&
      token.text.toLowerCase() === 'has' &&
      isOperand(this.reader.peek(ahead + 1)) &&
      fieldNames(this.words).some((known) => known.toLowerCase() === name.toLowerCase())
    );
  }

  private definition(name: string): PropertyDefinition | undefined {
    const wanted = name.toLowerCase();
    return this.words.properties.find((property) => property.name.toLowerCase() === wanted);
  }

  private field(name: string, span: Span): Field {
    const key = name.toLowerCase();
    if (isKey(TEXT_FIELDS, key)) return { kind: 'text', name: key };
    if (key === 'class') return { kind: 'option', name: 'class', options: this.words.classes };
    if (key === 'state') return { kind: 'option', name: 'state', options: this.words.states };
    if (isKey(OPTION_FIELDS, key)) return { kind: 'option', name: key, options: OPTION_FIELDS[key] };
    if (isKey(TIME_FIELDS, key)) return { kind: 'time', name: key };
    if (key === 'by') return { kind: 'person' };
    const definition = this.definition(name);
    if (definition) return { kind: 'property', definition };
    const known = fieldNames(this.words);
    const near = closest(
      key,
      known.map((each) => each.toLowerCase()),
    );
    const hint =
      distance(key, near) <= Math.max(2, key.length / 3)
        ? `Did you mean ${known.find((each) => each.toLowerCase() === near) ?? near}?`
        : 'Begin to type a name to see those there are, or put it in quotes to look for the words.';
    return this.reader.wrong(span, `There is no property '${name}'. ${hint}`);
  }

  private against(field: Field, name: string, sign: Token): Query {
    const has = sign.kind === 'word';
    const how = has ? 'has' : 'is';
    switch (field.kind) {
      case 'text':
        this.values.onlyEquals(sign, true, name);
        return { kind: 'text', field: field.name, how, text: this.reader.value(name).text };
      case 'option':
        this.values.onlyEquals(sign, false, name);
        return { kind: 'option', field: field.name, values: this.values.options(name, field.options) };
      case 'person':
        this.values.onlyEquals(sign, false, name);
        return { kind: 'by', login: this.values.person() };
      case 'time':
        return { kind: 'time', field: field.name, range: this.values.days(name, sign) };
      case 'property':
        return this.property(field.definition, sign, how);
    }
  }

  private property(definition: PropertyDefinition, sign: Token, how: 'is' | 'has'): Query {
    const { name } = definition;
    switch (definition.kind) {
      case 'number':
        if (how === 'has') return this.values.onlySigns(sign, name);
        return { kind: 'quantity', name, ...this.values.quantities(definition, sign) };
      case 'date':
        return { kind: 'day', name, range: this.values.days(name, sign) };
      case 'choice':
        this.values.onlyEquals(sign, false, name);
        return { kind: 'property', name, how, texts: this.values.options(name, definition.choices) };
      case 'yes/no':
        this.values.onlyEquals(sign, false, name);
        return { kind: 'property', name, how, texts: this.values.options(name, ['yes', 'no']) };
      case 'text':
        this.values.onlyEquals(sign, true, name);
        return { kind: 'property', name, how, texts: [this.reader.value(name).text] };
    }
  }

  /** Filters made of the language's own words. */
  private relation(): Query | undefined {
    for (const relation of Object.keys(ITEM_RELATIONS) as ItemRelation[]) {
      const words = relation.split(' ');
      // `like` alone may be meant as a word.
      if (!this.reader.follows(...words) || !isOperand(this.reader.peek(words.length))) continue;
      this.reader.skip(words.length);
      const { text, from, to } = this.reader.value(relation);
      return { kind: 'relation', relation, item: text, at: { from, to } };
    }
    if (this.reader.take('held', 'by')) return { kind: 'held', login: this.values.person() };
    if (this.reader.take('held')) return { kind: 'held' };
    if (this.reader.take('behind')) return { kind: 'behind' };
    if (this.reader.take('unused')) return { kind: 'unused' };
    if (this.reader.follows('in') && isOperand(this.reader.peek(1))) return this.place();
    for (const word of ['with', 'without'] as const) {
      if (!this.reader.follows(word) || !isOperand(this.reader.peek(1))) continue;
      this.reader.skip();
      const having: Query = { kind: 'with', what: this.belonging(word) };
      return word === 'with' ? having : negated(having);
    }
    return undefined;
  }

  private place(): Query | undefined {
    const token = this.reader.peek(1);
    if (!token.text.startsWith('/') && token.kind !== 'phrase') return undefined;
    this.reader.skip(2);
    if (!token.text.startsWith('/'))
      return this.reader.wrong(token, `A place begins with a slash: in "/${token.text}".`);
    // A path may have blanks without being in quotes, where such a place is known.
    const rest = this.reader.text.slice(token.from).toLowerCase();
    const known =
      token.kind === 'phrase'
        ? undefined
        : this.words.places
            .filter((path) => path.includes(' ') && rest.startsWith(path.toLowerCase()))
            .sort((a, b) => b.length - a.length)[0];
    if (known === undefined) return { kind: 'in', place: token.text };
    while (this.reader.next.kind !== 'end' && this.reader.next.from < token.from + known.length)
      this.reader.skip();
    return { kind: 'in', place: known };
  }

  private belonging(word: 'with' | 'without'): Belonging | { readonly property: string } {
    const property = this.reader.longest(this.words.properties.map(({ name }) => name));
    if (property !== undefined) return { property };
    const token = this.reader.value(word);
    const key = token.text.toLowerCase();
    if (isKey(BELONGINGS, key)) return key;
    const named = this.definition(token.text);
    if (named) return { property: named.name };
    return this.reader.wrong(
      token,
      `With or without what? There are ${Object.keys(BELONGINGS).join(', ')}, and the names of properties; not '${token.text}'.`,
    );
  }

  private plain(): Query {
    const token = this.reader.next;
    if (token.kind === 'phrase' && !token.isClosed) this.reader.wrong(token, 'This quote is never closed.');
    this.reader.skip();
    return token.text.trim() === '' ? { kind: 'all' } : { kind: 'words', text: token.text.trim() };
  }
}

/** Everything that can stand before a sign. */
export function fieldNames(words: QueryWords): string[] {
  return [
    ...Object.keys(TEXT_FIELDS),
    ...Object.keys(OPTION_FIELDS),
    'state',
    'class',
    ...Object.keys(TIME_FIELDS),
    'by',
    ...words.properties.map(({ name }) => name),
  ];
}

function joined(kind: 'and' | 'or', parts: readonly Query[]): Query {
  const [only] = parts;
  return parts.length === 1 && only ? only : { kind, parts };
}

function negated(part: Query): Query {
  return part.kind === 'not' ? part.part : { kind: 'not', part };
}

function isKey<K extends string>(record: Readonly<Record<K, unknown>>, key: string): key is K {
  return Object.hasOwn(record, key);
}
