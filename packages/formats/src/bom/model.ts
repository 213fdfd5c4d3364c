/** A BOM on its way out of the store, or into a comparison: what the open formats can say of it. */
import type { Amount } from '@stem-trace/core';

export interface OutLine {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly amount: Amount;
  readonly find: string;
  readonly designators: readonly string[];
  readonly configurations: readonly string[];
  readonly values: Readonly<Record<string, string>>;
  readonly alternates: readonly { readonly number: string; readonly name: string; readonly rank: number }[];
  readonly children: readonly OutLine[];
}

/** What a BOM is of, and when it was written. */
export interface OutBom extends OutLine {
  /** ISO 8601. */
  readonly writtenAt: string;
  /** How versions below were chosen: `as recorded`, `newest`. */
  readonly lens: string;
}
