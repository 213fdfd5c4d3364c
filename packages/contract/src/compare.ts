/** What is different between two versions. */
import type { DifferenceCounts, DifferenceSign } from '@stem-trace/core';

export interface CompareSide {
  readonly number: string;
  readonly name: string;
  readonly version: string;
}

export interface CompareRowSide {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly quantity: number;
}

export interface CompareRow {
  readonly sign: DifferenceSign;
  readonly chain: readonly string[];
  readonly number: string;
  readonly before: CompareRowSide | null;
  readonly after: CompareRowSide | null;
  readonly differs: { readonly quantity: boolean; readonly version: boolean; readonly placement: boolean };
}

export interface CompareAnswer {
  readonly from: CompareSide;
  readonly to: CompareSide;
  readonly sentence: string;
  readonly counts: DifferenceCounts;
  readonly rows: readonly CompareRow[];
}
