/** What stands after a sign: one of several, people, days, numbers with units. */
import { shiftDay } from '../model/day.js';
import type { PropertyDefinition } from '../properties/properties.js';
import { areCompatible, parseQuantity, toSi } from '../quantity/quantity.js';
import { readDays } from './days.js';
import type { DayRange, QueryWords, Range } from './query.js';
import type { TokenReader } from './token-reader.js';
import type { Token } from './tokens.js';

export class ValueReader {
  constructor(
    private readonly reader: TokenReader,
    private readonly words: QueryWords,
  ) {}

  onlyEquals(sign: Token, mayHave: boolean, name: string): void {
    if (sign.text === '=' || sign.text === '≠' || (mayHave && sign.kind === 'word')) return;
    this.reader.wrong(
      sign,
      mayHave
        ? `${name} is a text: write ${name} = … for all of it, or ${name} has … for a part.`
        : `${name} is one of several: write ${name} = … or ${name} ≠ ….`,
    );
  }

  onlySigns(sign: Token, name: string): never {
    return this.reader.wrong(sign, `${name} is a number: write ${name} = 8..12, or < > ≤ ≥ with one.`);
  }

  options(name: string, options: readonly string[]): string[] {
    const values = [this.option(name, options)];
    while (this.reader.next.kind === 'comma') {
      this.reader.skip();
      values.push(this.option(name, options));
    }
    return values;
  }

  /** One of several, of which some may have blanks in them. */
  private option(name: string, options: readonly string[]): string {
    const found = this.reader.longest(options);
    if (found !== undefined) return found;
    const token = this.reader.value(name);
    const phrase = options.find((option) => option.toLowerCase() === token.text.toLowerCase());
    if (phrase !== undefined) return phrase;
    const list = options.slice(0, 12).join(', ');
    return this.reader.wrong(
      token,
      options.length === 0
        ? `There is no ${name} yet to choose from.`
        : `${name} is one of ${list}${options.length > 12 ? ', …' : ''}; not '${token.text}'.`,
    );
  }

  person(): string {
    if (this.reader.take('me')) return this.words.me;
    const { people } = this.words;
    const name = this.reader.longest(people.map((person) => person.name));
    if (name !== undefined) return people.find((person) => person.name === name)?.login ?? '';
    const token = this.reader.value('by');
    const wanted = token.text.toLowerCase();
    const found = people.find(
      (person) => person.login.toLowerCase() === wanted || person.name.toLowerCase() === wanted,
    );
    return (
      found?.login ??
      this.reader.wrong(token, `There is nobody called '${token.text}'. Give a sign-in name or a full name.`)
    );
  }

  days(name: string, sign: Token): DayRange {
    const first = this.day(name);
    switch (sign.text) {
      case '<':
        return { to: shiftDay(first.from, -1) };
      case '≤':
        return { to: first.to };
      case '>':
        return { from: shiftDay(first.to, 1) };
      case '≥':
        return { from: first.from };
      case '=':
      case '≠': {
        if (this.reader.next.kind !== 'to') return first;
        this.reader.skip();
        const last = this.day(name);
        return { from: first.from, to: last.to };
      }
      default:
        return this.reader.wrong(
          sign,
          `${name} is a day: write ${name} = 2026-03-31 or ${name} = last 30 days.`,
        );
    }
  }

  private day(name: string): Required<DayRange> {
    // `last 30 days`, `this week`, or one word.
    for (const length of [3, 2, 1]) {
      const tokens = Array.from({ length }, (_, ahead) => this.reader.peek(ahead));
      if (tokens.some(({ kind }) => kind !== 'word' && kind !== 'phrase')) continue;
      const days = readDays(tokens.map(({ text }) => text).join(' '), this.words.today);
      if (!days) continue;
      this.reader.skip(length);
      return days;
    }
    return this.reader.wrong(
      this.reader.next,
      `When ${name}? Write a day such as 2026-03-31, a month such as 2026-03, today, this week or last 30 days.`,
    );
  }

  quantities(definition: PropertyDefinition, sign: Token): { unit: string; range: Range } {
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
        if (this.reader.next.kind === 'to') {
          this.reader.skip();
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
    const token = this.reader.next;
    const entered = token.kind === 'word' || token.kind === 'phrase' ? parseQuantity(token.text) : undefined;
    if (!entered)
      return this.reader.wrong(
        token,
        `${name} is a number${own === '' ? '' : ` in ${own}`}: write ${name} = ${example(own)}.`,
      );
    this.reader.skip();
    const written = entered.unit === '' ? this.unit(own) : entered.unit;
    if (written !== '' && !areCompatible(written, own))
      return this.reader.wrong(
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
    const token = this.reader.next;
    if (own === '' || token.kind !== 'word' || !areCompatible(token.text, own)) return '';
    // `in` is an inch unless a place follows.
    const after = this.reader.peek(1);
    if (token.text === 'in' && (after.kind === 'phrase' || after.text.startsWith('/'))) return '';
    this.reader.skip();
    return token.text;
  }
}

export function example(unit: string): string {
  return unit === '' ? '8..12' : `8 ${unit}..12 ${unit}`;
}
