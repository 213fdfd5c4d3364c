/** Words of the model as conditions of SQL, once. */
import { STRUCTURE_RELATIONS, type Lane, type ROLLED_UP } from '@stem-trace/core';

/** Condition on the links (`alias`) that are structure, as SQL. */
export function isStructure(alias = 'l'): string {
  return `${alias}.relation IN (${listed(STRUCTURE_RELATIONS)})`;
}

/** Condition on the revisions (`alias`) whose versions the lens *Released* picks, as SQL. */
export function isReleased(alias = 'r'): string {
  return `${alias}.state IN (SELECT name FROM state WHERE is_released)`;
}

/** A time as milliseconds since 1970, UTC, as SQL. */
export function timeOf(column: string): string {
  return `(extract(epoch FROM ${column}) * 1000)::float8`;
}

/** When a version came to count as released, in milliseconds, as SQL on revisions `r`; later than any time where it does not. */
export const RELEASED_AT = `CASE WHEN ${isReleased()} THEN coalesce(${timeOf('r.released_at')}, 0) ELSE 'Infinity' END`;

/**
 * From when on a version counts, as SQL on revisions `r`: as the order says that made it; null where none does. What an order makes that
 * was given up counts from its release on.
 */
export const COUNTS_FROM = `(SELECT c.spans FROM change_makes m JOIN change c ON c.item_id = m.change_id JOIN item o ON o.id = m.change_id
  WHERE m.revision_id = r.id AND c.spans <> '{}' AND NOT ${isInLane('out of use', 'o')} ORDER BY m.at DESC LIMIT 1)`;

/** Condition on what has a state (`alias`) that something is locked in, as SQL. */
export function isInLane(lane: Lane, alias = 'r'): string {
  return `${alias}.state IN (SELECT name FROM state WHERE lane = '${lane}')`;
}

/** Condition on the revisions (`alias`) that can be held and changed, as SQL. */
export function isOpen(alias = 'r'): string {
  return isInLane('open', alias);
}

/**
 * Condition on the looked-up properties (`alias`) that may be told, as SQL: not a sum over something that is hidden, for that
 * would tell what the hidden thing weighs.
 *
 * @param hidden parameter with the places that are hidden
 */
export function mayBeTold(hidden: string, alias = 'p'): string {
  return `(NOT ${alias}.rolled OR NOT EXISTS (SELECT FROM roll_up told WHERE told.item_id = ${alias}.item_id
    AND told.key = ${alias}.key AND told.places && ${hidden}::bigint[]))`;
}

/**
 * What one of an item (`i`) measures, as SQL: what it says itself, or the sum of what it is made of where all of that is known.
 *
 * @param hidden parameter with the places that the asker may not see
 */
export function measureOfItem(key: (typeof ROLLED_UP)[number]['key'], hidden: string): string {
  return `SELECT p.number FROM item_property p LEFT JOIN roll_up u ON u.item_id = p.item_id AND u.key = p.key
    WHERE p.item_id = i.id AND p.key = '${key}' AND (NOT p.rolled OR u.unknown = 0) AND ${mayBeTold(hidden)}`;
}

/**
 * Condition that a text is one of many, as SQL. Said as `= ANY`, it may be looked up in an index of trigrams, which holds each of the
 * many against all that was written lately: half a minute for two thousand numbers after a derivation of eight thousand.
 *
 * @param texts parameter with an array
 */
export function isAmong(text: string, texts: string): string {
  return `${text} IN (SELECT unnest(${texts}::text[]))`;
}

function listed(words: readonly string[]): string {
  return words.map((word) => `'${word}'`).join(', ');
}
