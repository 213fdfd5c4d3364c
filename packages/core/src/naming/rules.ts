/**
 * Rules that make the names of copies out of those of the originals. They are few, short, and each can be said in a line,
 * so that a person can read what will happen to a thousand numbers.
 */

/** Which of an item's names a rule changes. */
export const RULE_SUBJECTS = ['numbers', 'names', 'both'] as const;
export type RuleSubject = (typeof RULE_SUBJECTS)[number];

/** Where a text must stand to be replaced: `word` is a run of letters or digits by itself. */
export const RULE_SPOTS = ['start', 'end', 'word', 'anywhere'] as const;
export type RuleSpot = (typeof RULE_SPOTS)[number];

/** Where something is put; `count` is behind the last run of digits. */
export const PUT_SPOTS = ['start', 'end', 'count'] as const;
export type PutSpot = (typeof PUT_SPOTS)[number];

export type NameRule =
  | {
      readonly kind: 'replace';
      readonly of: RuleSubject;
      readonly where: RuleSpot;
      readonly from: string;
      readonly to: string;
    }
  | { readonly kind: 'put'; readonly of: RuleSubject; readonly at: PutSpot; readonly text: string }
  /** Adds to a run of digits, which keeps its leading zeros: the first of the text, or the last. */
  | {
      readonly kind: 'count';
      readonly of: RuleSubject;
      readonly run: 'first' | 'last';
      readonly by: number;
    }
  | { readonly kind: 'case'; readonly of: RuleSubject; readonly to: 'upper' | 'lower' };

/** Applies rules one after another, each to what the one before made. `O(rules · length)`. */
export function applyRules(
  text: string,
  rules: readonly NameRule[],
  subject: Exclude<RuleSubject, 'both'>,
): string {
  return rules.reduce(
    (sofar, rule) => (rule.of === 'both' || rule.of === subject ? applyRule(sofar, rule) : sofar),
    text,
  );
}

/** What a rule makes of a text; the text itself where the rule does not fit it. */
export function applyRule(text: string, rule: NameRule): string {
  switch (rule.kind) {
    case 'replace':
      return rule.from === '' ? text : replaceAt(text, rule);
    case 'put':
      return putAt(text, rule);
    case 'count':
      return addToCount(text, rule);
    case 'case':
      return rule.to === 'upper' ? text.toUpperCase() : text.toLowerCase();
  }
}

/** A rule as a short sentence: `“FM” at the start becomes “FT”`. */
export function sayRule(rule: NameRule): string {
  switch (rule.kind) {
    case 'replace':
      return rule.to === ''
        ? `“${rule.from}”${SPOT_WORDS[rule.where]} is left out`
        : `“${rule.from}”${SPOT_WORDS[rule.where]} becomes “${rule.to}”`;
    case 'put':
      return `“${rule.text}” is put ${PUT_WORDS[rule.at]}`;
    case 'count':
      return `${rule.by < 0 ? '−' : '+'}${Math.abs(rule.by)} on the ${rule.run} count`;
    case 'case':
      return rule.to === 'upper' ? 'all in capitals' : 'all in lower case';
  }
}

const SPOT_WORDS: Readonly<Record<RuleSpot, string>> = {
  start: ' at the start',
  end: ' at the end',
  word: ' as a word',
  anywhere: '',
};
const PUT_WORDS: Readonly<Record<PutSpot, string>> = {
  start: 'at the start',
  end: 'at the end',
  count: 'after the last number',
};

function replaceAt(
  text: string,
  { where, from, to }: Extract<NameRule, { readonly kind: 'replace' }>,
): string {
  switch (where) {
    case 'start':
      return text.startsWith(from) ? to + text.slice(from.length) : text;
    case 'end':
      return text.endsWith(from) ? text.slice(0, text.length - from.length) + to : text;
    case 'anywhere':
      return text.replaceAll(from, () => to);
    case 'word':
      return replaceWords(text, from, to);
  }
}

function replaceWords(text: string, from: string, to: string): string {
  let [made, done] = ['', 0];
  for (let at = text.indexOf(from); at >= 0; at = text.indexOf(from, Math.max(at + 1, done))) {
    if (at < done || !isWordAt(text, at, from.length)) continue;
    made += text.slice(done, at) + to;
    done = at + from.length;
  }
  return made + text.slice(done);
}

/** Whether no letter or digit goes on beside it; `1.2` does not stand by itself in `11.2`, `1.25` or `1.2.3`. */
function isWordAt(text: string, at: number, length: number): boolean {
  const end = at + length;
  return (
    !goesOn(text.slice(0, at), text[at] ?? '', true) && !goesOn(text.slice(end), text[end - 1] ?? '', false)
  );
}

/** Whether the word that ends (or begins) with `edge` goes on in the text before (or behind) it. */
function goesOn(text: string, edge: string, isBefore: boolean): boolean {
  const [next, further] = isBefore ? [text.at(-1), text.at(-2)] : [text[0], text[1]];
  if (next === undefined) return false;
  if (isDigit(edge)) return isDigit(next) || (isPoint(next) && further !== undefined && isDigit(further));
  return isLetter(edge) && isLetter(next);
}

function putAt(text: string, { at, text: put }: Extract<NameRule, { readonly kind: 'put' }>): string {
  if (at === 'start') return put + text;
  if (at === 'end') return text + put;
  const [last] = runsOfDigits(text).slice(-1);
  return last ? text.slice(0, last.end) + put + text.slice(last.end) : text;
}

function addToCount(text: string, { run, by }: Extract<NameRule, { readonly kind: 'count' }>): string {
  const runs = runsOfDigits(text);
  const found = run === 'first' ? runs[0] : runs.at(-1);
  if (!found) return text;
  const digits = text.slice(found.start, found.end);
  const sum = BigInt(digits) + BigInt(by);
  // A count below nothing would not be one.
  if (sum < 0n) return text;
  return text.slice(0, found.start) + String(sum).padStart(digits.length, '0') + text.slice(found.end);
}

export function runsOfDigits(text: string): { readonly start: number; readonly end: number }[] {
  return [...text.matchAll(/[0-9]+/g)].map(({ index, 0: run }) => ({
    start: index,
    end: index + run.length,
  }));
}

const isDigit = (character: string): boolean => /^[0-9]$/.test(character);
const isLetter = (character: string): boolean => /^\p{L}$/u.test(character);
const isPoint = (character: string): boolean => character === '.' || character === ',';
