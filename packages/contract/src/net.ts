/** Structure as a net: each version once, with the links between them. */
import type { ItemKind, NetNode, Relation } from '@stem-trace/core';
import type { LensText } from './reference.js';
import type { HolderView } from './custody.js';
import type { State } from './items.js';

export interface NetNodeRow extends NetNode {
  readonly kind: ItemKind | null;
  /** `B/3`; null for a gap. */
  readonly version: string | null;
  readonly heldBy: HolderView | null;
  /** Links on the shortest way to the one asked about. */
  readonly depth: number;
}

/** A drawing or document of one of the nodes. */
export interface PaperRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly state: State;
  readonly relation: Relation;
  /** Place of the one that it shows or is about, among the nodes. */
  readonly of: number;
}

export interface NetAnswer {
  readonly lens: LensText;
  /** The one asked about is the first. */
  readonly nodes: readonly NetNodeRow[];
  /** From, to, quantity, behind; as `NetLink` of the core. */
  readonly links: readonly (readonly [from: number, to: number, quantity: number, behind: number])[];
  /** Names of configurations by place of the link; links that belong to all are absent. */
  readonly configurations: readonly (readonly [link: number, names: readonly string[]])[];
  readonly papers: readonly PaperRow[];
  /** Items that the asker may not see, at the edge of what they may. */
  readonly hidden: number;
}

/** Names of configurations that decide about what an item is made of, or about what uses it; sorted. */
export interface ConfigurationsAnswer {
  readonly configurations: readonly string[];
}

/** What a row of an effect is to the items that would be changed. */
export type EffectPart =
  'product' | 'assembly' | 'drawing' | 'document' | 'copy' | 'derived' | 'unused without it';

export interface EffectRow {
  readonly part: EffectPart;
  /** Levels between it and what is changed, at least; 0 for what is not in the structure. */
  readonly level: number;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly state: State;
  readonly heldBy: HolderView | null;
  /** Of what is changed in one of it; null where that means nothing. */
  readonly quantity: number | null;
  /** Numbers of those asked about through which it is touched. */
  readonly through: readonly string[];
  readonly mayChange: boolean;
  /** What a copy was made of or last got changes from, and how many versions of that are newer; null for what is no copy. */
  readonly origin: { readonly version: string; readonly newer: number } | null;
}

export interface EffectRequest {
  readonly items: readonly string[];
  readonly lens: LensText;
  /** Levels upwards; all where 0. */
  readonly levels: number;
}

export interface EffectAnswer {
  readonly items: readonly { readonly number: string; readonly name: string; readonly version: string }[];
  readonly rows: readonly EffectRow[];
  readonly hidden: number;
  /** Further rows than are told. */
  readonly cut: number;
}
