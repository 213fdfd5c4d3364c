/**
 * How well an item fits the words that somebody typed, and where they stand in it. A word may be written with a hyphen, an underscore, a
 * blank or nothing between its parts, in the item or in the search: `usb-connector` is `USB_Connector`.
 */
import { FOUND_IN } from '@stem-trace/contract';
import type { Query } from '@stem-trace/core';

type Put = (value: unknown) => string;

/** Between the parts of a word: a separator, or where letters and figures meet. Shorter parts would be found nearly everywhere. */
const SEPARATOR = /[-_./]+|(?<=[a-z]{2})(?=\d{2})|(?<=\d{2})(?=[a-z]{2})/i;

/** What a word looks like, as a regular expression of PostgreSQL on lower case. What has blanks was put into quotes and is meant so. */
export function patternOf(word: string): string {
  if (/\s/.test(word)) return escaped(word);
  const parts = word.split(SEPARATOR).filter((part) => part !== '');
  return parts.length === 0 ? escaped(word) : parts.map(escaped).join('[-_ ./]?');
}

/** As `patternOf`, but not in the midst of a longer word or number: `16` in `DIP16-W`, not in `DIP-160`. */
function wholePatternOf(word: string): string {
  const first = /^\d/.test(word) ? '0-9' : 'a-z';
  const last = /\d$/.test(word) ? '0-9' : 'a-z';
  return `(^|[^${first}])${patternOf(word)}($|[^${last}])`;
}

function escaped(text: string): string {
  return text.toLowerCase().replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
}

/** Words that every item found must have; none where the search is of another kind. */
export function wordsOf(query: Query): string[] {
  if (query.kind === 'words') return [query.text];
  return query.kind === 'and'
    ? query.parts.flatMap((part) => (part.kind === 'words' ? [part.text] : []))
    : [];
}

/** A full-text query for words that begin so. */
export function beginningOf(word: string): string {
  return `'${word.toLowerCase().replace(/[\\']/g, '$&$&')}':*`;
}

type In = (column: string) => string;

/** Condition for a word to stand in a column of lower case. Most words have no parts, and are looked for in the cheaper way. */
function standing(word: string, put: Put): In {
  const pattern = patternOf(word);
  if (pattern !== escaped(word)) {
    const value = put(pattern);
    return (column) => `${column} ~ ${value}`;
  }
  const like = put(`%${word.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`);
  return (column) => `${column} LIKE ${like}`;
}

/** Condition for a word to stand anywhere in an item; wants `item` as `i`. */
export function stands(word: string, put: Put): string {
  const isIn = standing(word, put);
  return `(${isIn('i.search_text')} OR ${isIn('i.comment_text')} OR ${isIn('lower(i.file_name)')} OR ${isIn('i.former')}
    OR i.place_id = ANY(ARRAY(SELECT id FROM place WHERE ${isIn('lower(path)')}))
    OR i.body_words @@ to_tsquery('simple', ${put(beginningOf(word))}))`;
}

/** What to order by so that what fits best comes first: the place of the word that stands least prominently. */
export function fit(words: readonly string[], exactNumber: string, put: Put): string {
  const places = words.map((word) => placeOf(word, put));
  return `CASE WHEN i.number_key = ${put(exactNumber)} THEN 0 ELSE greatest(${places.join(', ')}) END`;
}

function placeOf(word: string, put: Put): string {
  const isIn = standing(word, put);
  const whole = put(wholePatternOf(word));
  return `CASE WHEN ${isIn('i.number_key')} THEN CASE WHEN i.number_key ~ ${whole} THEN 1 ELSE 2 END
    WHEN ${isIn('lower(i.name)')} THEN CASE WHEN lower(i.name) ~ ${whole} THEN 3 ELSE 4 END
    WHEN ${isIn('i.search_text')} THEN 5 WHEN ${isIn('lower(i.file_name)')} THEN 6
    WHEN ${isIn('i.former')} THEN 7 WHEN ${isIn('i.comment_text')} THEN 8 ELSE 9 END`;
}

/** Where the word that stands least prominently is found, as one of `FOUND_IN`; null where nobody asked for words. */
export function foundIn(words: readonly string[], put: Put): string {
  if (words.length === 0) return 'NULL::text';
  const places = words.map((word) => {
    const isIn = standing(word, put);
    return `CASE WHEN ${isIn('i.number_key')} THEN 1 WHEN ${isIn('lower(i.name)')} THEN 2 WHEN ${isIn('i.search_text')} THEN 3
      WHEN ${isIn('lower(i.file_name)')} THEN 4 WHEN ${isIn('i.former')} THEN 5 WHEN ${isIn('i.comment_text')} THEN 6
      WHEN i.body_words @@ to_tsquery('simple', ${put(beginningOf(word))}) THEN 8 ELSE 7 END`;
  });
  const named = FOUND_IN.map((place) => `'${place}'`).join(', ');
  return `(ARRAY[${named}])[greatest(${places.join(', ')})]`;
}
