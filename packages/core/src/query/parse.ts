/** Reads what was typed into the find box; the language is described in docs/find.md. */
import { closest, distance } from 'fastest-levenshtein';
import type { PropertyDefinition } from '../properties/properties.js';
import { areCompatible, parseQuantity, toSi } from '../quantity/quantity.js';
import { readDays } from './days.js';
import { BELONGINGS, ITEM_RELATIONS, OPTION_FIELDS, TEXT_FIELDS, TIME_FIELDS } from './fields.js';
import {
  MAX_DEPTH,
  MAX_QUERY,
  type Belonging,
  type DayRange,
  type ItemRelation,
  type OptionField,
  type ParsedQuery,
  type Query,
  type QueryProblem,
  type QueryWords,
  type Range,
  type Span,
  type TextField,
  type TimeField,
} from './query.js';
import { tokenise, type Token } from './tokens.js';

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

class Wrong extends Error {
  constructor(readonly problem: QueryProblem) {
    super(problem.says);
  }
}

/** How a field that stands before a sign is to be read. */
type Field =
  | { readonly kind: 'text'; readonly name: TextField }
  | { readonly kind: 'option'; readonly name: OptionField; readonly options: readonly string[] }
  | { readonly kind: 'time'; readonly name: TimeField }
  | { readonly kind: 'person' }
  | { readonly kind: 'property'; readonly definition: PropertyDefinition };

class Parser {
  private readonly tokens: readonly Token[];
  private at = 0;
  private depth = 0;

  constructor(
    private readonly text: string,
    private readonly words: QueryWords,
  ) {
    this.tokens = tokenise(text);
  }

  all(): Query {
    if (this.next.kind === 'end') return { kind: 'all' };
    const query = this.either();
    if (this.next.kind === 'close')
      this.wrong(this.next, 'This bracket closes none. Take it away, or open one before.');
    return query;
  }

  private get next(): Token {
    return this.peek(0);
  }

  private peek(ahead: number): Token {
    const token = this.tokens[this.at + ahead] ?? this.tokens.at(-1);
    if (!token) throw new Error('a text has at least its end');
    return token;
  }

  private wrong(at: Span, says: string): never {
    throw new Wrong({ from: at.from, to: at.to, says });
  }

  /** Whether words follow, in any case; a phrase is never one of the language's own words. */
  private follows(...words: readonly string[]): boolean {
    return words.every((word, ahead) => {
      const token = this.peek(ahead);
      return token.kind === 'word' && token.text.toLowerCase() === word;
    });
  }

  private take(...words: readonly string[]): boolean {
    if (!this.follows(...words)) return false;
    this.at += words.length;
    return true;
  }

  private either(): Query {
    const parts = [this.every()];
    while (this.take('or')) parts.push(this.every());
    return joined('or', parts);
  }

  private every(): Query {
    const parts = [this.single()];
    for (;;) {
      const hasAnd = this.take('and');
      if (!hasAnd && (this.next.kind === 'end' || this.next.kind === 'close' || this.follows('or'))) break;
      parts.push(this.single());
    }
    return joined('and', parts);
  }

  private single(): Query {
    if (++this.depth > MAX_DEPTH) this.wrong(this.next, `Brackets and not go at most ${MAX_DEPTH} deep.`);
    const query = this.take('not') ? negated(this.single()) : this.operand();
    this.depth--;
    return query;
  }

  private operand(): Query {
    const token = this.next;
    switch (token.kind) {
      case 'open': {
        this.at++;
        const inside = this.either();
        if (this.next.kind !== 'close') this.wrong(token, 'This bracket is never closed.');
        this.at++;
        return inside;
      }
      case 'end':
        return this.wrong(token, 'Something is missing at the end: a word or a filter.');
      case 'close':
        return this.wrong(token, 'Something is missing before this bracket: a word or a filter.');
      case 'comma':
      case 'to':
      case 'sign':
        return this.wrong(token, `'${token.text}' stands after a name, as in state = draft, released.`);
      case 'word':
      case 'phrase':
        return this.filter() ?? this.relation() ?? this.plain();
    }
  }

  /** A name with a sign and what it is held against; undefined where no sign follows. */
  private filter(): Query | undefined {
    const length = this.signAfter();
    if (length === 0) return undefined;
    const first = this.next;
    const name = Array.from({ length }, (_, ahead) => this.peek(ahead).text).join(' ');
    const span = { from: first.from, to: this.peek(length - 1).to };
    const field = this.field(name, span);
    this.at += length;
    const sign = this.next;
    this.at++;
    const query = this.against(field, name, sign);
    return sign.text === '≠' ? negated(query) : query;
  }

  /** How many words make up the name before a sign; 0 where there is none. */
  private signAfter(): number {
    if (this.next.kind === 'phrase') return this.isSign(1, this.next.text) ? 1 : 0;
    // Names of properties may have blanks; the longest that is known counts.
    for (let length = 6; length > 1; length--) {
      const tokens = Array.from({ length }, (_, ahead) => this.peek(ahead));
      const name = tokens.map(({ text }) => text).join(' ');
      if (tokens.every(({ kind }) => kind === 'word') && this.definition(name) && this.isSign(length, name))
        return length;
    }
    return this.isSign(1, this.next.text) ? 1 : 0;
  }

  /** `has` is a word that people look for as well: it is a sign only after a name that there is. */
  private isSign(ahead: number, name: string): boolean {
    const token = this.peek(ahead);
    if (token.kind === 'sign') return true;
    return (
      token.kind === 'word' &&
      token.text.toLowerCase() === 'has' &&
      isOperand(this.peek(ahead + 1)) &&
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
    return this.wrong(span, `There is no property '${name}'. ${hint}`);
  }

  private against(field: Field, name: string, sign: Token): Query {
    const has = sign.kind === 'word';
    const how = has ? 'has' : 'is';
    switch (field.kind) {
      case 'text':
        this.onlyEquals(sign, true, name);
        return { kind: 'text', field: field.name, how, text: this.value(name).text };
      case 'option':
        this.onlyEquals(sign, false, name);
        return { kind: 'option', field: field.name, values: this.options(name, field.options) };
      case 'person':
        this.onlyEquals(sign, false, name);
        return { kind: 'by', login: this.person() };
      case 'time':
        return { kind: 'time', field: field.name, range: this.days(name, sign) };
      case 'property':
        return this.property(field.definition, sign, how);
    }
  }

  private property(definition: PropertyDefinition, sign: Token, how: 'is' | 'has'): Query {
    const { name } = definition;
    switch (definition.kind) {
      case 'number':
        if (how === 'has') return this.onlySigns(sign, name);
        return { kind: 'quantity', name, ...this.quantities(definition, sign) };
      case 'date':
        return { kind: 'day', name, range: this.days(name, sign) };
      case 'choice':
        this.onlyEquals(sign, false, name);
        return { kind: 'property', name, how, texts: this.options(name, definition.choices) };
      case 'yes/no':
        this.onlyEquals(sign, false, name);
        return { kind: 'property', name, how, texts: this.options(name, ['yes', 'no']) };
      case 'text':
        this.onlyEquals(sign, true, name);
        return { kind: 'property', name, how, texts: [this.value(name).text] };
    }
  }

  private onlySigns(sign: Token, name: string): never {
    return this.wrong(sign, `${name} is a number: write ${name} = 8..12, or < > ≤ ≥ with one.`);
  }

  private onlyEquals(sign: Token, mayHave: boolean, name: string): void {
    if (sign.text === '=' || sign.text === '≠' || (mayHave && sign.kind === 'word')) return;
    this.wrong(
      sign,
      mayHave
        ? `${name} is a text: write ${name} = … for all of it, or ${name} has … for a part.`
        : `${name} is one of several: write ${name} = … or ${name} ≠ ….`,
    );
  }

  /** One word or a phrase. */
  private value(name: string): Token {
    const token = this.next;
    if (token.kind === 'phrase' && !token.isClosed) this.wrong(token, 'This quote is never closed.');
    if (token.kind !== 'word' && token.kind !== 'phrase')
      this.wrong(token, `What should ${name} be? Write a word, or several in quotes.`);
    this.at++;
    return token;
  }

  private options(name: string, options: readonly string[]): string[] {
    const values = [this.option(name, options)];
    while (this.next.kind === 'comma') {
      this.at++;
      values.push(this.option(name, options));
    }
    return values;
  }

  /** One of several, of which some may have blanks in them. */
  private option(name: string, options: readonly string[]): string {
    const found = this.longest(options);
    if (found !== undefined) return found;
    const token = this.value(name);
    const phrase = options.find((option) => option.toLowerCase() === token.text.toLowerCase());
    if (phrase !== undefined) return phrase;
    const list = options.slice(0, 12).join(', ');
    return this.wrong(
      token,
      options.length === 0
        ? `There is no ${name} yet to choose from.`
        : `${name} is one of ${list}${options.length > 12 ? ', …' : ''}; not '${token.text}'.`,
    );
  }

  /** The longest of some names that the next words make up; they are taken then. */
  private longest(names: readonly string[]): string | undefined {
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

  private person(): string {
    if (this.take('me')) return this.words.me;
    const { people } = this.words;
    const name = this.longest(people.map((person) => person.name));
    if (name !== undefined) return people.find((person) => person.name === name)?.login ?? '';
    const token = this.value('by');
    const wanted = token.text.toLowerCase();
    const found = people.find(
      (person) => person.login.toLowerCase() === wanted || person.name.toLowerCase() === wanted,
    );
    return (
      found?.login ??
      this.wrong(token, `There is nobody called '${token.text}'. Give a sign-in name or a full name.`)
    );
  }

  private days(name: string, sign: Token): DayRange {
    const first = this.day(name);
    switch (sign.text) {
      case '<':
        return { to: dayBefore(first.from) };
      case '≤':
        return { to: first.to };
      case '>':
        return { from: dayAfter(first.to) };
      case '≥':
        return { from: first.from };
      case '=':
      case '≠': {
        if (this.next.kind !== 'to') return first;
        this.at++;
        const last = this.day(name);
        return { from: first.from, to: last.to };
      }
      default:
        return this.wrong(sign, `${name} is a day: write ${name} = 2026-03-31 or ${name} = last 30 days.`);
    }
  }

  private day(name: string): Required<DayRange> {
    // `last 30 days`, `this week`, or one word.
    for (const length of [3, 2, 1]) {
      const tokens = Array.from({ length }, (_, ahead) => this.peek(ahead));
      if (tokens.some(({ kind }) => kind !== 'word' && kind !== 'phrase')) continue;
      const days = readDays(tokens.map(({ text }) => text).join(' '), this.words.today);
      if (!days) continue;
      this.at += length;
      return days;
    }
    return this.wrong(
      this.next,
      `When ${name}? Write a day such as 2026-03-31, a month such as 2026-03, today, this week or last 30 days.`,
    );
  }

  private quantities(definition: PropertyDefinition, sign: Token): { unit: string; range: Range } {
    const first = this.quantity(definition);
    const { unit } = first;
    const value = first.value;
    switch (sign.text) {
      case '<':
        return { unit, range: { to: value, withFrom: false, withTo: false } };
      case '≤':
        return { unit, range: { to: value, withFrom: false, withTo: true } };
      case '>':
        return { unit, range: { from: value, withFrom: false, withTo: false } };
      case '≥':
        return { unit, range: { from: value, withFrom: true, withTo: false } };
      default: {
        let [low, high] = [value, value];
        if (this.next.kind === 'to') {
          this.at++;
          const last = this.quantity(definition);
          // `8..12 mm` means both in the unit that comes last.
          low = first.hasUnit || !last.hasUnit ? value : this.inUnit(first.entered, last.written, definition);
          high = last.value;
        }
        return {
          unit,
          range: { from: Math.min(low, high), to: Math.max(low, high), withFrom: true, withTo: true },
        };
      }
    }
  }

  private inUnit(entered: number, unit: string, { unit: own }: PropertyDefinition): number {
    return toSi(entered, unit === '' ? own : unit)?.value ?? entered;
  }

  /** A number with or without a unit; in SI units what it means for a property. */
  private quantity(definition: PropertyDefinition): {
    readonly value: number;
    readonly unit: string;
    readonly entered: number;
    readonly written: string;
    readonly hasUnit: boolean;
  } {
    const { name, unit: own } = definition;
    const token = this.next;
    const entered = token.kind === 'word' || token.kind === 'phrase' ? parseQuantity(token.text) : undefined;
    if (!entered)
      return this.wrong(
        token,
        `${name} is a number${own === '' ? '' : ` in ${own}`}: write ${name} = ${example(own)}.`,
      );
    this.at++;
    const written = entered.unit === '' ? this.unit(own) : entered.unit;
    if (written !== '' && !areCompatible(written, own))
      return this.wrong(
        token,
        own === ''
          ? `${name} has no unit.`
          : `${name} is measured in ${own}, which '${written}' does not fit.`,
      );
    const si = toSi(entered.value, written === '' ? own : written);
    return {
      value: si?.value ?? entered.value,
      unit: si?.unit ?? '',
      entered: entered.value,
      written,
      hasUnit: written !== '',
    };
  }

  /** The unit that follows a number, where the next word is one that fits. */
  private unit(own: string): string {
    const token = this.next;
    if (own === '' || token.kind !== 'word' || !areCompatible(token.text, own)) return '';
    // `in` is an inch unless a place follows.
    const after = this.peek(1);
    if (token.text === 'in' && (after.kind === 'phrase' || after.text.startsWith('/'))) return '';
    this.at++;
    return token.text;
  }

  /** Filters made of the language's own words. */
  private relation(): Query | undefined {
    for (const relation of Object.keys(ITEM_RELATIONS) as ItemRelation[]) {
      const words = relation.split(' ');
      // `like` alone may be meant as a word.
      if (!this.follows(...words) || !isOperand(this.peek(words.length))) continue;
      this.at += words.length;
      const { text, from, to } = this.value(relation);
      return { kind: 'relation', relation, item: text, at: { from, to } };
    }
    if (this.take('held', 'by')) return { kind: 'held', login: this.person() };
    if (this.take('held')) return { kind: 'held' };
    if (this.take('behind')) return { kind: 'behind' };
    if (this.take('unused')) return { kind: 'unused' };
    if (this.follows('in') && isOperand(this.peek(1))) return this.place();
    for (const word of ['with', 'without'] as const) {
      if (!this.follows(word) || !isOperand(this.peek(1))) continue;
      this.at++;
      const having: Query = { kind: 'with', what: this.belonging(word) };
      return word === 'with' ? having : negated(having);
    }
    return undefined;
  }

  private place(): Query | undefined {
    const token = this.peek(1);
    if (!token.text.startsWith('/') && token.kind !== 'phrase') return undefined;
    this.at += 2;
    if (!token.text.startsWith('/'))
      return this.wrong(token, `A place begins with a slash: in "/${token.text}".`);
    // A path may have blanks without being in quotes, where such a place is known.
    const rest = this.text.slice(token.from).toLowerCase();
    const known =
      token.kind === 'phrase'
        ? undefined
        : this.words.places
            .filter((path) => path.includes(' ') && rest.startsWith(path.toLowerCase()))
            .sort((a, b) => b.length - a.length)[0];
    if (known === undefined) return { kind: 'in', place: token.text };
    while (this.next.kind !== 'end' && this.next.from < token.from + known.length) this.at++;
    return { kind: 'in', place: known };
  }

  private belonging(word: 'with' | 'without'): Belonging | { readonly property: string } {
    const property = this.longest(this.words.properties.map(({ name }) => name));
    if (property !== undefined) return { property };
    const token = this.value(word);
    const key = token.text.toLowerCase();
    if (isKey(BELONGINGS, key)) return key;
    const named = this.definition(token.text);
    if (named) return { property: named.name };
    return this.wrong(
      token,
      `With or without what? There are ${Object.keys(BELONGINGS).join(', ')}, and the names of properties; not '${token.text}'.`,
    );
  }

  private plain(): Query {
    const token = this.next;
    if (token.kind === 'phrase' && !token.isClosed) this.wrong(token, 'This quote is never closed.');
    this.at++;
    return token.text.trim() === '' ? { kind: 'all' } : { kind: 'words', text: token.text.trim() };
  }
}

/** Everything that can stand before a sign. */
export function fieldNames(words: QueryWords): string[] {
  return [
    ...Object.keys(TEXT_FIELDS),
    ...Object.keys(OPTION_FIELDS),
    'class',
    ...Object.keys(TIME_FIELDS),
    'by',
    ...words.properties.map(({ name }) => name),
  ];
}

export function example(unit: string): string {
  return unit === '' ? '8..12' : `8 ${unit}..12 ${unit}`;
}

function joined(kind: 'and' | 'or', parts: readonly Query[]): Query {
  const [only] = parts;
  return parts.length === 1 && only ? only : { kind, parts };
}

function negated(part: Query): Query {
  return part.kind === 'not' ? part.part : { kind: 'not', part };
}

function isOperand({ kind }: Token): boolean {
  return kind === 'word' || kind === 'phrase';
}

function isKey<K extends string>(record: Readonly<Record<K, unknown>>, key: string): key is K {
  return Object.hasOwn(record, key);
}

function dayBefore(day: string): string {
  return shifted(day, -1);
}

function dayAfter(day: string): string {
  return shifted(day, 1);
}

function shifted(day: string, by: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + by * 86_400_000).toISOString().slice(0, 10);
}
