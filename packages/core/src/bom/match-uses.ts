/**
 * Which use of a new version is which of the version before. Exporters number occurrences anew with every file, so that what a
 * BOM says of a use, its find number and its designators, must be handed on by more than a name.
 */
import { addTo, known } from '../collections.js';
import type { Amount } from '../model/amount.js';
import type { Occurrence, Placement } from '../model/link.js';

export interface KnownUse {
  /** What it leads to: an item, or the text of a gap. */
  readonly target: string;
  readonly occurrences: readonly Occurrence[];
  readonly find: string;
  readonly amount?: Amount;
}

interface MatchedUse {
  readonly find: string;
  readonly amount?: Amount;
  /** As given, with the designators of the occurrences that they were before, where the file says none itself. */
  readonly occurrences: readonly Occurrence[];
}

export interface MatchedUses {
  /** In the order of the uses that came in. */
  readonly uses: readonly MatchedUse[];
  /** What was known of uses that are no more, for somebody to decide. */
  readonly left: readonly {
    readonly target: string;
    readonly find: string;
    readonly designators: readonly string[];
  }[];
}

interface Spot {
  readonly use: number;
  readonly at: number;
  readonly target: string;
  readonly occurrence: Occurrence;
}

/**
 * Pairs occurrences: by name and place of the same item, then by place, then by name, then what is left of the same item in its
 * order; at last by place alone, for another part that took the place of one. `O(occurrences)`
 */
export function matchUses(before: readonly KnownUse[], after: readonly KnownUse[]): MatchedUses {
  const partner = new Map<string, Spot>();
  const taken = new Set<string>();
  const old = spotsOf(before);
  const fresh = spotsOf(after);
  for (const keyOf of KEYS) {
    const waiting = new Map<string, Spot[]>();
    for (const spot of old) {
      const key = taken.has(idOf(spot)) ? undefined : keyOf(spot);
      if (key !== undefined) addTo(waiting, key, spot);
    }
    const next = new Map<string, number>();
    for (const spot of fresh) {
      const key = partner.has(idOf(spot)) ? undefined : keyOf(spot);
      if (key === undefined) continue;
      const at = next.get(key) ?? 0;
      const match = waiting.get(key)?.[at];
      if (!match) continue;
      next.set(key, at + 1);
      partner.set(idOf(spot), match);
      taken.add(idOf(match));
    }
  }
  return { uses: handOn(before, after, partner), left: leftOf(before, old, taken) };
}

const KEYS: readonly ((spot: Spot) => string | undefined)[] = [
  ({ target, occurrence }) => `${target}\n${occurrence.name}\n${placeOf(occurrence.placement)}`,
  ({ target, occurrence }) => `${target}\n${placeOf(occurrence.placement)}`,
  ({ target, occurrence }) => (occurrence.name === '' ? undefined : `${target}\n${occurrence.name}`),
  ({ target }) => target,
  ({ occurrence }) => placeOf(occurrence.placement),
];

function spotsOf(uses: readonly KnownUse[]): Spot[] {
  return uses.flatMap(({ target, occurrences }, use) =>
    occurrences.map((occurrence, at) => ({ use, at, target, occurrence })),
  );
}

function idOf({ use, at }: Spot): string {
  return `${use} ${at}`;
}

/** A thousandth of a millimetre is nothing that an exporter keeps. */
const PER_MM = 1000;

function placeOf(placement: Placement): string {
  return placement
    .map((value, at) => Math.round(value * (at % 4 === 3 ? PER_MM : 1e6)))
    .map((value) => (Object.is(value, -0) ? 0 : value))
    .join(' ');
}

/** A use has the find number of the one that most of its occurrences were; no number goes to two of them. */
function handOn(
  before: readonly KnownUse[],
  after: readonly KnownUse[],
  partner: ReadonlyMap<string, Spot>,
): MatchedUse[] {
  const votes = after.map(({ occurrences }, use) => {
    const counts = new Map<number, number>();
    for (const at of occurrences.keys()) {
      const was = partner.get(`${use} ${at}`);
      if (was) counts.set(was.use, (counts.get(was.use) ?? 0) + 1);
    }
    return [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0]);
  });
  const finds = new Map<number, string>();
  const amounts = new Map<number, Amount>();
  const given = new Set<number>();
  // The surest first: the one that keeps the most of what there was.
  const order = [...after.keys()].sort(
    (a, b) => (votes[b]?.[0]?.[1] ?? 0) - (votes[a]?.[0]?.[1] ?? 0) || a - b,
  );
  for (const use of order) {
    const own = after[use]?.find ?? '';
    const was = votes[use]?.find(([each]) => !given.has(each) && before[each]?.find !== '');
    if (own === '' && was) given.add(was[0]);
    finds.set(use, own === '' && was ? (before[was[0]]?.find ?? '') : own);
    const amount = before[votes[use]?.[0]?.[0] ?? -1]?.amount;
    if (amount && before[votes[use]?.[0]?.[0] ?? -1]?.target === after[use]?.target) amounts.set(use, amount);
  }
  return after.map(({ occurrences }, use) => ({
    find: finds.get(use) ?? '',
    ...(amounts.has(use) ? { amount: known(amounts, use) } : {}),
    occurrences: occurrences.map((occurrence, at) => {
      const was = partner.get(`${use} ${at}`)?.occurrence.designator;
      return occurrence.designator !== undefined || was === undefined
        ? occurrence
        : { ...occurrence, designator: was };
    }),
  }));
}

function leftOf(
  before: readonly KnownUse[],
  spots: readonly Spot[],
  taken: ReadonlySet<string>,
): MatchedUses['left'] {
  const left = new Map<number, string[]>();
  const isKept = new Set(spots.filter((spot) => taken.has(idOf(spot))).map(({ use }) => use));
  for (const spot of spots)
    if (!taken.has(idOf(spot)) && spot.occurrence.designator !== undefined)
      addTo(left, spot.use, spot.occurrence.designator);
  return before.flatMap(({ target, find }, use) => {
    const designators = left.get(use) ?? [];
    const lost = isKept.has(use) ? '' : find;
    return designators.length > 0 || lost !== '' ? [{ target, find: lost, designators }] : [];
  });
}
