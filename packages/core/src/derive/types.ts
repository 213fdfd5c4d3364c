/** What a derivation is planned from, and what the plan says. */
import type { Placement } from '../model/link.js';
import type { Source } from '../model/reading.js';
import type { NameRule } from '../naming/rules.js';

/** What the variant does with an item or with a use of it. */
export type Decision = 'share' | 'copy' | 'swap' | 'omit';

/** An item of the store that takes the place of another, or is added. */
export interface OtherItem {
  readonly itemId: string;
  readonly versionId: string;
  readonly number: string;
  readonly name: string;
}

/** One item version of the origin's tree. The top comes first. */
export interface OriginNode {
  readonly versionId: string;
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly source: Source;
  /** What the file of this version calls the product; a name that only repeats it is not a name of its own. */
  readonly idInFile: string;
  /** Version whose file holds this product, where it has no file of its own. */
  readonly carrierVersion?: string;
  /** Versions it is made of; one that stands in several links stands here as often. */
  readonly children: readonly string[];
  /** Occurrences of each of the children; one where absent. */
  readonly occurrences?: readonly number[];
  /** Places in `children` that the configuration which was chosen leaves out. */
  readonly leftOut?: readonly number[];
  /** What it is made of and the store does not have. */
  readonly gaps?: readonly { readonly text: string; readonly quantity: number }[];
  /** Items that it shows, where it is a drawing: it goes with them, and they do not depend on it. */
  readonly depicts?: readonly string[];
  /** Whether it is a drawing or a document: a frame, a table or a picture that others draw on stays what it is. */
  readonly isPaper?: boolean;
}

/** A decision about one spot of the tree, which goes before what was decided about the item. */
export interface UseDecision {
  /** Items from the top to the one decided about. */
  readonly chain: readonly string[];
  /** Places among the occurrences there; all of them where absent. */
  readonly occurrences?: readonly number[];
  readonly decision: Decision;
  /** What takes its place, where it is swapped. */
  readonly to?: OtherItem;
}

/** A use that the origin does not have. */
export interface AddedUse {
  /** Items from the top to the assembly that gets it. */
  readonly chain: readonly string[];
  /** An item of the store; where the origin's tree has it and it is copied, the copy is meant. */
  readonly item: OtherItem;
  readonly name: string;
  /** In the assembly that gets it. */
  readonly placement: Placement;
}

export interface DerivationRequest {
  readonly nodes: readonly OriginNode[];
  /** Decisions made by hand, by item. */
  readonly decisions: ReadonlyMap<string, Decision>;
  /** What takes the place of items that are swapped. */
  readonly swaps?: ReadonlyMap<string, OtherItem>;
  readonly uses?: readonly UseDecision[];
  readonly added?: readonly AddedUse[];
  /** Where nothing was decided: the proposal, or the same for all. */
  readonly otherwise: 'share' | 'copy' | 'propose';
  /** What makes the copies' names of those of the origin. */
  readonly rules: readonly NameRule[];
  /** Numbers for copies that no rule gives another number, in the order of the lines: those of a scheme. */
  readonly spare?: readonly string[];
  /** Names made by hand, by line. */
  readonly renamed: ReadonlyMap<string, { readonly number?: string; readonly name?: string }>;
  /** Number keys in use, see `numberKey`. */
  readonly takenNumbers: ReadonlySet<string>;
  /** File names in use at the variant's place, as `nameFold` makes them. */
  readonly takenFileNames: ReadonlySet<string>;
}

/** Why a line is what it is. */
export type Reason =
  | { readonly kind: 'top' }
  | { readonly kind: 'decided' }
  | { readonly kind: 'all' }
  | { readonly kind: 'notChosen' }
  | { readonly kind: 'bought' }
  | { readonly kind: 'designed' }
  /** It is part of something that was decided to be shared, or lives in the same file. */
  | { readonly kind: 'within'; readonly number: string }
  /** It contains something that is copied. */
  | { readonly kind: 'contains'; readonly number: string }
  /** Something is swapped, left out or added in it. */
  | { readonly kind: 'changes'; readonly number: string; readonly how: 'swapped' | 'left out' | 'added' }
  /** Its file is copied with the carrier. */
  | { readonly kind: 'livesIn'; readonly number: string }
  /** It is the drawing of something that is copied, or of nothing that is. */
  | { readonly kind: 'drawingOf'; readonly number: string }
  | { readonly kind: 'drawingStays' }
  /** A frame, a table or a picture that something draws on. */
  | { readonly kind: 'drawnOn' }
  /** Something that lives in its file is copied. */
  | { readonly kind: 'carries'; readonly number: string }
  /** Nothing of the variant uses it. */
  | { readonly kind: 'unused' }
  /** A second copy, for a spot where it is made of other things. */
  | { readonly kind: 'apart'; readonly chain: readonly string[] };

export interface DerivationLine {
  /** The item's id; with `#2` and so on behind it for a further copy of the item. */
  readonly key: string;
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly decision: Decision;
  readonly reason: Reason;
  /** Whether the decision follows from others and cannot be changed by itself. */
  readonly forced: boolean;
  /** The copy's names; absent where it is not copied. */
  readonly copy?: { readonly number: string; readonly name: string; readonly fileName: string };
  /** What takes its place, where it is swapped. */
  readonly to?: OtherItem;
  /** What stands in the way of carrying this out: a decision that cannot be kept, or a name that cannot be given. */
  readonly clash?: { readonly of: 'decision' | 'name'; readonly says: string };
}

/** What becomes of occurrences of one use. */
export type Becomes =
  | { readonly kind: 'share' }
  /** The copy with the key of its line. */
  | { readonly kind: 'copy'; readonly key: string }
  | { readonly kind: 'item'; readonly item: OtherItem }
  | { readonly kind: 'nothing' };

/** A version that the variant gets, copied from one of the origin. */
export interface MadeVersion {
  /** Key of the copy's line. */
  readonly key: string;
  readonly versionId: string;
}

/**
 * A version of a copy that is made of other things than it would be if each child that is copied under its item's own key
 * became that copy and any other were shared.
 */
export interface ChangedVersion extends MadeVersion {
  /** What becomes of each child of the origin's version, by its place in `children`; occurrences in order. */
  readonly uses: readonly (readonly Becomes[])[];
  readonly added: readonly {
    readonly becomes: Becomes;
    readonly name: string;
    readonly placement: Placement;
  }[];
}

/** A spot of the variant's tree, told from the origin's. */
export interface PlanSpot {
  readonly level: number;
  /** Empty for a gap. */
  readonly itemId: string;
  readonly number: string;
  readonly quantity: number;
  readonly decision: Decision | 'add';
  /** Line of the copy that stands there. */
  readonly key?: string;
  /** What is swapped in or added. */
  readonly to?: OtherItem;
  /** Places among the occurrences of the use, where they do not all become the same. */
  readonly occurrences?: readonly number[];
}

export interface DerivationPlan {
  readonly lines: readonly DerivationLine[];
  readonly made: readonly MadeVersion[];
  readonly changed: readonly ChangedVersion[];
  /** Whether nothing stands in the way. */
  readonly ready: boolean;
}
