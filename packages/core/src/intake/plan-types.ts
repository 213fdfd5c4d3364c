/** What an intake plan is made from, and what it says. Plain data. */
import type { Allowance } from './locate.js';
import type { FileReading, ItemKind, Placement, ProductReading, Relation } from './reading.js';
import type { TitleBlockRule } from './title-block.js';

export interface IntakeFile {
  /** Relative path with `/`. */
  readonly path: string;
  readonly sha256: string;
  readonly reading?: FileReading;
  readonly problem?: { readonly line: number; readonly reason: string };
  /** Whether the content is what was once fetched, so that nothing changed though the stored bytes differ. */
  readonly asFetched?: boolean;
  /** Why a file is passed over, where it is. */
  readonly passedOver?: string;
}

/** What a person changed in the review table, by row key. */
export interface RowCorrection {
  readonly number?: string;
  readonly name?: string;
  readonly leaveOut?: boolean;
  /** Number of the model that a drawing or a document belongs to; empty where it belongs to none. */
  readonly belongsTo?: string;
}

/** An item of the store that may be met. */
export interface KnownItem {
  readonly id: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly fileName: string;
  readonly place: string;
  /** Whether the one who brings in may see it; its number is taken in any case. */
  readonly isVisible: boolean;
  /** Number of the model that it belongs to by hand or by name. */
  readonly belongsTo?: string;
  readonly newest: { readonly id: string; readonly label: string; readonly sha256: string };
}

export interface IntakeStore {
  byNumber(number: string): KnownItem | undefined;
  /** The one item of a place with this file name; case does not count. */
  byFile(place: string, fileName: string): KnownItem | undefined;
  /** The one part or assembly of a place whose file has this name without its ending; case does not count. */
  byStem(place: string, stem: string): KnownItem | undefined;
}

export type RowStatus =
  | { readonly kind: 'new' }
  | { readonly kind: 'newVersion'; readonly of: KnownItem }
  | { readonly kind: 'unchanged'; readonly of: KnownItem }
  | { readonly kind: 'leftOut' }
  /** It is changed, but custody does not allow it in; the item stays as it is. */
  | {
      readonly kind: 'refused';
      readonly of: KnownItem;
      readonly reason: string;
      readonly canOverwrite: boolean;
    }
  /** The same content as another row; that row stands for both. */
  | { readonly kind: 'sameAs'; readonly key: string }
  | { readonly kind: 'problem'; readonly line: number; readonly reason: string };

export type LinkTarget =
  | { readonly kind: 'row'; readonly key: string }
  | { readonly kind: 'item'; readonly item: KnownItem }
  | { readonly kind: 'gap' };

export interface PlannedLink {
  /** The placeholder, or the product itself where it lives in the same file. */
  readonly product: ProductReading;
  readonly relation: Relation;
  readonly target: LinkTarget;
  /** Whether the target lives in the same file. */
  readonly carried: boolean;
  readonly allowance?: Allowance;
  /** Names, sorted; empty where it belongs to every configuration. */
  readonly configurations: readonly string[];
  readonly occurrences: readonly { readonly name: string; readonly placement: Placement }[];
}

export interface IntakeRow {
  /** Path and product instance, `head.stp#40`. */
  readonly key: string;
  readonly path: string;
  readonly product: ProductReading;
  readonly number: string;
  readonly name: string;
  /** Key of the row whose file this product lives in. */
  readonly carrier?: string;
  readonly status: RowStatus;
  readonly links: readonly PlannedLink[];
  /** Sentences for the person who reviews. */
  readonly notes: readonly string[];
}

export interface IntakePlan {
  readonly rows: readonly IntakeRow[];
  readonly problems: readonly { readonly file: string; readonly line: number; readonly reason: string }[];
  readonly gaps: readonly { readonly file: string; readonly locator: string }[];
  readonly passedOver: readonly { readonly file: string; readonly reason: string }[];
}

export interface IntakeOptions {
  readonly files: readonly IntakeFile[];
  readonly store: IntakeStore;
  readonly corrections?: ReadonlyMap<string, RowCorrection>;
  /** Goes before every number that was not corrected by hand. */
  readonly prefix?: string;
  /** Place in the store that the folder becomes. */
  readonly place: string;
  /** What the fields of title blocks mean; `DEFAULT_TITLE_BLOCK` where absent. */
  readonly titleBlock?: readonly TitleBlockRule[];
}

/** Whether a row leads to something in the store after the intake. */
export function comesIn(row: { readonly status: RowStatus }): boolean {
  const { kind } = row.status;
  return kind === 'new' || kind === 'newVersion' || kind === 'unchanged' || kind === 'refused';
}

/** Place of a file: the intake's place with the file's folders below. */
export function placeOf(place: string, path: string): string {
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  return folder === '' ? place : `${place === '/' ? '' : place}/${folder}`;
}
