/** What the bills of an origin and its copy each say of the same uses, brought together by the law of `properties/merge`. */
import { isSameAmount, sayAmount } from '../bom/amount.js';
import type { Amount } from '../model/amount.js';
import { sideOf, type CarryContradiction, type CarryDecisions, type Sides } from '../properties/merge.js';

/** What a bill says of a use. */
export interface UseFacts {
  readonly find: string;
  readonly amount?: Amount;
  /** Of its occurrences, in their order; empty for one that has none. */
  readonly designators: readonly string[];
}

export interface MergedUses {
  /** What is to be said of each use, by its key. */
  readonly uses: ReadonlyMap<string, UseFacts>;
  readonly contradictions: readonly CarryContradiction[];
  readonly kept: readonly string[];
}

const NO_FACTS: UseFacts = { find: '', designators: [] };

/**
 * What is said of the uses that there will be, of which each side may have said something. `O(uses + occurrences)`
 *
 * @param uses the key and the label of each use that there will be
 */
export function mergeUseFacts(
  uses: readonly { readonly key: string; readonly label: string }[],
  { base, origin, copy }: Sides<ReadonlyMap<string, UseFacts>>,
  decided: CarryDecisions,
): MergedUses {
  const contradictions: CarryContradiction[] = [];
  const kept: string[] = [];
  const merged = new Map(
    uses.flatMap(({ key, label }): [string, UseFacts][] => {
      const own = copy.get(key);
      const theirs = origin.get(key);
      // Where one side does not have the use, there is nothing to bring together.
      if (!own || !theirs) return [[key, theirs ?? own ?? NO_FACTS]];
      const sides = { base: base.get(key) ?? NO_FACTS, origin: theirs, copy: own };
      const take = <T>(
        what: string,
        of: (facts: UseFacts) => T,
        isSame: Same<T>,
        say: (value: T) => string,
      ): T => {
        const values = { base: of(sides.base), origin: of(sides.origin), copy: of(sides.copy) };
        const field = `${what} of ${label}`;
        const side = sideOf(values, isSame);
        if (side === undefined)
          contradictions.push({
            field,
            ...{ base: say(values.base), origin: say(values.origin), copy: say(values.copy) },
          });
        const taken = side ?? decided.get(field.toLowerCase()) ?? 'copy';
        if (taken === 'copy') kept.push(field);
        return values[taken];
      };
      const find = take('find number', (facts) => facts.find, Object.is, String);
      const amount = take('amount', (facts) => facts.amount, isSameAmountOrNone, sayAmountOrNone);
      const designators = take(
        'designators',
        (facts) => facts.designators,
        (a, b) => a.join('\n') === b.join('\n'),
        (all) => all.filter((each) => each !== '').join(', '),
      );
      return [[key, { find, designators, ...(amount ? { amount } : {}) }]];
    }),
  );
  return { uses: merged, contradictions, kept };
}

type Same<T> = (a: T, b: T) => boolean;

function isSameAmountOrNone(a: Amount | undefined, b: Amount | undefined): boolean {
  return a && b ? isSameAmount(a, b) : a === b;
}

function sayAmountOrNone(amount: Amount | undefined): string {
  return amount ? sayAmount(amount) : '';
}
