/** Rules for the numbers of a new variant, before anybody has said what they should be. */
import type { NameRule } from './rules.js';

/** Further variants than this are named by somebody who knows why. */
const MOST = 60;

/** The rules of the last derivation of a stem, as they were, then counted on: `-V2` → `-V3`, `-B` → `-C`. */
export function* rulesLike(last: readonly NameRule[]): Generator<readonly NameRule[]> {
  let stepped: readonly NameRule[] | undefined = last.length === 0 ? undefined : last;
  for (let count = 0; stepped !== undefined && count < MOST; count++) {
    yield stepped;
    stepped = stepRules(stepped);
  }
}

/** A count behind every number: `-2`, `-3`, … */
export function* countsBehind(): Generator<readonly NameRule[]> {
  for (let count = 2; count <= MOST; count++)
    yield [{ kind: 'put', of: 'numbers', at: 'end', text: `-${count}` }];
}

/** The same rules, counted on by one; undefined where there is nothing to count. */
export function stepRules(rules: readonly NameRule[]): NameRule[] | undefined {
  const stepped = rules.map(stepRule);
  return stepped.some((rule, index) => rule !== rules[index]) ? stepped : undefined;
}

function stepRule(rule: NameRule): NameRule {
  if (rule.of === 'names') return rule;
  switch (rule.kind) {
    case 'replace': {
      // What is kept of the text is no count: `FM-1` → `FM-2` counts, `FM-1` → `FT-1` does not.
      const to = stepText(rule.to);
      return to === undefined || to === rule.from ? rule : { ...rule, to };
    }
    case 'put': {
      const text = stepText(rule.text);
      return text === undefined ? rule : { ...rule, text };
    }
    case 'count':
      return { ...rule, by: rule.by + (rule.by < 0 ? -1 : 1) * stepOf(rule.by) };
    case 'case':
      return rule;
  }
}

/** `+100` goes on with `+200`, `+10` with `+20`. */
function stepOf(by: number): number {
  return 10 ** Math.max(0, String(Math.abs(by)).length - 1);
}

/** The last count of a text, one further; else a single letter at its end. */
function stepText(text: string): string | undefined {
  const run = [...text.matchAll(/[0-9]+/g)].at(-1);
  if (run) {
    const next = String(BigInt(run[0]) + 1n).padStart(run[0].length, '0');
    return text.slice(0, run.index) + next + text.slice(run.index + run[0].length);
  }
  const letter = /(?<![\p{L}])([A-Ya-y])(?=[^\p{L}]*$)/u.exec(text);
  if (!letter?.[1]) return undefined;
  const next = String.fromCharCode(letter[1].charCodeAt(0) + 1);
  return text.slice(0, letter.index) + next + text.slice(letter.index + 1);
}
