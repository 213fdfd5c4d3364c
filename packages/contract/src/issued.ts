/** Issued files: what is made of something once it is released. */
import type { IssuedKind, IssuedSetting } from '@stem-trace/core';

export type IssuedState = 'waiting' | 'made' | 'left out';

export interface IssuedFileRow {
  readonly id: string;
  readonly version: string;
  readonly kind: IssuedKind;
  readonly state: IssuedState;
  /** Empty until it is made. */
  readonly name: string;
  readonly size: number;
  /** SHA-256; empty until it is made. */
  readonly sha256: string;
  readonly askedAt: string;
  readonly madeAt: string | null;
  /** What the file could not say. */
  readonly remarks: readonly string[];
  /** Why the last try failed, or why there is none. */
  readonly problem: string | null;
  readonly tries: number;
  /** Whether the asker may have it. */
  readonly mayReceive: boolean;
}

/** What a file was issued of that somebody holds in hands. */
export interface IssuedFromRow {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  /** That its revision is in now. */
  readonly state: string;
  readonly kind: IssuedKind;
  readonly file: string;
  readonly madeAt: string;
  /** The newest version that counts as released; null where none does any more. */
  readonly released: string | null;
}

/** `3 of 4` on a check sheet; all zero where none are made. */
export interface IssuedCount {
  readonly wanted: number;
  readonly made: number;
  readonly leftOut: number;
  /** Why one of them could not be made yet. */
  readonly problem: string | null;
}

export interface IssuedFileRequest {
  readonly item: string;
  /** Id of the file. */
  readonly file: string;
}

export interface IssuedFilesSetting {
  readonly issued: IssuedSetting;
}
