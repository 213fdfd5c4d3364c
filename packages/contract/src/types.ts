import type {
  Decision,
  DifferenceCounts,
  DifferenceSign,
  FileFormat,
  ItemKind,
  LifecycleRole,
  LifecycleState,
  Placement,
  PropertyValue,
  Relation,
  Right,
  RowCorrection,
  StepName,
} from '@stem-trace/core';
import type { FetchManifest } from './manifest.js';
import type { LensText } from './reference.js';

export type State = LifecycleState;

export type Role = LifecycleRole;

export interface PersonView {
  readonly login: string;
  readonly name: string;
  readonly initials: string;
  readonly role: Role;
}

export interface ItemRow {
  readonly number: string;
  readonly name: string;
  /** Absent for gaps, whose kind nobody knows. */
  readonly kind: ItemKind;
  /** Newest version, `B/3`. */
  readonly version: string;
  readonly state: State;
  readonly place: string;
  readonly changedAt: string;
  readonly changedBy: string;
  /** Null where nobody holds it. */
  readonly heldBy: HolderView | null;
}

export interface VersionRow {
  readonly version: string;
  readonly state: State;
  readonly comment: string;
  readonly author: string;
  readonly createdAt: string;
  readonly fileName: string;
  /** Links whose recorded version is not the newest any more. */
  readonly behind: number;
}

/** A step of lineage: an item derived from this one, or the one that this was derived from. */
export interface LineageRow {
  readonly number: string;
  readonly name: string;
  /** Version of the origin that was copied. */
  readonly originVersion: string;
  readonly derivedAt: string;
  readonly derivedBy: string;
}

/** Running text of a file, cut where it is long. */
export interface FileTextAnswer {
  readonly format: FileFormat;
  readonly text: string;
}

/** An item that another one shows, describes or draws on, or the other way round. */
export interface BesideRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly state: State;
  readonly relation: Relation;
  /** Whether the row refers to the item asked about, rather than being referred to. */
  readonly isUser: boolean;
}

export interface ItemView extends ItemRow {
  /** The version that this view is about; the newest where none was asked for. */
  readonly shown: string;
  readonly comment: string;
  readonly fileName: string;
  /** Number of the item whose file holds this one, where it has none of its own. */
  readonly carrier?: string;
  readonly description: string;
  /** Null where it has none. */
  readonly class: string | null;
  /** What its file was recognised as. */
  readonly format: FileFormat;
  readonly properties: readonly PropertyValue[];
  readonly versions: readonly VersionRow[];
  readonly derivedFrom?: LineageRow;
  readonly derivatives: readonly LineageRow[];
  readonly usedIn: number;
  readonly madeOf: number;
  readonly gaps: number;
  /** Its drawings and documents; of a drawing or a document what it is about and what it draws on. */
  readonly beside: readonly BesideRow[];
  /** Links of the version shown that are behind, with the reason. */
  readonly behindLinks: readonly BehindRow[];
  readonly watched: boolean;
  /** What the asker may do with it. */
  readonly rights: readonly Right[];
}

export interface StructureRow {
  readonly level: number;
  readonly number: string;
  readonly name: string;
  /** Null for a gap. */
  readonly kind: ItemKind | null;
  /** `B/3`; null for a gap. */
  readonly version: string | null;
  readonly state: State | null;
  /** Per parent. */
  readonly quantity: number;
  /** In the item asked about, or of it in this parent. */
  readonly total: number;
  /** Number of the row's neighbour towards the item asked about. */
  readonly parent: string;
  /** Versions that the recorded one is behind the newest; 0 where it is not. */
  readonly behind: number;
  readonly heldBy: HolderView | null;
  /** The version that the parent recorded; null for a gap. */
  readonly recorded: string | null;
  readonly gap: boolean;
  /** Names of the configurations that the link belongs to; absent where that is all of them. */
  readonly configurations?: readonly string[];
  /** Whether there is a further level. */
  readonly more: boolean;
  /** Something is there that the asker may not see: the row says no more than its quantity. */
  readonly hidden: boolean;
}

export interface StructureAnswer {
  readonly item: {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly kind: ItemKind;
    readonly state: State;
  };
  readonly lens: LensText;
  readonly rows: readonly StructureRow[];
  /** Rows that there are; an answer may hold a part of them. */
  readonly total: number;
  /** Items that the asker may not see, at the edge of what they may. */
  readonly hidden: number;
}

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
  /** The version that there is, for what is not new. */
  readonly existing: string | null;
  /** The version that a working copy's file was made from; null for what was not fetched. */
  readonly madeFrom: string | null;
  /** Number of the model that a drawing or a document belongs to; null where it belongs to none, or is a model. */
  readonly belongsTo: string | null;
  readonly references: { readonly resolved: number; readonly gaps: number };
  readonly notes: readonly string[];
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
  /** Keys of rows that may replace a newer version. */
  readonly overwrite?: readonly string[];
}

export interface DeriveRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** What is copied where nothing else is said: everything, what is proposed, or just what `alsoCopy` names. */
  readonly copy: 'all' | 'proposed' | 'none';
  readonly alsoCopy: readonly string[];
  readonly share: readonly string[];
  readonly replace: readonly { readonly from: string; readonly to: string }[];
  readonly prefix: string;
  /** Numbers and names given by hand, by the origin's number. */
  readonly renamed: Readonly<Record<string, { readonly number?: string; readonly name?: string }>>;
  /** Place for the copies; that of the origin where empty. */
  readonly place: string;
  /** Sent again with the same key, a derivation is not carried out twice. */
  readonly key: string;
}

export interface DeriveLine {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly decision: Decision;
  readonly reason: string;
  readonly forced: boolean;
  readonly newNumber: string | null;
  readonly newName: string | null;
  readonly fileName: string | null;
  readonly clash: { readonly of: 'decision' | 'name'; readonly says: string } | null;
}

/** A line of the origin's tree, for showing decisions where they belong. */
export interface DeriveTreeRow {
  readonly level: number;
  readonly number: string;
  readonly quantity: number;
  readonly gap: boolean;
}

export interface DerivePreview {
  readonly origin: CompareSide;
  readonly place: string;
  readonly lines: readonly DeriveLine[];
  readonly tree: readonly DeriveTreeRow[];
  readonly ready: boolean;
}

export interface DeriveResult {
  readonly variant: string;
  readonly made: readonly { readonly from: string; readonly to: string }[];
  readonly shared: readonly string[];
  /** What decisions dragged along, in words. */
  readonly notes: readonly string[];
}

export interface DemoPerson {
  readonly login: string;
  readonly name: string;
  readonly role: Role;
  readonly password: string;
}

/** What may be known before signing in. */
export interface WelcomeAnswer {
  /** People of the demo data with their passwords; empty in a real store. */
  readonly demo: readonly DemoPerson[];
}

/** Kinds of change that the feed tells of. */
export type FeedKind = 'holds' | 'items' | 'notices';

/** Who holds an item. */
export interface HolderView {
  readonly login: string;
  readonly name: string;
  readonly initials: string;
  readonly since: string;
  readonly reason: string;
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
}

export interface StepRequest {
  readonly items: readonly string[];
  readonly step: StepName;
  readonly reason: string;
}

export interface AlignRequest {
  readonly items: readonly string[];
  /** Code that the first revision of each gets; the scheme's first where empty. */
  readonly start: string;
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

/** Whether the store is whole, with what was counted. */
export interface VerifyAnswer {
  readonly whole: boolean;
  readonly items: number;
  readonly versions: number;
  readonly links: number;
  readonly gaps: number;
  readonly holds: number;
  readonly blobs: number;
  /** Each fault in a sentence. */
  readonly faults: readonly string[];
}

export interface PlaceRow {
  readonly path: string;
  readonly watched: boolean;
  /** Items right in it, not below. */
  readonly items: number;
}

export interface MoveItemsRequest {
  readonly items: readonly string[];
  readonly place: string;
}

export interface RenameItemRequest {
  readonly item: string;
  readonly name?: string;
  readonly fileName?: string;
}

/** Where meshes stand: placements as 3×4 matrices in millimetres, z up, in the frame of the item asked for. */
export interface SceneAnswer {
  readonly meshes: readonly { readonly item: string; readonly at: readonly Placement[] }[];
}
