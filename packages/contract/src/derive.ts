/** Variants: what is asked for, what it would become, what it became. */
import type {
  AddedUse,
  CarryContradiction,
  CarrySide,
  Decision,
  NameRule,
  OriginNode,
  OtherItem,
  PlanLine,
  PlanRow,
  ShownItem,
} from '@stem-trace/core';
import type { CompareSide } from './compare.js';

/** A decision about one spot of the tree. */
export interface UseChoice {
  /** Numbers down to the line that is meant; where the first is not the origin's, every spot that ends like this. */
  readonly chain: readonly string[];
  /** Which of the occurrences there, the first being 1; all where absent or empty. */
  readonly occurrences?: readonly number[];
  readonly decision: Decision;
  /** `NUMBER` or `NUMBER@B/3` of what takes its place, where it is swapped. */
  readonly to?: string;
}

/** A use that the variant gets and the origin does not have. */
export interface AddChoice {
  /** Numbers down to the assembly that gets it, as for `UseChoice`. */
  readonly in: readonly string[];
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  readonly name: string;
  /** Number of something in that assembly whose first place it is given; the assembly's origin where empty. */
  readonly like: string;
  /** Millimetres along the axes of the assembly, from there. */
  readonly at: readonly number[];
  /** Direction in the axes of the assembly that its z gets, as where it stands on a face; turned as `like` says where absent. */
  readonly along?: readonly number[];
}

/** Properties that a copy gets. */
export interface ValueChoice {
  /** Number or key of the line; the top's where empty. */
  readonly of: string;
  /** As they are entered; empty takes a property away. */
  readonly set: Readonly<Record<string, string>>;
  /** What those are that the store does not define; texts where nothing is said. */
  readonly kinds?: Readonly<
    Record<string, { readonly kind: 'number' | 'yes/no' | 'text'; readonly unit: string }>
  >;
}

/** What a field of title blocks says in the copies. */
export interface TitleBlockChoice {
  /** Number or key of the line whose drawings are meant, or of a drawing; every copied drawing where empty. */
  readonly of: string;
  /** Tag of the field; case does not count. */
  readonly field: string;
  /** Blank where empty. */
  readonly text: string;
}

/** Begins the keys of derivations that wish sheets ask for; nobody else’s begin so. */
export const WISH_KEY = 'wish ';

export interface DeriveRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** What is copied where nothing else is said: everything, what is proposed, or just what `alsoCopy` names. */
  readonly copy: 'all' | 'proposed' | 'none';
  readonly alsoCopy: readonly string[];
  readonly share: readonly string[];
  readonly omit: readonly string[];
  /** Items whose place another takes, everywhere in the variant. */
  readonly swap: readonly { readonly from: string; readonly to: string }[];
  /** Decisions about single spots, which go before those about items; the later before the earlier. */
  readonly uses: readonly UseChoice[];
  readonly added: readonly AddChoice[];
  readonly values: readonly ValueChoice[];
  readonly titleBlocks: readonly TitleBlockChoice[];
  /** Only what belongs to this configuration of the origin goes into the variant; everything where empty. */
  readonly configuration: string;
  /** Id of the baseline whose versions are meant of what the origin is made of; those that were recorded where empty. */
  readonly baseline: string;
  /** Applied before the rules, in numbers and names: for programs; a person gives rules. */
  readonly replace: readonly { readonly from: string; readonly to: string }[];
  readonly prefix: string;
  /** What makes the copies' names of those of the origin, one rule after another. */
  readonly rules: readonly NameRule[];
  /** Number scheme whose next free numbers are for copies that no rule gives another; none where empty. */
  readonly scheme: string;
  /** Numbers and names given by hand, by the origin's number. */
  readonly renamed: Readonly<Record<string, { readonly number?: string; readonly name?: string }>>;
  /** Place for the copies; that of the origin where empty. */
  readonly place: string;
  /** Sent again with the same key, a derivation is not carried out twice. */
  readonly key: string;
}

/** Everything as it is proposed. */
export const PLAIN_DERIVATION: Omit<DeriveRequest, 'item'> = {
  copy: 'proposed',
  alsoCopy: [],
  share: [],
  omit: [],
  swap: [],
  uses: [],
  added: [],
  values: [],
  titleBlocks: [],
  configuration: '',
  baseline: '',
  replace: [],
  prefix: '',
  rules: [],
  scheme: '',
  renamed: {},
  place: '',
  key: '',
};

/** Something that stands in the way of a derivation, or that whoever derives should know of. */
export interface DeriveHindrance {
  readonly kind: 'number' | 'decision' | 'file' | 'held' | 'withdrawn' | 'behind' | 'gap';
  /** Whether nothing can be made before it is settled. */
  readonly stops: boolean;
  readonly says: string;
  /** What can be done about it. */
  readonly help: string;
  /** Lines that it is about. */
  readonly numbers: readonly string[];
}

export interface DerivePreview {
  readonly origin: CompareSide;
  readonly place: string;
  readonly lines: readonly PlanLine[];
  readonly tree: readonly PlanRow[];
  /** Summed up, what stops first. */
  readonly hindrances: readonly DeriveHindrance[];
  /** Names of the configurations that the origin has. */
  readonly configurations: readonly string[];
  readonly ready: boolean;
}

/** The property that makes an item a template: people begin others with it. */
export const TEMPLATE = 'Template';

export interface BeginRequest {
  /** The template: `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** Of the item that is begun; the template's where empty. */
  readonly name: string;
  /** Numbers come from it; where empty, from the scheme that the template's number is of, or the only one there is. */
  readonly scheme: string;
  /** Of the template where empty. */
  readonly place: string;
}

/** What was begun: held by whoever asked, with all that was copied for it. */
export interface BeginResult {
  readonly number: string;
  readonly version: string;
  /** Numbers of all that was made and is held, drawings among them. */
  readonly made: readonly string[];
}

/** A plan that is kept to go on with, by whoever began it and, where it is shared, by all who may fetch its origin. */
export interface PlanDraft {
  readonly id: string;
  readonly name: string;
  readonly by: string;
  readonly isMine: boolean;
  readonly isShared: boolean;
  readonly at: string;
  /** Version of the origin that it was kept for. */
  readonly version: string;
  /** Whether the origin, or something that it is made of, has got another version since. */
  readonly isBehind: boolean;
}

export interface KeepPlanRequest {
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly item: string;
  /** One’s own plan of that name is replaced. */
  readonly name: string;
  readonly isShared: boolean;
  readonly request: DeriveRequest;
}

/** What decisions about an origin are planned from, with the names that were asked for: see `planWithSpots`. */
export interface PlanGround {
  /** `NUMBER B/3` */
  readonly origin: string;
  readonly nodes: readonly OriginNode[];
  /** By item. */
  readonly shown: Readonly<Record<string, ShownItem>>;
  readonly rules: readonly NameRule[];
  /** Next free numbers of the scheme that was asked for. */
  readonly spare: readonly string[];
  readonly added: readonly AddedUse[];
  /** Of the numbers that may come to be given. */
  readonly takenNumbers: readonly string[];
  readonly takenFileNames: readonly string[];
  /** Items of the store that are swapped in or added, by how they were named. */
  readonly others: Readonly<Record<string, OtherItem>>;
}

export interface DeriveResult {
  readonly variant: string;
  readonly made: readonly { readonly from: string; readonly to: string }[];
  readonly shared: readonly string[];
  readonly omitted: readonly string[];
  readonly swapped: readonly { readonly from: string; readonly to: string }[];
  /** What decisions dragged along, in words. */
  readonly notes: readonly string[];
}

/** What carrying over does to a copy. */
export interface CarryOverRow {
  readonly number: string;
  readonly name: string;
  /** What it was copied from. */
  readonly origin: string;
  /** Versions of the origin: what the copy was made of, and the newest. */
  readonly from: string;
  readonly to: string;
  /**
   * `take`: the copy gets the origin's file. `values`: only what is said of it, for the origin's file did not change. `new`: the
   * origin got it since. `both`: both files changed, which a person has to bring together in the design program.
   */
  readonly kind: 'take' | 'values' | 'new' | 'both';
  /** Properties, and what bills say of uses, that both changed, each in its own way: to be decided before it is carried over. */
  readonly contradictions: readonly CarryContradiction[];
  /** What the copy keeps as its own. */
  readonly keeps: readonly string[];
  /** What the origin's versions since were checked in for. */
  readonly because: string;
  /** Why it cannot be done, or a new revision is begun; empty where nothing is in the way. */
  readonly says: string;
  readonly stops: boolean;
}

export interface CarryOverPlan {
  readonly variant: string;
  readonly origin: string;
  readonly rows: readonly CarryOverRow[];
}

export interface CarryOverRequest {
  readonly item: string;
  /** Numbers of copies that are left for later. */
  readonly leave: readonly string[];
  /** Whose value is taken where both changed it. */
  readonly decided: readonly CarryDecision[];
}

export interface CarryDecision {
  /** Of the copy. */
  readonly number: string;
  readonly field: string;
  readonly take: CarrySide;
}

export interface CarryOverResult {
  readonly variant: string;
  readonly done: readonly { readonly number: string; readonly version: string }[];
  /** Copies that stay behind, and why. */
  readonly left: readonly { readonly number: string; readonly says: string }[];
}

/** What the copies might be called, before anybody has said anything. */
export interface DeriveProposal {
  /** Where it comes from, as a sentence. */
  readonly says: string;
  readonly rules: readonly NameRule[];
  /** Number scheme; empty where the rules say it all. */
  readonly scheme: string;
  /** The last derivation of the same stem, with what was decided then; null where there is none to be seen. */
  readonly last: { readonly variant: string; readonly request: DeriveRequest } | null;
}
