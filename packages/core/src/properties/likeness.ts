/** How alike two items are by what is said of them. */

/** A property as it is looked up. */
export interface LookedUpProperty {
  /** Lower-case name. */
  readonly key: string;
  /** Null for what is no number. */
  readonly number: number | null;
  /** Of the number, in SI base units. */
  readonly unit: string | null;
  /** What it says, in lower case. */
  readonly said: string;
}

export interface PropertyCloseness {
  readonly key: string;
  /** 0 for nothing in common, 1 for the same. */
  readonly closeness: number;
}

export interface PropertyLikeness {
  /** Mean over the properties of the one that others are held against. */
  readonly score: number;
  readonly properties: readonly PropertyCloseness[];
}

/**
 * Holds an item against another, property by property: numbers of one unit by their ratio, everything else by whether it
 * says the same. What the other says nothing of counts as nothing in common. `O(properties)`
 */
export function likenessByProperties(
  of: readonly LookedUpProperty[],
  other: readonly LookedUpProperty[],
): PropertyLikeness {
  const theirs = new Map(other.map((property) => [property.key, property]));
  const properties = of.map((mine) => ({
    key: mine.key,
    closeness: closenessOf(mine, theirs.get(mine.key)),
  }));
  const sum = properties.reduce((total, { closeness }) => total + closeness, 0);
  return { score: properties.length === 0 ? 0 : sum / properties.length, properties };
}

function closenessOf(mine: LookedUpProperty, theirs: LookedUpProperty | undefined): number {
  if (!theirs) return 0;
  if (mine.number === null || theirs.number === null || mine.unit !== theirs.unit)
    return mine.said === theirs.said ? 1 : 0;
  const [less, more] = [mine.number, theirs.number].sort((a, b) => Math.abs(a) - Math.abs(b));
  if (less === undefined || more === undefined || less === more) return 1;
  // Of opposite signs, they have nothing in common.
  return Math.max(0, less / more);
}
