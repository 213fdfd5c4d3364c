/** Places, moving and renaming, and whether the store is whole. */

/** Whether the store is whole, with what was counted. */
export interface VerifyAnswer {
  readonly whole: boolean;
  readonly items: number;
  readonly versions: number;
  readonly links: number;
  readonly gaps: number;
  readonly holds: number;
  readonly blobs: number;
  /** Each fault in a sentence. */
  readonly faults: readonly string[];
}

export interface PlaceRow {
  readonly path: string;
  readonly watched: boolean;
  /** Items right in it, not below. */
  readonly items: number;
}

export interface MoveItemsRequest {
  readonly items: readonly string[];
  readonly place: string;
}

export interface RenameItemRequest {
  readonly item: string;
  readonly name?: string;
  readonly fileName?: string;
}
