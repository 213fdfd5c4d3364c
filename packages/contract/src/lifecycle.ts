/** Lifecycles of the store: their diagrams, for what they are meant, and how revisions are moved on to a newer one. */
import type { Diagram, DiagramState, ItemKind } from '@stem-trace/core';
import { ITEM_KINDS } from './items.js';

/** A recipe is a document that may go by a lifecycle of its own. */
export type ScopeKind = ItemKind | 'recipe';
export const SCOPE_KINDS: readonly ScopeKind[] = [...ITEM_KINDS, 'recipe'];

/** For what a lifecycle is meant; what is null does not matter. Class goes before kind, and kind before place. */
export interface LifecycleScope {
  readonly kind: ScopeKind | null;
  readonly class: string | null;
  /** With everything below it. */
  readonly place: string | null;
}

/** How many revisions go by a version of it and stand in a state. */
export interface StandingCount {
  readonly version: number;
  readonly state: string;
  readonly count: number;
}

export interface LifecycleRow {
  readonly id: string;
  /** Of the diagram, counted from 1. */
  readonly version: number;
  readonly diagram: Diagram;
  readonly scopes: readonly LifecycleScope[];
  /** Null for what ships. */
  readonly changedBy: string | null;
  readonly changedAt: string;
  readonly comment: string;
  readonly standing: readonly StandingCount[];
}

export interface LifecyclesAnswer {
  /** All states that there are, whichever lifecycle knows them. */
  readonly states: readonly DiagramState[];
  readonly lifecycles: readonly LifecycleRow[];
}

export interface LifecycleDraft {
  /** Empty for another one. */
  readonly id: string;
  readonly diagram: Diagram;
  readonly scopes: readonly LifecycleScope[];
  readonly comment: string;
}

export interface LifecycleReference {
  readonly id: string;
}

export interface LifecycleChecked {
  /** A sentence for everything that is wrong; it can be saved where there is none. */
  readonly wrong: readonly string[];
}

export interface LifecycleVersionRow {
  readonly version: number;
  readonly by: string | null;
  readonly at: string;
  readonly comment: string;
  readonly diagram: Diagram;
}

/** Revisions that go by older versions of a lifecycle are to go by its newest. */
export interface MoveOnRequest {
  readonly id: string;
  /** Where those go whose state is there no more. */
  readonly moves: readonly { readonly from: string; readonly to: string }[];
}

export interface MoveOnAnswer {
  readonly rows: readonly {
    readonly from: string;
    readonly to: string;
    readonly count: number;
    /** Some of them, as `FM-100 B`. */
    readonly such: readonly string[];
  }[];
  readonly wrong: readonly string[];
}
