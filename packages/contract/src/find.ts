/** Finding items: searches, what they count, and what is kept of them. */
import type { Likeness } from '@stem-trace/core';
import type { ItemRow, State } from './items.js';

/** What rows can be ordered and grouped by; `property:NAME` besides. */
export const FIND_SORTS = [
  'best',
  'number',
  'name',
  'kind',
  'state',
  'class',
  'place',
  'changed',
  'changedBy',
] as const;
export const FIND_GROUPS = ['kind', 'state', 'class', 'place', 'changedBy'] as const;
export type FindGroup = (typeof FIND_GROUPS)[number];

/** Where a word was found, from the most prominent on. */
export const FOUND_IN = [
  'number',
  'name',
  'property',
  'file name',
  'former name',
  'comment',
  'place',
  'text',
] as const;
export type FoundIn = (typeof FOUND_IN)[number];

export interface FoundRow extends ItemRow {
  readonly class: string | null;
  /** Values of the properties that were asked for, as they were entered, by lower-case name. */
  readonly properties: Readonly<Record<string, string>>;
  /** Where the word of the search stands that is least prominent; null where there were no words. */
  readonly foundIn: FoundIn | null;
  /** The newest version that was released, where the newest of all was not; null elsewhere. */
  readonly released: string | null;
}

/**
 * Under which lens items are looked for: *Newest* goes by the newest version alone; else what has a released version counts as
 * released though a newer draft has been begun, and under *Released* nothing else is found.
 */
export const FIND_LENSES = ['recorded', 'newest', 'released'] as const;
export type FindLens = (typeof FIND_LENSES)[number];

/** Columns of an exported table besides properties. */
export const TABLE_COLUMNS = [
  'number',
  'name',
  'kind',
  'version',
  'state',
  'heldBy',
  'changed',
  'changedBy',
  'class',
  'place',
] as const;
export type TableColumn = (typeof TABLE_COLUMNS)[number];

export interface FindAnswer {
  readonly total: number;
  /** Further ones that match, which the asker may not see. */
  readonly hidden: number;
  readonly rows: readonly FoundRow[];
  /** Numbers that are written like the one looked for, where nothing was found. */
  readonly near: readonly { readonly number: string; readonly name: string }[];
}

export interface CountRow {
  readonly value: string;
  readonly count: number;
}

/** How many of the items found have which kind, state and so on; the most frequent first. */
export interface FindCounts {
  readonly total: number;
  readonly kind: readonly CountRow[];
  readonly state: readonly CountRow[];
  /** An empty value counts those without one. */
  readonly class: readonly CountRow[];
  readonly place: readonly CountRow[];
  readonly changedBy: readonly CountRow[];
}

/** Ranges of a property's numbers over the items found. */
export interface FindRanges {
  readonly name: string;
  /** SI base units of `from` and `to`, which are in `shownUnit`. */
  readonly unit: string;
  readonly ranges: readonly { readonly from: number; readonly to: number; readonly count: number }[];
  /** Of a text property instead: its values. */
  readonly values: readonly CountRow[];
}

export type SavedKind = 'search' | 'view';

export interface SavedRow {
  readonly id: string;
  readonly kind: SavedKind;
  readonly name: string;
  /** What the address of the view has behind its `?`; for a search what `/find` needs. */
  readonly address: string;
  readonly owner: string;
  readonly isMine: boolean;
  readonly isShared: boolean;
  /** Whether the owner is told when the count changes. */
  readonly tells: boolean;
  /** Items that a search finds now; null for views, and where its words mean nothing any more. */
  readonly count: number | null;
}

export interface SaveRequest {
  readonly kind: SavedKind;
  readonly name: string;
  readonly address: string;
  readonly isShared: boolean;
  readonly tells: boolean;
}

/** A part shaped like the one asked about, with what makes up the score. */
export interface LikeRow {
  readonly number: string;
  readonly name: string;
  readonly state: State;
  readonly likeness: Likeness;
}

/** The most alike first. */
export interface LikeAnswer {
  readonly rows: readonly LikeRow[];
}

export interface LikePropertiesRow {
  readonly number: string;
  readonly name: string;
  readonly state: State;
  /** 0 for nothing in common, 1 for the same. */
  readonly score: number;
  /** In the order of the properties of the item asked about; what it says is empty where it says nothing. */
  readonly properties: readonly { readonly closeness: number; readonly shown: string }[];
}

/** The most alike first. */
export interface LikePropertiesAnswer {
  readonly of: readonly { readonly name: string; readonly shown: string }[];
  readonly rows: readonly LikePropertiesRow[];
}
