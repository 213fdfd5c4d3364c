/** What the lenses look at in a version. */
export interface LensFacts {
  /** Milliseconds since 1970, UTC. */
  readonly createdAtMs: number;
  readonly released: boolean;
}

export interface VersionNode extends LensFacts {
  readonly id: string;
  readonly itemId: string;
  /** Position in the item's history, from 1 without holes. */
  readonly ordinal: number;
}
