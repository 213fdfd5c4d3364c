import type { Effectivity } from './effectivity.js';

/** Later than any time. */
export const NOT_RELEASED = Infinity;

/** What the lenses look at in a version. */
export interface LensFacts {
  /** Milliseconds since 1970, UTC. */
  readonly createdAtMs: number;
  /** When its revision came to count as released, in the same unit; `NOT_RELEASED` where it does not. */
  readonly releasedAtMs: number;
  /** From when on it counts, where the order that made it says so; from its release on where absent. */
  readonly effectivity?: Effectivity;
}

export interface VersionNode extends LensFacts {
  readonly id: string;
  readonly itemId: string;
  /** Position in the item's history, from 1 without holes. */
  readonly ordinal: number;
}
