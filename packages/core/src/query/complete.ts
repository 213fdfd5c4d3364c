/** What could come next in the find box. */
import { DAY_WORDS } from './days.js';
import {
  BELONGINGS,
  ITEM_RELATIONS,
  OPTION_FIELDS,
  PLAIN_FILTERS,
  TEXT_FIELDS,
  TIME_FIELDS,
} from './fields.js';
import { fieldNames } from './parse.js';
import { example } from './values.js';
import type { QueryWords, Span } from './query.js';
import { tokenise, type Token } from './tokens.js';

export interface Completion extends Span {
  /** Replaces the text from `from` to `to`. */
  readonly text: string;
  /** What it means, in a few words. */
  readonly says: string;
}

const MOST = 12;

/** What can be put in at a place of the text, best first. Names come with what they mean. `O(length + words)` */
export function completeQuery(text: string, caret: number, words: QueryWords): Completion[] {
  const before = tokenise(text.slice(0, caret)).slice(0, -1);
  const last = before.at(-1);
  // A word that the caret stands right after is still being typed.
  const typed =
    last && last.to === caret && (last.kind === 'word' || (last.kind === 'phrase' && !last.isClosed))
      ? last
      : undefined;
  const done = typed ? before.slice(0, -1) : before;
  const from = typed?.from ?? caret;
  const start = (typed?.text ?? '').toLowerCase();
  const offers = offersAfter(done, start, words);
  const [best, other] = [offers.filter(begins(start)), offers.filter(holds(start))];
  return [...best, ...other].slice(0, MOST).map(([offer, says]) => ({ text: offer, says, from, to: caret }));
}

/** A text to put in, and what it means. */
type Offer = readonly [text: string, says: string];

function begins(start: string): (offer: Offer) => boolean {
  return ([offer]) => bare(offer).startsWith(start) && bare(offer) !== start;
}

/** Inside, at the beginning of a word. */
function holds(start: string): (offer: Offer) => boolean {
  return ([offer]) => start.length > 1 && !bare(offer).startsWith(start) && bare(offer).includes(` ${start}`);
}

function bare(text: string): string {
  return text.replace(/^"/, '').toLowerCase();
}

function offersAfter(done: readonly Token[], start: string, words: QueryWords): readonly Offer[] {
  const lower = done.map(({ kind, text }) => (kind === 'phrase' ? `"${text}"` : text.toLowerCase()));
  const last = lower.at(-1) ?? '';
  const sign = signBefore(done);
  if (sign >= 0) return valuesOf(fieldBefore(done.slice(0, sign), words), done[sign]?.text ?? '', words);
  if (last === 'in') return words.places.map((path) => [quoted(path), 'a place'] as const);
  if (last === 'by' && lower.at(-2) === 'held') return peopleOf(words);
  if (last === 'with' || last === 'without')
    return [
      ...entries(BELONGINGS),
      ...words.properties.map(({ name }) => [quoted(name), 'a property'] as const),
    ];
  // The item that is meant is found by its number, not by the language.
  if (Object.keys(ITEM_RELATIONS).some((relation) => endsWith(lower, relation.split(' ')))) return [];
  const field = fieldBefore(done, words);
  if (field !== undefined && start === '') return signsFor(field, words);
  return start === '' ? [] : beginnings(words, done.length > 0);
}

/** Index of the sign whose value is being written; -1 where none is. */
function signBefore(done: readonly Token[]): number {
  let at = done.length - 1;
  const isSign = (token: Token | undefined): boolean =>
    token !== undefined &&
    (token.kind === 'sign' || (token.kind === 'word' && token.text.toLowerCase() === 'has'));
  if (isSign(done[at])) return at;
  // Values before a comma or a range.
  if (done[at]?.kind !== 'comma' && done[at]?.kind !== 'to') return -1;
  while (at >= 0 && !isSign(done[at])) at--;
  return at;
}

function fieldBefore(done: readonly Token[], words: QueryWords): string | undefined {
  const names = fieldNames(words);
  for (let length = Math.min(6, done.length); length > 0; length--) {
    const name = done
      .slice(-length)
      .map(({ text }) => text)
      .join(' ')
      .toLowerCase();
    const found = names.find((each) => each.toLowerCase() === name);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** Whether a value of several words is read as one without quotes. */
function isPlain(name: string): boolean {
  return /^[\p{L}\p{N} -]+$/u.test(name) && !/(^| )(and|or|not)( |$)/i.test(name);
}

function valuesOf(field: string | undefined, sign: string, words: QueryWords): readonly Offer[] {
  if (field === undefined || sign.toLowerCase() === 'has') return [];
  const key = field.toLowerCase();
  if (key === 'class') return words.classes.map((name) => [quoted(name), 'a class'] as const);
  if (key === 'state') return words.states.map((name) => [isPlain(name) ? name : quoted(name), ''] as const);
  if (key === 'by') return peopleOf(words);
  if (Object.hasOwn(OPTION_FIELDS, key))
    return OPTION_FIELDS[key as keyof typeof OPTION_FIELDS].map((option) => [option, ''] as const);
  if (Object.hasOwn(TIME_FIELDS, key)) return days(words);
  const definition = words.properties.find(({ name }) => name === field);
  switch (definition?.kind) {
    case 'choice':
      return definition.choices.map((choice) => [quoted(choice), ''] as const);
    case 'yes/no':
      return [
        ['yes', ''],
        ['no', ''],
      ];
    case 'date':
      return days(words);
    case 'number':
      return [[example(definition.unit), 'from and to; any unit that fits']];
    default:
      return [];
  }
}

function days({ today }: QueryWords): readonly Offer[] {
  return [...DAY_WORDS.map((word) => [word, ''] as const), [today, 'a day'], [today.slice(0, 7), 'a month']];
}

function peopleOf({ people }: QueryWords): readonly Offer[] {
  return [['me', 'yourself'], ...people.map(({ login, name }) => [login, name] as const)];
}

function signsFor(field: string, words: QueryWords): readonly Offer[] {
  const key = field.toLowerCase();
  const kind = words.properties.find(({ name }) => name === field)?.kind;
  const isMeasured = kind === 'number' || kind === 'date' || Object.hasOwn(TIME_FIELDS, key);
  const isText = kind === 'text' || Object.hasOwn(TEXT_FIELDS, key);
  return [
    [
      '=',
      isText ? 'all of it; * stands for anything' : isMeasured ? 'a value, or from..to' : 'one or several',
    ],
    ...(isText ? [['has', 'a part of it'] as const] : []),
    ...(isMeasured
      ? ([
          ['<', 'less than'],
          ['>', 'more than'],
          ['≤', 'at most'],
          ['≥', 'at least'],
        ] as const)
      : []),
    ['≠', 'not'],
  ];
}

/** What can begin a filter, or join two. */
function beginnings(words: QueryWords, isAfterSomething: boolean): readonly Offer[] {
  return [
    ...entries(PLAIN_FILTERS),
    ...entries(ITEM_RELATIONS),
    ['held by', 'a person holds it'],
    ['in', 'a place and all below it'],
    ['with', 'a drawing, a document, a property …'],
    ['without', 'a drawing, a document, a property …'],
    ...[...Object.keys(OPTION_FIELDS), 'state'].map(
      (name) => [name, 'one or several of those there are'] as const,
    ),
    ['class', 'one or several of those there are'],
    ...entries(TIME_FIELDS),
    ['by', 'who checked the newest version in'],
    ...entries(TEXT_FIELDS),
    ...words.properties.map(
      ({ name, kind, unit }) => [quoted(name), unit === '' ? kind : `in ${unit}`] as const,
    ),
    ['not', 'what follows does not apply'],
    ...(isAfterSomething ? [['or', 'either what stands before or what follows'] as const] : []),
  ];
}

function entries(record: Readonly<Record<string, string>>): readonly Offer[] {
  return Object.entries(record);
}

function endsWith(lower: readonly string[], words: readonly string[]): boolean {
  return words.every((word, at) => lower[lower.length - words.length + at] === word);
}

/** In quotes where it would not be read as one name otherwise; a quote in it is doubled. */
export function quoted(name: string): string {
  return /^[^\s()",=≠<≤>≥!…]+$/.test(name) && !name.includes('..') ? name : `"${name.replaceAll('"', '""')}"`;
}
