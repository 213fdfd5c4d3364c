/** Check sheets: what was sent for checking together, what changed in it, who has seen it, and what is decided. */
import type { OfferedStep } from './custody.js';
import type { IssuedCount } from './issued.js';
import type { ItemKind } from '@stem-trace/core';
import type { State } from './items.js';

/** Somebody who is asked to decide about a check sheet. */
export interface AskedPerson {
  readonly login: string;
  readonly name: string;
  /** Who stands in today, where they are away; null where they are not. */
  readonly substitute: string | null;
}

/** A check sheet in a list. */
export interface SheetRow {
  readonly id: string;
  /** `FM-2300 Arm and 3 more` */
  readonly title: string;
  readonly sentBy: string;
  readonly sentAt: string;
  readonly reason: string;
  /** Items that the asker may see. */
  readonly items: number;
  /** Of those, how many still wait for somebody's decision. */
  readonly undecided: number;
  /** How many the asker has opened. */
  readonly seen: number;
  /** Whether something of it waits for the asker's decision: they may decide, and nobody else is asked. */
  readonly isMine: boolean;
  /** Empty where whoever may decide is asked. */
  readonly asked: readonly AskedPerson[];
  /** Day by which it is to be decided; null where none was set. */
  readonly until: string | null;
  /** Whether that day has passed and something still waits. */
  readonly isLate: boolean;
}

/** A point raised while checking. */
export interface CheckPointRow {
  readonly id: string;
  /** What it was raised about: `B/3`. */
  readonly version: string;
  readonly words: string;
  readonly by: string;
  readonly at: string;
  /** Null where nobody has answered. */
  readonly answer: { readonly words: string; readonly by: string; readonly at: string } | null;
  readonly closed: { readonly by: string; readonly at: string } | null;
  /** Whether it was raised on an earlier sheet. */
  readonly isEarlier: boolean;
  readonly mayAnswer: boolean;
  readonly mayClose: boolean;
}

export interface SheetItem {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  /** What was sent. */
  readonly version: string;
  readonly state: State;
  /** Digest of that version and of what is below it, to send back in `StepRequest.shown`; empty once it is decided. */
  readonly shown: string;
  /** Whether it still waits for a decision about that version. */
  readonly isUndecided: boolean;
  /** What it was last released as; null where it never was. */
  readonly released: string | null;
  /** Versions since then, the newest first. */
  readonly versions: readonly {
    readonly version: string;
    readonly comment: string;
    readonly by: string;
    readonly at: string;
  }[];
  /** Whether the asker opened it as it is now. */
  readonly isSeen: boolean;
  readonly seenBy: readonly { readonly by: string; readonly at: string }[];
  readonly points: readonly CheckPointRow[];
  /** Whether the asker may raise a point about it. */
  readonly mayRaise: boolean;
  readonly steps: readonly OfferedStep[];
  /** Files that are made of the version once it is released. */
  readonly issued: IssuedCount;
}

export interface SheetView extends SheetRow {
  readonly rows: readonly SheetItem[];
  /** Items of it that the asker may not see. */
  readonly hidden: number;
}

export interface SheetReference {
  readonly id: string;
}

export interface SheetItemRequest {
  readonly sheet: string;
  readonly item: string;
}

/** An item of a check sheet was opened. */
export interface SeenRequest extends SheetItemRequest {
  /** `SheetItem.shown` as it was displayed. */
  readonly shown: string;
}

export interface RaisePointRequest extends SheetItemRequest {
  readonly words: string;
}

export interface AnswerPointRequest {
  readonly point: string;
  readonly words: string;
}

/** Somebody else is asked to decide. */
export interface PassOnRequest {
  readonly sheet: string;
  /** Login. */
  readonly to: string;
  readonly reason: string;
}

/** Who stands in for somebody who is away, from a day to another, both counted in. */
export interface Substitution {
  /** Login; empty for nobody. */
  readonly substitute: string;
  readonly from: string;
  readonly to: string;
}

export interface ClosePointRequest {
  readonly point: string;
}
