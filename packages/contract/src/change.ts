/** Change requests and change orders: what they say, what is made under them, and where all of them stand. */
import type {
  ChangeCost,
  ChangeKind,
  ChangeRelation,
  ChangeTask,
  CostSum,
  Evidence,
  FileFormat,
  ItemKind,
  Lane,
  TakesEffect,
  Urgency,
} from '@stem-trace/core';
import type { HolderView } from './custody.js';
import type { State } from './items.js';

/** An item that a change has to do with, as it is written. */
export interface ChangeLineInput {
  readonly relation: ChangeRelation;
  readonly item: string;
  readonly note: string;
  readonly inStock: string;
  readonly inWork: string;
}

export interface ChangeInput {
  readonly why: string;
  readonly urgency: Urgency;
  readonly owner: string;
  readonly until: string;
  readonly takesEffect: TakesEffect;
  readonly lines: readonly ChangeLineInput[];
  readonly evidence: readonly Evidence[];
  readonly tasks: readonly ChangeTask[];
  readonly costs: readonly ChangeCost[];
  readonly currency: string;
}

export interface NewChangeRequest {
  readonly kind: ChangeKind;
  /** Empty for the next one of the scheme. */
  readonly number: string;
  readonly name: string;
  /** Empty for where changes lie. */
  readonly place: string;
  readonly contents: ChangeInput;
}

export interface SaveChangeRequest {
  readonly change: string;
  /** `A/3`: which version was edited; refused where it is not the newest. */
  readonly version: string;
  readonly name: string;
  readonly contents: ChangeInput;
}

export interface ChangeReference {
  readonly change: string;
}

export interface ChangeMade {
  readonly number: string;
  readonly version: string;
}

export interface ChangeLineView extends Omit<ChangeLineInput, 'item'> {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly version: string;
  readonly state: State;
  readonly heldBy: HolderView | null;
}

export interface ChangeTaskView extends ChangeTask {
  /** Null while it is to be done. */
  readonly done: { readonly by: string; readonly at: string } | null;
  /** Whether the asker may tick it off, or open it again. */
  readonly mayTick: boolean;
}

/** A revision that is worked on under an order. */
export interface MadeRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  /** Of its newest version's file. */
  readonly format: FileFormat;
  readonly revision: string;
  /** What it was before; null where it is new. */
  readonly from: string | null;
  /** Its newest version. */
  readonly to: string;
  readonly state: State;
  readonly heldBy: HolderView | null;
  /** Made under the order, the newest first. */
  readonly versions: readonly {
    readonly version: string;
    readonly comment: string;
    readonly by: string;
    readonly at: string;
  }[];
}

/** Another change that this one has to do with. */
export interface OtherChange {
  readonly number: string;
  readonly name: string;
  readonly kind: ChangeKind;
  readonly state: State;
}

export interface ChangeView {
  readonly number: string;
  readonly name: string;
  readonly kind: ChangeKind;
  readonly version: string;
  readonly state: State;
  readonly lane: Lane;
  readonly place: string;
  readonly isNewest: boolean;
  readonly raisedBy: string;
  readonly raisedAt: string;
  readonly contents: Omit<ChangeInput, 'lines' | 'tasks'>;
  readonly lines: readonly ChangeLineView[];
  /** Items that the asker may not see; they stay where they are when it is saved. */
  readonly hidden: number;
  readonly tasks: readonly ChangeTaskView[];
  readonly sums: { readonly kinds: readonly CostSum[]; readonly all: string };
  readonly makes: readonly MadeRow[];
  /** Made by it, and not visible to the asker. */
  readonly makesHidden: number;
  /** Held for it, without a version under it yet. */
  readonly heldFor: readonly { readonly number: string; readonly name: string; readonly by: string }[];
  /** Orders that answer a request, requests that were joined with it. */
  readonly others: readonly OtherChange[];
  /** The check sheet on which it was sent last. */
  readonly sheet: string | null;
  /** Why the asker may not change what it says; null where one may. */
  readonly locked: string | null;
}

export interface TickTaskRequest extends ChangeReference {
  readonly task: string;
  readonly done: boolean;
}

export interface ChangeMakesRequest extends ChangeReference {
  readonly items: readonly string[];
}

/** A request is joined with another by a step that leads out of use; the other one gets what it names. */
export interface JoinRequestsRequest extends ChangeReference {
  readonly into: string;
  readonly step: string;
  readonly reason: string;
}

export interface ChangeRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ChangeKind;
  readonly version: string;
  readonly state: State;
  readonly lane: Lane;
  readonly urgency: Urgency;
  /** Name of whoever sees to it; empty for nobody. */
  readonly owner: string;
  readonly until: string;
  /** When that day ends at the site; null where there is none. */
  readonly dueAt: string | null;
  readonly openedAt: string;
  readonly openedBy: string;
  readonly closedAt: string | null;
  readonly stays: readonly { readonly state: string; readonly from: string; readonly to: string | null }[];
  readonly products: readonly string[];
  readonly waitsFor: readonly string[];
  readonly affects: number;
  readonly makes: number;
  readonly tasksOpen: number;
}

export interface ChangesQuery {
  /** Only those that an item has to do with; all where empty. */
  readonly item: string;
}

/** A task of somebody, of an order that is not done. */
export interface MyTaskRow {
  readonly change: string;
  readonly name: string;
  readonly task: string;
  readonly what: string;
  readonly until: string;
}

export interface RedlineRow {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly format: FileFormat;
  readonly from: string | null;
  readonly to: string;
  /** What is different, as a sentence; for what is new, that it is. */
  readonly says: string;
  /** Name, file, properties: what both say of themselves. */
  readonly whole: readonly { readonly what: string; readonly before: string; readonly after: string }[];
  readonly rows: readonly {
    readonly sign: string;
    readonly number: string;
    readonly name: string;
    readonly before: string;
    readonly after: string;
    readonly what: string;
  }[];
  /** SI units; null where it is not known of both. */
  readonly massKg: { readonly before: number; readonly after: number } | null;
  readonly cost: { readonly before: number; readonly after: number } | null;
}

/** What an order changes, side by side with what was before. */
export interface RedlineAnswer {
  readonly change: {
    readonly number: string;
    readonly name: string;
    readonly version: string;
    readonly state: State;
  };
  readonly rows: readonly RedlineRow[];
  readonly hidden: number;
  /** Over everything that it makes, where known: after less before. */
  readonly massKg: number | null;
  readonly cost: number | null;
}

export interface RedlineFileRequest extends ChangeReference {
  readonly format: 'pdf' | 'xml';
}

/** What a change touches, as a net. */
export interface ChangeMapAnswer {
  readonly nodes: readonly {
    readonly key: string;
    readonly number: string;
    readonly name: string;
    readonly kind: ItemKind;
    readonly state: State;
    /** Why it is there: `order`, `affects`, `product`, … */
    readonly role: ChangeMapRole;
  }[];
  readonly edges: readonly { readonly from: string; readonly to: string; readonly says: string }[];
  /** Left out for there are too many, or because the asker may not see them. */
  readonly more: number;
  readonly hidden: number;
}

export const CHANGE_MAP_ROLES = [
  'change',
  'request',
  'order',
  'shows in',
  'affects',
  'refers to',
  'makes',
  'variant',
  'document',
  'bill',
  'product',
] as const;
export type ChangeMapRole = (typeof CHANGE_MAP_ROLES)[number];
