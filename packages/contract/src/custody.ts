/** Who holds what, steps of the lifecycle, and who is told of it. */
import type { State } from './items.js';

/** Kinds of change that the feed tells of. */
export type FeedKind =
  | 'holds'
  | 'items'
  | 'notices'
  | 'jobs'
  | 'shapes'
  | 'marks'
  | 'scenes'
  | 'lifecycles'
  | 'sheets'
  | 'changes';

/** Who holds an item. */
export interface HolderView {
  readonly login: string;
  readonly name: string;
  readonly initials: string;
  readonly since: string;
  readonly reason: string;
  /** Number of the change order that it is held for; null or absent for none. */
  readonly change?: string | null;
}

export interface HoldRow extends HolderView {
  readonly number: string;
  readonly itemName: string;
  readonly version: string;
  /** Links of the newest version whose recorded version is not the newest any more. */
  readonly behind: number;
}

/** What happened to each of several items. */
export interface CustodyAnswer {
  readonly done: readonly { readonly number: string; readonly version: string }[];
  readonly refused: readonly { readonly number: string; readonly reason: string }[];
}

export interface CheckOutRequest {
  readonly items: readonly string[];
  readonly reason: string;
  /** Number of the change order that it is for; empty where it is for none. */
  readonly change: string;
}

export interface StepRequest {
  readonly items: readonly string[];
  readonly step: string;
  readonly reason: string;
  /** Whether everything below them comes along that could take the step too. */
  readonly below?: boolean;
  /** Whether those that cannot are left out, rather than nothing being done. */
  readonly leavesOut?: boolean;
  /** Logins of those who are asked to decide about it; whoever may, where there are none. */
  readonly for?: readonly string[];
  /** Day by which it is to be decided; what the lifecycle says where absent. */
  readonly until?: string;
  /** Of whoever signs, where the step asks for signatures; where they are, as `Europe/Oslo`, stands with the signature. */
  readonly password?: string;
  readonly zone?: string;
  /**
   * Digests of the versions as the signer was shown them, by item number, from the check sheet or the preview. A signed step is
   * refused if one of them is missing or no longer matches.
   */
  readonly shown?: Readonly<Record<string, string>>;
}

export interface OfferedRequest {
  readonly items: readonly string[];
}

/** What became of a step. */
export interface StepAnswer extends CustodyAnswer {
  /** The check sheet on which what was sent on is checked; null where nothing was. */
  readonly sheet: string | null;
  /** Signed, and still where they were: so many more signatures are wanted. */
  readonly signed: readonly { readonly number: string; readonly version: string; readonly wanted: number }[];
}

/** A step that somebody may take now. */
export interface OfferedStep {
  readonly name: string;
  readonly from: State;
  readonly to: State;
  /** What it means for others, as a sentence. */
  readonly says: string;
  readonly asksReason: boolean;
  /** How many signatures it asks for, and who has given one; null where it asks for none. */
  readonly signatures: { readonly count: number; readonly given: readonly string[] } | null;
  /** Whether it hands on to a check: then one may say who is asked, and by when. */
  readonly isHandingOn: boolean;
}

export interface SignatureRow {
  readonly version: string;
  readonly step: string;
  readonly by: string;
  readonly at: string;
  /** Of the signer, as `Europe/Oslo`. */
  readonly zone: string;
}

/** What a step would do. */
export interface StepPreview {
  readonly items: readonly {
    readonly number: string;
    readonly version: string;
    /** Digest to send back in `StepRequest.shown`; empty unless the step is signed. */
    readonly shown: string;
  }[];
  /** A sentence for each that would be refused; then none is changed. */
  readonly refused: readonly string[];
  /** As many signatures are asked for before it is taken; 0 where none are. Whoever signs gives the password again. */
  readonly signatures: number;
  /** Where something is released: what it records, at any level, that was never released. */
  readonly drafts: readonly {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly state: State;
  }[];
  /** Items that record one of these. */
  readonly users: number;
}

/** An item that waits for a decision. */
export interface CheckRow {
  readonly number: string;
  readonly name: string;
  readonly version: string;
  /** The check sheet that it is on; null for what was sent before there were any. */
  readonly sheet: string | null;
  readonly sentBy: string;
  readonly sentAt: string;
  /** Empty where none was given. */
  readonly reason: string;
}

/** Asks whoever holds an item to let it go. */
export interface HoldAskRequest {
  readonly item: string;
  /** What it is wanted for. */
  readonly reason: string;
}

export interface HoldAnswerRequest {
  readonly id: string;
  /** Whether it is let go, with this answer. */
  readonly letGo: boolean;
  readonly says: string;
}

export interface AlignRequest {
  readonly items: readonly string[];
  /** Code that the first revision of each gets; the scheme's first where empty. */
  readonly start: string;
  /** Property that states the codes, as the field of a title block becomes one; one after another from `start` where absent. */
  readonly property?: string;
}

export interface AlignAnswer {
  readonly rows: readonly {
    readonly id: string;
    readonly itemId: string;
    readonly number: string;
    readonly from: string;
    readonly to: string;
  }[];
  /** Numbers of those that are in line already. */
  readonly unchanged: readonly string[];
  /** Items that say of themselves what cannot be, which stay as they are, with why. */
  readonly disagrees: readonly { readonly number: string; readonly says: string }[];
}

export interface NoticeRow {
  readonly id: string;
  readonly at: string;
  readonly says: string;
  /** The item that it is about; null where there is none. */
  readonly number: string | null;
  /** The view that it is about, where that is no item. */
  readonly address: string | null;
  readonly read: boolean;
  /** Somebody waits for the reader to let an item go, under this id; null where nobody does, or was answered. */
  readonly asks: string | null;
}

export interface NoticesAnswer {
  readonly unread: number;
  readonly rows: readonly NoticeRow[];
}

/** A recorded link that is not the newest, and why. */
export interface BehindRow {
  readonly number: string;
  readonly name: string;
  readonly recorded: string;
  readonly newest: string;
  /** `newer B/5 by … on …: comment` */
  readonly says: string;
}
