/** What an item is made of, what uses it, and where its parts stand. */
import type { ItemKind, Placement } from '@stem-trace/core';
import type { HolderView } from './custody.js';
import type { State } from './items.js';
import type { LensText } from './reference.js';

export interface StructureRow {
  readonly level: number;
  readonly number: string;
  readonly name: string;
  /** Null for a gap. */
  readonly kind: ItemKind | null;
  /** `B/3`; null for a gap. */
  readonly version: string | null;
  readonly state: State | null;
  /** Per parent. */
  readonly quantity: number;
  /** In the item asked about, or of it in this parent. */
  readonly total: number;
  /** Number of the row's neighbour towards the item asked about. */
  readonly parent: string;
  /** Versions that the recorded one is behind the newest; 0 where it is not. */
  readonly behind: number;
  readonly heldBy: HolderView | null;
  /** The version that the parent recorded; null for a gap. */
  readonly recorded: string | null;
  readonly gap: boolean;
  /** Of a gap: whether the item is there, only not under the lens. */
  readonly isInStore?: boolean;
  /** Names of the configurations that the link belongs to; absent where that is all of them. */
  readonly configurations?: readonly string[];
  /** Whether there is a further level. */
  readonly more: boolean;
  /** Something is there that the asker may not see: the row says no more than its quantity. */
  readonly hidden: boolean;
}

export interface StructureAnswer {
  readonly item: {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly kind: ItemKind;
    readonly state: State;
  };
  readonly lens: LensText;
  readonly rows: readonly StructureRow[];
  /** Rows that there are; an answer may hold a part of them. */
  readonly total: number;
  /** Items that the asker may not see, at the edge of what they may. */
  readonly hidden: number;
}

/** Where meshes stand: placements as 3×4 matrices in millimetres, z up, in the frame of the item asked for. */
export interface SceneAnswer {
  readonly meshes: readonly { readonly item: string; readonly at: readonly Placement[] }[];
}
