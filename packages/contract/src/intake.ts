/** Sheets of what comes in. */
import type { FileFormat, ItemKind, Resolution, RowCorrection } from '@stem-trace/core';
import type { FetchManifest } from './manifest.js';

export type IntakeState = 'unpacking' | 'collecting' | 'carrying out' | 'done' | 'failed' | 'cancelled';

/** A sheet that somebody began and has not finished. */
export interface IntakeSheetRow {
  readonly id: string;
  readonly place: string;
  readonly state: IntakeState;
  readonly createdAt: string;
  readonly isCheckIn: boolean;
  readonly files: number;
}

export interface IntakeRowView {
  readonly key: string;
  readonly path: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly carrier: string | null;
  readonly status: 'new' | 'new version' | 'unchanged' | 'left out' | 'same file' | 'problem' | 'refused';
  /** Whether a refusal can be overruled by choosing to replace the newer version. */
  readonly canOverwrite: boolean;
  /** Whether it comes from elsewhere than the file of the item that it would become a version of. */
  readonly takesOver: boolean;
  /** The version that there is, for what is not new. */
  readonly existing: string | null;
  /** The version that a working copy's file was made from; null for what was not fetched. */
  readonly madeFrom: string | null;
  /** Number of the model that a drawing or a document belongs to; null where it belongs to none, or is a model. */
  readonly belongsTo: string | null;
  readonly references: { readonly resolved: number; readonly gaps: number };
  /** References that were guessed, said by hand or found nowhere: what somebody may want to correct. */
  readonly doubtful: readonly IntakeReference[];
  readonly notes: readonly string[];
  /** What its file is; null where it could not be read. */
  readonly format: FileFormat | null;
  /** What was read of it, as it would be kept. */
  readonly properties: readonly { readonly name: string; readonly shown: string }[];
}

/** What a locator of a file was taken to mean. */
export interface IntakeReference {
  readonly locator: string;
  /** Number of the item; null where it is a gap. */
  readonly number: string | null;
  /** How that was found; null where it was not. */
  readonly by: Resolution | null;
}

export interface IntakeCounts {
  readonly files: number;
  /** Items that are new. */
  readonly items: number;
  /** Versions that are new, those of new items included. */
  readonly versions: number;
  readonly links: number;
}

export interface IntakeResult extends IntakeCounts {
  readonly gaps: readonly { readonly file: string; readonly locator: string }[];
  readonly problems: readonly { readonly file: string; readonly line: number; readonly reason: string }[];
  readonly passedOver: readonly { readonly file: string; readonly reason: string }[];
  /** What BOMs said of uses that the new versions have no more: find numbers and designators, for somebody to decide. */
  readonly rowsLeft: readonly { readonly number: string; readonly says: string }[];
  /** Gaps of older links that this intake filled. */
  readonly filled: number;
  /** Changed files that custody did not allow in. */
  readonly refused: readonly { readonly file: string; readonly number: string; readonly reason: string }[];
  /** Files of the working copy that did not come back. */
  readonly missing: readonly string[];
}

export interface IntakeView {
  readonly id: string;
  /** The item and version that the working copy was fetched as; null for an intake of other files. */
  readonly workingCopy: { readonly item: string; readonly version: string } | null;
  readonly state: IntakeState;
  readonly place: string;
  readonly prefix: string;
  readonly comment: string;
  /** Rows done while it is carried out. */
  readonly progress: { readonly done: number; readonly total: number };
  readonly rows: readonly IntakeRowView[];
  readonly expected: IntakeResult;
  /** What was done, or null before. */
  readonly result: IntakeResult | null;
  /** Why it failed, where it did; nothing was written then. */
  readonly failure: string | null;
}

export interface IntakeRequest {
  readonly place: string;
  readonly prefix: string;
  /** Of a working copy that comes back: makes this a check-in. */
  readonly manifest?: FetchManifest;
}

export interface CarryOutRequest {
  readonly comment: string;
  /** Whether the holds of what is checked in are given up. */
  readonly letGo: boolean;
}

export interface CorrectionRequest {
  readonly corrections: Readonly<Record<string, RowCorrection>>;
  /** Keys of further rows that may replace a newer version, or take over the item that they are called like. */
  readonly overwrite?: readonly string[];
}
