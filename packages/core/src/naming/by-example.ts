/**
 * Rules by example: somebody edits one name, and what was meant is understood as a rule that fits others as well. There is
 * always more than one reading; all that the example allows are given, the one that fits most lines first, each narrower
 * one after it, so that a person takes, narrows or refuses what is said.
 */
import { applyRules, runsOfDigits, type NameRule, type RuleSubject } from './rules.js';

/** What a rule makes of the other lines. */
export interface RuleCandidate {
  /** Mostly one; several where the example was changed in several spots. */
  readonly rules: readonly NameRule[];
  /** Lines that it changes, the example among them. */
  readonly fits: number;
  /** How many lines would get the same text as another line, or keep another's. */
  readonly clashes: number;
}

export interface RuleExample {
  readonly before: string;
  readonly after: string;
  readonly of: Exclude<RuleSubject, 'both'>;
}

/** More readings than this would only be scrolled past. */
const MAX_CANDIDATES = 12;

/**
 * The rules that an edit may stand for, each of which makes `after` of `before`; none where nothing was changed.
 *
 * @param lines texts of all lines, the example's among them; each candidate is told apart by what it makes of these
 *   `O(readings · lines)`, with at most some dozen readings
 */
export function rulesByExample(example: RuleExample, lines: readonly string[]): RuleCandidate[] {
  const { before, after, of } = example;
  if (before === after || before === '' || after === '') return [];
  const seen = new Set<string>();
  const candidates = readings(example)
    .filter((rules) => applyRules(before, rules, of) === after)
    .flatMap((rules) => {
      const made = lines.map((line) => applyRules(line, rules, of));
      const told = made.join('\n');
      if (seen.has(told)) return [];
      seen.add(told);
      const fits = made.filter((text, index) => text !== lines[index]).length;
      return [{ rules, fits, clashes: made.length - new Set(made.map((text) => text.toLowerCase())).size }];
    });
  return (
    candidates
      // What would make two numbers the same was hardly meant.
      .sort((a, b) => Number(a.clashes > 0) - Number(b.clashes > 0) || b.fits - a.fits)
      .slice(0, MAX_CANDIDATES)
  );
}

/**
 * Adds rules to a list. A rule that goes on changing what an earlier one made becomes part of it, so that somebody who
 * thinks better of an edit does not leave a chain of corrections behind.
 */
export function withRules(rules: readonly NameRule[], added: readonly NameRule[]): NameRule[] {
  return added.reduce(
    (sofar, rule) => {
      const last = sofar.at(-1);
      const merged = last && mergeRules(last, rule);
      return merged === undefined ? [...sofar, rule] : [...sofar.slice(0, -1), ...merged];
    },
    [...rules],
  );
}

function mergeRules(first: NameRule, next: NameRule): NameRule[] | undefined {
  if (first.of !== next.of) return undefined;
  if (first.kind === 'replace' && next.kind === 'replace') {
    if (first.where !== next.where || first.where === 'anywhere' || first.to === '' || first.to !== next.from)
      return undefined;
    return first.from === next.to ? [] : [{ ...first, to: next.to }];
  }
  if (first.kind === 'count' && next.kind === 'count' && first.run === next.run) {
    const by = first.by + next.by;
    return by === 0 ? [] : [{ ...first, by }];
  }
  return undefined;
}

/** Every reading of an edit, the plainest first. They need not all be true to it. */
function readings({ before, after, of }: RuleExample): NameRule[][] {
  const spots = changedSpots(before, after);
  const perSpot = spots.map((spot) => readSpot(before, spot, of));
  const depth = Math.max(...perSpot.map((rules) => rules.length));
  const together = Array.from({ length: depth }, (_, index) =>
    // Rules for later spots come first: what they make does not move what is before it.
    perSpot.map((rules) => rules[Math.min(index, rules.length - 1)]).reverse(),
  ).map((rules) => rules.flatMap((rule) => rule ?? []));
  return [
    ...wholeReadings(before, after, of),
    ...together,
    [{ kind: 'replace', of, where: 'start', from: before, to: after }],
  ];
}

function wholeReadings(before: string, after: string, of: RuleSubject): NameRule[][] {
  const rules: NameRule[] = [];
  if (before.toUpperCase() === after) rules.push({ kind: 'case', of, to: 'upper' });
  if (before.toLowerCase() === after) rules.push({ kind: 'case', of, to: 'lower' });
  return rules.map((rule) => [rule]);
}

/** A stretch of the text that was changed: `before.slice(start, end)` became `to`. */
interface Spot {
  readonly start: number;
  readonly end: number;
  readonly to: string;
}

interface Token {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** Decimal numbers, words, and each other character by itself. */
function tokensOf(text: string): Token[] {
  return [...text.matchAll(/[0-9]+(?:[.,][0-9]+)*|\p{L}+|[^]/gu)].map(({ index, 0: token }) => ({
    start: index,
    end: index + token.length,
    text: token,
  }));
}

/** Where two texts differ, token by token, along their longest common subsequence. */
function changedSpots(before: string, after: string): Spot[] {
  const [old, fresh] = [tokensOf(before), tokensOf(after)];
  const common = commonLengths(old, fresh);
  const spots: Spot[] = [];
  let [i, j] = [0, 0];
  let open: { start: number; end: number; to: string } | undefined;
  const close = (): void => {
    if (open) spots.push(open);
    open = undefined;
  };
  const at = (index: number): number => old[index]?.start ?? before.length;
  while (i < old.length || j < fresh.length) {
    const [a, b] = [old[i], fresh[j]];
    if (a && b && a.text === b.text) {
      close();
      i++;
      j++;
      continue;
    }
    open ??= { start: at(i), end: at(i), to: '' };
    const dropsOld = (common[i + 1]?.[j] ?? -1) >= (common[i]?.[j + 1] ?? -1);
    if (a && (!b || dropsOld)) {
      open.end = a.end;
      i++;
    } else if (b) {
      open.to += b.text;
      j++;
    }
  }
  close();
  return spots;
}

/** `[i][j]`: length of the longest common subsequence of what is left from `i` and from `j`. */
function commonLengths(old: readonly Token[], fresh: readonly Token[]): number[][] {
  const lengths = Array.from({ length: old.length + 1 }, () => new Array<number>(fresh.length + 1).fill(0));
  for (let i = old.length - 1; i >= 0; i--) {
    for (let j = fresh.length - 1; j >= 0; j--) {
      const [row, below] = [lengths[i], lengths[i + 1]];
      if (!row || !below) continue;
      row[j] =
        old[i]?.text === fresh[j]?.text ? 1 + (below[j + 1] ?? 0) : Math.max(below[j] ?? 0, row[j + 1] ?? 0);
    }
  }
  return lengths;
}

/** Readings of one changed stretch, the plainest first. */
function readSpot(before: string, { start, end, to }: Spot, of: RuleSubject): NameRule[] {
  const from = before.slice(start, end);
  const rules: NameRule[] = [];
  if (from === '') {
    if (start === 0) rules.push({ kind: 'put', of, at: 'start', text: to });
    if (start === before.length) rules.push({ kind: 'put', of, at: 'end', text: to });
    if (runsOfDigits(before).at(-1)?.end === start) rules.push({ kind: 'put', of, at: 'count', text: to });
    const word = before.slice(
      Math.max(0, tokensOf(before).findLast((token) => token.end <= start)?.start ?? 0),
      start,
    );
    if (word !== '') rules.push({ kind: 'replace', of, where: 'word', from: word, to: word + to });
  } else {
    if (start === 0) rules.push({ kind: 'replace', of, where: 'start', from, to });
    rules.push(...readCount(before, { start, end, to }, of));
    if (end === before.length) rules.push({ kind: 'replace', of, where: 'end', from, to });
    rules.push({ kind: 'replace', of, where: 'word', from, to });
  }
  rules.push(...fromTheStart(before, { start, end, to }, of));
  return rules;
}

/** A run of digits that became another: so much was added, or its first digits were changed. */
function readCount(before: string, { start, end, to }: Spot, of: RuleSubject): NameRule[] {
  const from = before.slice(start, end);
  if (!/^[0-9]+$/.test(from) || !/^[0-9]+$/.test(to)) return [];
  const rules: NameRule[] = [];
  const by = Number(to) - Number(from);
  const runs = runsOfDigits(before);
  // The last run is what people count by.
  for (const run of ['last', 'first'] as const)
    if ((run === 'last' ? runs.at(-1) : runs[0])?.start === start && Number.isSafeInteger(by))
      rules.push({ kind: 'count', of, run, by });
  return rules;
}

/** The change together with all that stands before it, and with ever more of what stands behind it. */
function fromTheStart(before: string, { start, end, to }: Spot, of: RuleSubject): NameRule[] {
  const head = before.slice(0, start);
  const from = before.slice(start, end);
  const rules: NameRule[] = [];
  // Digits that both end with need not be the same in other lines.
  let kept = 0;
  while (kept < Math.min(from.length, to.length) && from.at(-1 - kept) === to.at(-1 - kept)) kept++;
  for (const drop of new Set([kept, 0]))
    rules.push({
      kind: 'replace',
      of,
      where: 'start',
      from: head + from.slice(0, from.length - drop),
      to: head + to.slice(0, to.length - drop),
    });
  for (let more = 1; end + more < before.length && more <= 6; more++) {
    const tail = before.slice(end, end + more);
    rules.push({ kind: 'replace', of, where: 'start', from: head + from + tail, to: head + to + tail });
  }
  return rules;
}
