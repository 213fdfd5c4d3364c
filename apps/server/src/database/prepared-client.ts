import { createHash } from 'node:crypto';
import pg from 'pg';

/** Statements that each connection may keep prepared. */
const MOST_PREPARED = 200;
/** A text that is asked again and again is worth preparing. */
const ASKED_BEFORE = 3;

/** How good a plan is depends on the very words that are looked for, so that these are planned each time. */
const DEPENDS_ON_WORDS = /\bLIKE\b|@@|<->|percentile|\bIN \(\d/i;

const asked = new Map<string, number>();
const names = new Map<string, string>();

/** The name under which a statement is kept prepared; undefined where it is planned each time. */
function nameOf(text: string): string | undefined {
  const known = names.get(text);
  if (known !== undefined || names.size >= MOST_PREPARED) return known;
  if (!/^\s*(SELECT|WITH)\b/i.test(text) || DEPENDS_ON_WORDS.test(text)) return undefined;
  const times = (asked.get(text) ?? 0) + 1;
  asked.set(text, times);
  // Texts that are made anew for each question must not fill the memory either.
  if (asked.size > 10 * MOST_PREPARED) asked.clear();
  if (times < ASKED_BEFORE) return undefined;
  const name = `s${createHash('sha1').update(text).digest('hex').slice(0, 16)}`;
  names.set(text, name);
  return name;
}

/** A connection that has the database parse and plan the statements that are asked most only once. */
export class PreparedClient extends pg.Client {
  override query(...args: unknown[]): never {
    const [text, values, ...rest] = args;
    const name = typeof text === 'string' && Array.isArray(values) ? nameOf(text) : undefined;
    const sent = name === undefined ? args : [{ name, text, values }, ...rest];
    // The types of `query` are overloads that cannot be passed on as one.
    return (super.query as (...sent: unknown[]) => never).apply(this, sent);
  }
}
