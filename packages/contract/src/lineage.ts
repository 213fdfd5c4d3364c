/** What was derived from what, and how far it has gone its own way since. */
import type { FamilyShares, FamilyVerdict, ItemKind } from '@stem-trace/core';
import type { HolderView } from './custody.js';
import type { LensText } from './reference.js';

/** Rows that two sides say otherwise than what both come from. */
export interface Drift {
  /** Only the origin changed, only the variant, both alike, both otherwise but not against each other, both against each other. */
  readonly origin: number;
  readonly variant: number;
  readonly alike: number;
  readonly apart: number;
  readonly contradict: number;
}

export interface StemRow {
  /** 1 for what the stem begins with. */
  readonly level: number;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  /** The one that the lens picks. */
  readonly version: string;
  readonly state: string;
  readonly heldBy: HolderView | null;
  /** What it was derived from; null for what the stem begins with, and where the asker may not see that. */
  readonly from: { readonly number: string; readonly version: string } | null;
  readonly at: string;
  readonly by: string;
  /** Versions that the origin has got since. */
  readonly originVersions: number;
  /** Versions that it has got itself since. */
  readonly ownVersions: number;
  /** Null for what has no structure, and for what the stem begins with. */
  readonly drift: Drift | null;
}

export interface StemAnswer {
  readonly item: { readonly number: string; readonly name: string };
  readonly lens: LensText;
  /** A tree, depth first, older ones first. */
  readonly rows: readonly StemRow[];
  readonly hidden: number;
  /** Variants whose drift was not worked out, because there are too many. */
  readonly cut: number;
}

export interface FamilyMember {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly state: string;
}

export interface FamilyCellView {
  readonly verdict: FamilyVerdict;
  /** Empty where there is nothing. */
  readonly number: string;
  readonly version: string;
  /** As it is said, where it is another than the origin's; else empty. */
  readonly amount: string;
}

export interface FamilyRowView {
  readonly level: number;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind | null;
  readonly version: string;
  readonly amount: string;
  readonly isOfOrigin: boolean;
  /** Different contents that the family has here, the origin's among them. */
  readonly kinds: number;
  /** One for each variant. */
  readonly cells: readonly FamilyCellView[];
}

export interface FamilyAnswer {
  readonly origin: FamilyMember;
  readonly lens: LensText;
  readonly variants: readonly FamilyMember[];
  readonly rows: readonly FamilyRowView[];
  readonly shares: FamilyShares;
  readonly hidden: number;
  /** Variants that are not in it, because there are too many. */
  readonly cut: number;
}
