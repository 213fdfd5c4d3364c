/** What the find box asks for, after it has been read. Places in the text are UTF-16 offsets. */
import type { PropertyDefinition } from '../properties/properties.js';

export type TextField =
  'number' | 'name' | 'description' | 'comment' | 'text' | 'file' | 'revision' | 'remark';
export type OptionField = 'kind' | 'state' | 'class' | 'format';
export type TimeField = 'changed' | 'created';
/** Which way a relation to another item goes. */
export type ItemRelation = 'used in' | 'made of' | 'derived from' | 'like' | 'in change' | 'affected by';
/** What an item may have or lack, besides properties. */
export type Belonging = 'drawing' | 'document' | 'gap' | 'class' | 'comment' | 'mark-up' | 'change';

export type Query =
  | { readonly kind: 'all' }
  | { readonly kind: 'and' | 'or'; readonly parts: readonly Query[] }
  | { readonly kind: 'not'; readonly part: Query }
  /** Occurs in number, name, properties, comments, the names of file and place, or the text of the file. */
  | { readonly kind: 'words'; readonly text: string }
  /** With `is`, a star stands for anything. */
  | {
      readonly kind: 'text';
      readonly field: TextField;
      readonly how: 'is' | 'has';
      readonly text: string;
    }
  | { readonly kind: 'option'; readonly field: OptionField; readonly values: readonly string[] }
  | {
      readonly kind: 'property';
      readonly name: string;
      readonly how: 'is' | 'has';
      readonly texts: readonly string[];
    }
  | { readonly kind: 'quantity'; readonly name: string; readonly unit: string; readonly range: Range }
  /** Days as `2026-03-31`. */
  | { readonly kind: 'day'; readonly name: string; readonly range: DayRange }
  | { readonly kind: 'time'; readonly field: TimeField; readonly range: DayRange }
  | { readonly kind: 'by'; readonly login: string }
  | { readonly kind: 'held'; readonly login?: string }
  | { readonly kind: 'relation'; readonly relation: ItemRelation; readonly item: string; readonly at: Span }
  | { readonly kind: 'with'; readonly what: Belonging | { readonly property: string } }
  | { readonly kind: 'in'; readonly place: string }
  | { readonly kind: 'behind' }
  | { readonly kind: 'unused' };

/** In SI units; a side that is missing is open. */
export interface Range {
  readonly from?: number;
  readonly to?: number;
  /** Whether the ends themselves count. */
  readonly withFrom: boolean;
  readonly withTo: boolean;
}

/** From the beginning of the first day to the end of the last, both as `2026-03-31`. */
export interface DayRange {
  readonly from?: string;
  readonly to?: string;
}

export interface Span {
  readonly from: number;
  readonly to: number;
}

export interface QueryProblem extends Span {
  /** What is wrong and what would be right. */
  readonly says: string;
}

export type ParsedQuery =
  | { readonly kind: 'query'; readonly query: Query }
  | { readonly kind: 'problem'; readonly problem: QueryProblem };

/** What names a query may use. */
export interface QueryWords {
  readonly properties: readonly PropertyDefinition[];
  readonly classes: readonly string[];
  /** Names of the states of all lifecycles. */
  readonly states: readonly string[];
  readonly people: readonly { readonly login: string; readonly name: string }[];
  /** For completion only. */
  readonly places: readonly string[];
  /** Login of the one who asks. */
  readonly me: string;
  /** Today, as `2026-03-31`. */
  readonly today: string;
}

export const MAX_QUERY = 1000;
export const MAX_DEPTH = 30;
