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
  /** From when until when it counts, said in words; absent where that is always. */
  readonly effectivity?: string;
  /** Whether there is a further level. */
  readonly more: boolean;
  /** Something is there that the asker may not see: the row says no more than its quantity. */
  readonly hidden: boolean;
}

/** A structure that a release froze. */
export interface BaselineRow {
  /** Looked at by the lens `baseline ID`. */
  readonly id: string;
  readonly number: string;
  /** What was released: `B/3`. */
  readonly version: string;
  readonly at: string;
  /** SHA-256 over all that it holds; signatures of the release cover it. */
  readonly digest: string;
  /** How many items stand below. */
  readonly items: number;
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
  readonly meshes: readonly SceneMesh[];
  /** Uses below which there is something to be seen, depth first. */
  readonly nodes: readonly SceneNodeView[];
}

export interface SceneMesh {
  /** `NUMBER@B/3` of the item whose file has the geometry. */
  readonly item: string;
  readonly at: readonly Placement[];
  /** Of each place, its use: a place in `nodes`. */
  readonly nodes: readonly number[];
  /** Corners of the box around it in the frame of its file, millimetres; absent until its mesh has been made. */
  readonly box?: readonly [low: readonly [number, number, number], high: readonly [number, number, number]];
  /** How many the mesh has; absent as the box. */
  readonly triangles?: number;
}

export interface SceneNodeView {
  /** Place in the list of what it lies in; -1 for the item asked for. */
  readonly parent: number;
  /** Empty where one may not see it. */
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly state: State | null;
  /** What its parent calls this use. */
  readonly use: string;
  /** Where it stands, where no mesh says so. */
  readonly at?: Placement;
}

/** What lies within a distance of a selection. */
export interface NearAnswer {
  readonly rows: readonly NearRow[];
  /** Numbers of items whose geometry is not there yet, so that nothing is said of them. */
  readonly unknown: readonly string[];
}

export interface NearRow {
  /** The use that was found: a place in the scene's `nodes`. */
  readonly node: number;
  /** The use of the selection that it is near to. */
  readonly of: number;
  readonly number: string;
  readonly name: string;
  /** `touches`: nearer than the triangles can tell. */
  readonly kind: 'near' | 'touches' | 'overlaps';
  readonly distanceMm: number;
  /** How far one reaches into the other, at least. */
  readonly depthMm: number;
  readonly toleranceMm: number;
  /** The nearest points of both, in millimetres, in the frame of the item asked for. */
  readonly between: readonly (readonly number[])[];
}
