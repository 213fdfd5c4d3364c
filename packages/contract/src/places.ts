/** Places, moving and renaming, and whether the store is whole. */

import type { ItemKind } from '@stem-trace/core';

/** Whether the store is whole, with what was counted. */
export interface VerifyAnswer {
  readonly whole: boolean;
  readonly items: number;
  readonly versions: number;
  readonly links: number;
  readonly gaps: number;
  readonly holds: number;
  readonly blobs: number;
  readonly signatures: number;
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
  /** Whether drawings and documents about them go along. */
  readonly along: boolean;
}

/** A drawing or document that would go along. */
export interface AlongRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly place: string;
  /** What it is about. */
  readonly of: string;
}

export interface RenameItemRequest {
  readonly item: string;
  readonly name?: string;
  readonly fileName?: string;
}
