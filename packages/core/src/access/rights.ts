/** Who may do what where: grants stand at places and hold for everything below. */

/**
 * `receive`: have the files that are issued of it, without those that they were made from. `administer`: give grants, break holds,
 * put places into the bin.
 */
export const RIGHTS = ['see', 'receive', 'fetch', 'change', 'release', 'administer'] as const;
export type Right = (typeof RIGHTS)[number];

/** To one person, by login, or to everybody with a role. */
export type Grantee =
  { readonly kind: 'person'; readonly login: string } | { readonly kind: 'role'; readonly role: string };

export interface Grant {
  readonly to: Grantee;
  readonly rights: readonly Right[];
}

export interface PlaceAccess {
  readonly path: string;
  /** Whether what is granted above counts here too. */
  readonly inherits: boolean;
  /** In the bin, with everything below it: nobody has any right there. */
  readonly isBinned: boolean;
  readonly grants: readonly Grant[];
}

export interface Who {
  readonly login: string;
  readonly role: string;
}

/** This role has every right everywhere, so that nobody can lock the last one out. */
export const ALL_POWERFUL = 'administrator';

/**
 * What somebody may do at a place: all that is granted there and above, up to the place that cuts off what is above it.
 * A place that is not known has the rights of the one above it. To see is part of every other right, and to receive of that
 * to fetch. `O(depth × grants)`.
 */
export function rightsAt(
  places: ReadonlyMap<string, PlaceAccess>,
  path: string,
  who: Who,
): ReadonlySet<Right> {
  const rights = new Set<Right>();
  let counts = true;
  for (const above of upwards(path)) {
    const place = places.get(above);
    if (place?.isBinned) return new Set();
    if (!place || !counts) continue;
    for (const { to, rights: granted } of place.grants)
      if (isFor(to, who)) for (const right of granted) rights.add(right);
    // Going on upwards only to learn whether something above lies in the bin.
    if (!place.inherits) counts = false;
  }
  if (who.role === ALL_POWERFUL) return new Set(RIGHTS);
  if (rights.size > 0) rights.add('see');
  if (rights.has('fetch')) rights.add('receive');
  return rights;
}

/** A place and those above it, to the root: `/a/b`, `/a`, `/`. */
export function* upwards(path: string): Generator<string> {
  for (let at = path; ; at = at.slice(0, at.lastIndexOf('/')) || '/') {
    yield at;
    if (at === '/') return;
  }
}

function isFor(to: Grantee, who: Who): boolean {
  return to.kind === 'person' ? to.login === who.login : to.role === who.role;
}
