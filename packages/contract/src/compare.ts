/** What is different between two BOMs. */
import type {
  DifferenceCounts,
  DifferenceSign,
  Differs,
  Effect,
  PairedBy,
  Verdict,
  VerdictCounts,
} from '@stem-trace/core';
import type { LensText } from './reference.js';

export interface CompareSide {
  readonly number: string;
  readonly name: string;
  readonly version: string;
}

export interface ComparedSide extends CompareSide {
  readonly lens: LensText;
  /** When the version came in, ISO 8601, and who brought it. */
  readonly at: string;
  readonly author: string;
}

export interface CompareRowSide {
  readonly number: string;
  readonly name: string;
  /** Empty for a gap, and where a list names none. */
  readonly version: string;
  /** As it is said: `4`, `0.4 m`. */
  readonly amount: string;
  readonly find: string;
  /** As a list with ranges: `R1–R4, R7`. */
  readonly designators: string;
  readonly configurations: string;
  readonly values: Readonly<Record<string, string>>;
  /** What tells the row from all others of its side; pairs by hand are said by it. */
  readonly way: string;
  /** Number of what it lies in; empty on the first level. */
  readonly in: string;
  readonly state: string | null;
  readonly isGap: boolean;
  readonly isHidden: boolean;
}

export interface CompareRow {
  readonly sign: DifferenceSign;
  /** 1 and up. */
  readonly level: number;
  readonly number: string;
  readonly before: CompareRowSide | null;
  readonly after: CompareRowSide | null;
  /** By what the two were paired. */
  readonly by: PairedBy | null;
  readonly differs: Differs;
}

/** In what the two things compared differ themselves. */
export interface WholeDifference {
  readonly what: string;
  readonly before: string;
  readonly after: string;
}

export interface CompareAnswer {
  readonly from: ComparedSide;
  readonly to: ComparedSide;
  readonly sentence: string;
  readonly counts: DifferenceCounts;
  readonly whole: readonly WholeDifference[];
  readonly effect: Effect;
  readonly rows: readonly CompareRow[];
}

export interface ThreeRow {
  readonly verdict: Verdict;
  readonly level: number;
  readonly number: string;
  readonly name: string;
  readonly base: CompareRowSide | null;
  readonly one: CompareRowSide | null;
  readonly other: CompareRowSide | null;
  /** What each side changed, in words; empty where nothing. */
  readonly oneSays: string;
  readonly otherSays: string;
}

/** What two BOMs changed of one that both come from. */
export interface ThreeAnswer {
  readonly base: ComparedSide;
  readonly one: ComparedSide;
  readonly other: ComparedSide;
  readonly sentence: string;
  readonly counts: VerdictCounts;
  readonly rows: readonly ThreeRow[];
}
