/** Colours of what differs, the same in every picture of a comparison: as in the tables, told by sign and word there. */
import type { UseChange } from '@stem-trace/core/look';
import { Color } from 'three';
import type { Compared } from './pairs.js';

/** How much is seen of what is the same. */
export const SAME_OPACITY = 0.14;

const COLOURS: Readonly<Record<UseChange, string | undefined>> = {
  added: '#1b59b3',
  removed: '#c8743c',
  changed: '#67399c',
  replaced: '#67399c',
  moved: '#67399c',
  same: undefined,
};

export interface UseLook {
  readonly kind: UseChange;
  readonly colour: Color | undefined;
}

/** What each drawn use of a side is, by its place in the scene's nodes. */
export function looksOf(
  { pairs, first, second }: Compared,
  side: 'first' | 'second',
): ReadonlyMap<number, UseLook> {
  const { places } = side === 'first' ? first : second;
  return new Map(
    pairs.flatMap((pair) => {
      const place = places[pair[side] ?? -1];
      if (!place) return [];
      const { kind } = pair;
      // Before: in copper what is gone or was another; after: in blue or violet.
      const own = side === 'first' && kind !== 'same' ? COLOURS.removed : COLOURS[kind];
      return [[place.node, { kind, colour: own === undefined ? undefined : new Color(own) }] as const];
    }),
  );
}
