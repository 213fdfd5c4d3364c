/** Properties, classes and serial numbers. */
import type { ChangeKind, ItemClass, NumberScheme, PropertyDefinition } from '@stem-trace/core';

export interface PropertiesAnswer {
  readonly definitions: readonly PropertyDefinition[];
  readonly classes: readonly ItemClass[];
}

export type SetDefinitionRequest = PropertyDefinition;

export type SetClassRequest = ItemClass;

/** Edits held items; each gets a new version. */
export interface EditPropertiesRequest {
  readonly items: readonly string[];
  /** What was entered, by property; empty takes it away. */
  readonly set: Readonly<Record<string, string>>;
  /** Empty for none; absent where it stays. */
  readonly class?: string;
  readonly comment: string;
  /** Whether those that nobody holds are checked out for it, and let go when it is saved. */
  readonly checkOut: boolean;
}

export interface NumberSchemeRow extends NumberScheme {
  readonly class: string | null;
  /** The number that is given next. */
  readonly next: string;
  /** Of changes, for which it is kept; absent for items. */
  readonly for?: ChangeKind;
}

export interface SetSchemeRequest extends NumberScheme {
  /** Class whose items it is for; empty for any. */
  readonly class: string;
}

export interface ReserveRequest {
  readonly scheme: string;
  readonly count: number;
}
