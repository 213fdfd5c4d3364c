/** Bills of materials of what is in the store. */
import type { Amount, ItemKind, ListProblem, TableMapping } from '@stem-trace/core';
import type { HolderView } from './custody.js';
import type { LensText } from './reference.js';

/** An amount, and how it is said: `0.4 m`. */
export interface AmountView extends Amount {
  readonly said: string;
}

export interface BillRow {
  /** 1 and up; 1 everywhere in a list of parts only. */
  readonly level: number;
  readonly find: string;
  readonly number: string;
  readonly name: string;
  /** Empty for a gap. */
  readonly version: string;
  readonly kind: ItemKind | null;
  readonly state: string | null;
  readonly amount: AmountView;
  /** What one of the item asked about needs of it; several where they do not add up. */
  readonly total: readonly AmountView[];
  /** With ranges: `R1–R4, R7`. */
  readonly designators: string;
  readonly configurations: string;
  readonly source: string;
  readonly values: Readonly<Record<string, string>>;
  /** What uses it at this row; empty in a list of parts only. */
  readonly user: string;
  /** What tells the row from all others. */
  readonly way: string;
  /** Of its link in its user, for changing what the row says; null in a list of parts only. */
  readonly position: number | null;
  /** From when until when it counts, as `parseSpans` reads it; empty where that is always. */
  readonly planned: string;
  readonly actual: string;
  /** Version of what uses it; empty in a list of parts only. */
  readonly userVersion: string;
  readonly isGap: boolean;
  readonly isHidden: boolean;
  readonly heldBy: HolderView | null;
  /** In a list of parts only: what each user needs in all. */
  readonly from: readonly { readonly number: string; readonly said: string }[];
  /** What may be used instead, the first choice first. */
  readonly alternates: readonly AlternateRow[];
}

/** From when until when rows of an assembly count. */
export interface EffectivityRequest {
  /** The assembly, with its version: `FM-2000@B/3`. */
  readonly item: string;
  readonly rows: readonly {
    /** Of the row's link in that version. */
    readonly position: number;
    readonly planned: string;
    readonly actual: string;
  }[];
}

/** Another item that may be used instead of one. */
export interface AlternateRow {
  readonly number: string;
  readonly name: string;
  readonly rank: number;
  /** The one user in which it may; null where it may anywhere. */
  readonly onlyIn: string | null;
  readonly note: string;
  readonly from: string | null;
  readonly to: string | null;
  readonly approvedBy: string | null;
}

export interface BillFault {
  /** The assembly that it is found in. */
  readonly number: string;
  readonly says: string;
}

export interface BillAnswer {
  readonly item: {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly kind: ItemKind;
    readonly state: string;
    readonly heldBy: HolderView | null;
  };
  readonly lens: LensText;
  readonly isFlat: boolean;
  readonly rows: readonly BillRow[];
  /** Find numbers and designators that cannot be right. */
  readonly faults: readonly BillFault[];
}

/** What a BOM is to say of rows of a held assembly from now on. */
export interface BillEditRequest {
  readonly item: string;
  /** `B/3`: in which the rows were seen; refused where the item has moved on. */
  readonly version: string;
  readonly rows: readonly BillRowEdit[];
  readonly comment: string;
  /** Holds it for this one save, where nobody does. */
  readonly checkOut: boolean;
}

export interface BillRowEdit {
  /** See `BillRow.position`. */
  readonly position: number;
  readonly find?: string;
  /** As a list: `R1–R4, R7`. */
  readonly designators?: string;
  /** As it is said: `0.4 m`; empty for as many pieces as the file has. */
  readonly amount?: string;
}

/** Find numbers for the rows that have none. */
export interface FindProposal {
  readonly rows: readonly BillRowEdit[];
  /** The drawing whose list gives some of them; null where there is none. */
  readonly drawing: string | null;
  /** How many it gives; the others are counted on. */
  readonly drawn: number;
  /** Numbers of rows that have another find number than the list says. */
  readonly otherwise: readonly string[];
}

export interface AlternateRequest {
  readonly item: string;
  readonly other: string;
  /** Only in this user; empty for anywhere. */
  readonly onlyIn: string;
  readonly rank: number;
  readonly note: string;
  readonly from: string | null;
  readonly to: string | null;
}

/** A set of columns under a name. */
export interface ColumnSet {
  readonly name: string;
  readonly columns: readonly string[];
  readonly isShared: boolean;
  /** Whose it is; null for one's own. */
  readonly by: string | null;
}

/** A file that was made, on its way to whoever asked. */
export interface FileAnswer {
  readonly name: string;
  readonly media: string;
  readonly base64: string;
}

/** A list that somebody sent, with what its columns were taken to mean. */
export interface ListView {
  readonly id: string;
  readonly name: string;
  /** Of a spreadsheet; empty for what is a BOM by itself. */
  readonly sheets: readonly string[];
  /** The first rows, as texts; empty for what is a BOM by itself. */
  readonly preview: readonly (readonly string[])[];
  readonly mapping: TableMapping;
  /** Rows that it has as a BOM. */
  readonly rows: number;
  readonly problems: readonly ListProblem[];
  /** Numbers that the store does not know, or that one may not see. */
  readonly unknown: number;
  /** For some of these, what is written like them. */
  readonly alike: readonly { readonly number: string; readonly like: string; readonly name: string }[];
  /** Meanings that one kept under names. */
  readonly kept: readonly { readonly name: string; readonly mapping: TableMapping }[];
}

export interface MapListRequest {
  readonly mapping: TableMapping;
  /** Name to keep it under; empty for not at all. */
  readonly keepAs: string;
}
