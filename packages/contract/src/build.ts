/** Bills: manufacturing BOMs that are taken from engineering. */
import type {
  Brought,
  BuildBill,
  BuildColumn,
  BuildRow,
  ReadinessFailure,
  ReadinessRule,
  MeantDifference,
  Side,
} from '@stem-trace/core';
import type { HolderView } from './custody.js';
import type { LensText } from './reference.js';

export interface BillSummary {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  readonly state: string;
  readonly heldBy: HolderView | null;
  /** Of the item that it is for; empty where the asker may not see that. */
  readonly forNumber: string;
  readonly forName: string;
  readonly changedBy: string;
  readonly changedAt: string;
  /** How often it was released. */
  readonly releases: number;
}

export interface BuildAnswer {
  readonly item: {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly state: string;
    readonly heldBy: HolderView | null;
    /** Whether this is the newest version, which alone can be changed. */
    readonly isNewest: boolean;
    /** The version before; null for the first. */
    readonly before: string | null;
  };
  readonly bill: BuildBill;
  /** Rows that one may not see; where there are some, the account cannot be judged, and nothing can be saved. */
  readonly hidden: number;
  /** Rows of engineering that are otherwise by now; null where that cannot be told, as where the asker may not see all of it. */
  readonly behind: number | null;
  /** The version of engineering that would be taken now. */
  readonly newest: string;
}

export interface NewBillRequest {
  /** What it is for. */
  readonly item: string;
  readonly lens: LensText;
  readonly number: string;
  readonly name: string;
  /** Where it shall lie; empty for beside what it is for. */
  readonly place: string;
}

/** A row as it is saved: which item it is follows from its number. */
export type SavedBuildRow = Omit<BuildRow, 'itemId'>;

export interface SaveBillRequest {
  readonly bill: string;
  /** `A/3`: which version was edited; refused where it is not the newest. */
  readonly version: string;
  readonly columns: readonly BuildColumn[];
  readonly rows: readonly SavedBuildRow[];
  readonly reasons: Readonly<Record<string, MeantDifference>>;
  readonly outputs: readonly string[];
  readonly comment: string;
}

export interface ContradictionView {
  /** Under which it is decided. */
  readonly key: string;
  readonly id: string;
  readonly number: string;
  readonly name: string;
  /** What both sides say otherwise, in words. */
  readonly what: string;
  readonly base: string;
  readonly mine: string;
  readonly theirs: string;
}

/** What carrying over would do. */
export interface CarryAnswer {
  readonly item: string;
  readonly from: string;
  readonly to: string;
  readonly brought: readonly Brought[];
  readonly contradictions: readonly ContradictionView[];
  /** Numbers of rows that lie further out because their level is gone. */
  readonly movedOut: readonly string[];
}

export interface CarryRequest {
  readonly bill: string;
  readonly version: string;
  /** The version of engineering that was looked at. */
  readonly to: string;
  /** By key of the contradiction; each must be decided. */
  readonly decisions: Readonly<Record<string, Side>>;
  readonly comment: string;
}

/** What needs an item without any file saying so. */
export interface UsedBesidesAnswer {
  readonly bills: readonly {
    readonly number: string;
    readonly name: string;
    /** The one that the lens picks. */
    readonly version: string;
    readonly state: string;
    /** What one of it needs, as it is said; empty where the item is only pointed at. */
    readonly amount: string;
    readonly rows: number;
  }[];
  /** What it may be used instead of. */
  readonly insteadOf: readonly {
    readonly number: string;
    readonly name: string;
    /** Null for anywhere. */
    readonly onlyIn: string | null;
    readonly rank: number;
    readonly approvedBy: string | null;
    readonly from: string | null;
    readonly to: string | null;
  }[];
  /** Bills that the asker may not see. */
  readonly hidden: number;
}

export interface ReadinessAnswer {
  readonly failures: readonly ReadinessFailure[];
  /** What is not looked at, by the store's settings. */
  readonly off: readonly ReadinessRule[];
}

export interface ReadinessSetting {
  readonly rules: readonly ReadinessRule[];
}

export interface BillRelease {
  readonly version: string;
  readonly at: string;
  readonly by: string;
  readonly notes: string;
  readonly isSuperseded: boolean;
  /** Issued files. */
  readonly files: readonly { readonly id: string; readonly name: string; readonly size: number }[];
  /** Why the files could not be made; they are tried again. */
  readonly problem: string | null;
  readonly planning: PlanningState;
}

/** Whether the planning system has it. */
export interface PlanningState {
  /** `off`: nobody said where it is. */
  readonly state: 'off' | 'waiting' | 'sent';
  readonly tries: number;
  readonly sentAt: string | null;
  /** Why the last try failed. */
  readonly problem: string | null;
}
