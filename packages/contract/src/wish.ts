/** Recipes, wish sheets, and what comes of them. */
import type { Recipe, RecipeProblem } from '@stem-trace/core/recipes';
import type { HolderView } from './custody.js';
import type { DerivePreview, DeriveRequest } from './derive.js';

export interface RecipeSummary {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly state: string;
  readonly heldBy: HolderView | null;
  /** Number and name of what variants are made of; empty where it may not be seen. */
  readonly of: string;
  readonly ofName: string;
  /** Variants that were made by it. */
  readonly made: number;
}

export interface RecipeView {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly state: string;
  readonly heldBy: HolderView | null;
  readonly recipe: Recipe;
  readonly problems: readonly RecipeProblem[];
}

export interface NewRecipeRequest {
  /** What variants are made of. */
  readonly item: string;
  readonly number: string;
  readonly name: string;
  /** That of the item where empty. */
  readonly place: string;
}

export interface SaveRecipeRequest {
  readonly item: string;
  /** The version that was edited. */
  readonly version: string;
  readonly recipe: Recipe;
  readonly comment: string;
}

export type WishValues = Readonly<Record<string, string | number | boolean>>;

export interface WishPlanRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly recipe: string;
  readonly wishes: WishValues;
}

/** What wishes lead to, before anything is made. */
export interface WishPlan {
  readonly problems: readonly RecipeProblem[];
  /** The wishes as they were understood, with their units. */
  readonly wishes: Readonly<Record<string, string>>;
  /** What was done, and by which rule. */
  readonly said: readonly { readonly rule: string; readonly says: string }[];
  /** A variant that fulfils the same wishes already; null where there is none. */
  readonly fulfilledBy: string | null;
  /** To be looked at and mended in Derive; null where there are problems. */
  readonly request: DeriveRequest | null;
  readonly preview: DerivePreview | null;
}

export interface OrderRequest {
  readonly recipe: string;
  readonly sheets: readonly {
    /** Who asked for it, in words: a customer, an order of a shop. */
    readonly for: string;
    readonly wishes: WishValues;
  }[];
}

export type SheetState = 'waiting' | 'made' | 'known' | 'failed';

export interface WishSheetRow {
  readonly id: string;
  readonly recipe: string;
  readonly recipeVersion: string;
  readonly batch: string;
  readonly for: string;
  readonly by: string;
  readonly at: string;
  readonly wishes: Readonly<Record<string, string>>;
  readonly state: SheetState;
  /** Why it failed, or what was there already. */
  readonly says: string;
  /** Number of the variant; null as long as there is none, or it may not be seen. */
  readonly variant: string | null;
  /** Of its proof; null until it is proved. */
  readonly dangling: number | null;
  readonly leaking: number | null;
  readonly references: number | null;
}

export interface OrderAnswer {
  readonly batch: string;
  readonly sheets: readonly WishSheetRow[];
}
