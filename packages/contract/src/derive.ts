/** Variants: what is asked for, what it would become, what it became. */
import type { Decision, ItemKind, NameRule } from '@stem-trace/core';
import type { CompareSide } from './compare.js';

export interface DeriveRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** What is copied where nothing else is said: everything, what is proposed, or just what `alsoCopy` names. */
  readonly copy: 'all' | 'proposed' | 'none';
  readonly alsoCopy: readonly string[];
  readonly share: readonly string[];
  /** Applied before the rules, in numbers and names: for programs; a person gives rules. */
  readonly replace: readonly { readonly from: string; readonly to: string }[];
  readonly prefix: string;
  /** What makes the copies' names of those of the origin, one rule after another. */
  readonly rules: readonly NameRule[];
  /** Number scheme whose next free numbers are for copies that no rule gives another; none where empty. */
  readonly scheme: string;
  /** Numbers and names given by hand, by the origin's number. */
  readonly renamed: Readonly<Record<string, { readonly number?: string; readonly name?: string }>>;
  /** Place for the copies; that of the origin where empty. */
  readonly place: string;
  /** Sent again with the same key, a derivation is not carried out twice. */
  readonly key: string;
}

export interface DeriveLine {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly decision: Decision;
  readonly reason: string;
  readonly forced: boolean;
  readonly newNumber: string | null;
  readonly newName: string | null;
  readonly fileName: string | null;
  readonly clash: { readonly of: 'decision' | 'name'; readonly says: string } | null;
}

/** A line of the origin's tree, for showing decisions where they belong. */
export interface DeriveTreeRow {
  readonly level: number;
  readonly number: string;
  readonly quantity: number;
  readonly gap: boolean;
}

export interface DerivePreview {
  readonly origin: CompareSide;
  readonly place: string;
  readonly lines: readonly DeriveLine[];
  readonly tree: readonly DeriveTreeRow[];
  readonly ready: boolean;
}

export interface DeriveResult {
  readonly variant: string;
  readonly made: readonly { readonly from: string; readonly to: string }[];
  readonly shared: readonly string[];
  /** What decisions dragged along, in words. */
  readonly notes: readonly string[];
}

/** What the copies might be called, before anybody has said anything. */
export interface DeriveProposal {
  /** Where it comes from, as a sentence. */
  readonly says: string;
  readonly rules: readonly NameRule[];
  /** Number scheme; empty where the rules say it all. */
  readonly scheme: string;
}
