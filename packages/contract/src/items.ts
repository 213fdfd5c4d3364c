/** Items, their versions and the people who make them, as they are told. */
import type { FileFormat, ItemKind, LifecycleRole, PropertyValue, Relation, Right } from '@stem-trace/core';
import type { BehindRow, HolderView, OfferedStep, SignatureRow } from './custody.js';

export const ITEM_KINDS = [
  'assembly',
  'part',
  'drawing',
  'document',
  'bill',
  'request',
  'order',
] as const satisfies readonly ItemKind[];

/** Name of a state; what it means stands in the store's book of states. */
export type State = string;

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
  /** What its file is called when it is handed out. */
  readonly fileName: string;
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
  /** What its parts add up to, with what nobody knows of it. */
  readonly sums: readonly { readonly name: string; readonly shown: string }[];
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
  /** Steps of its lifecycle that the asker may take, or sign for, as it stands. */
  readonly steps: readonly OfferedStep[];
  /** Of its newest revision, the oldest first. */
  readonly signatures: readonly SignatureRow[];
}
