/**
 * A lifecycle as data: states in lanes by what is locked in them, and steps between them. No name of a state or of a step decides
 * anything; lanes, asks and consequences do.
 */
import type { PropertyValue } from '../model/reading.js';
import type { Right } from '../access/rights.js';
import type { RevisionScheme } from './revision-scheme.js';

/**
 * `open`: it can be held and changed. `under check`: it stands still until somebody decides. `locked`: it never changes any more,
 * change goes on in a new revision. `out of use`: nothing goes on from it.
 */
export const LANES = ['open', 'under check', 'locked', 'out of use'] as const;
export type Lane = (typeof LANES)[number];

/** What a state is drawn as; what each looks like is the interface's own. */
export const GLYPHS = [
  'dashed ring',
  'rising ring',
  'cut square',
  'cut square in outline',
  'crossed ring',
  'half ring',
  'ringed dot',
  'split square',
  'diamond',
] as const;
export type StateGlyphName = (typeof GLYPHS)[number];

export interface DiagramState {
  readonly name: string;
  readonly lane: Lane;
  /** Whether the lens Released looks at it. */
  readonly isReleased: boolean;
  readonly glyph: StateGlyphName;
}

export const LIFECYCLE_ROLES = ['engineer', 'checker', 'planner', 'viewer', 'administrator'] as const;
export type LifecycleRole = (typeof LIFECYCLE_ROLES)[number];

/** Some people, told by what they are, by who they are, by what they may do at the item's place, or by having sent it where it is. */
export type StepBy =
  | { readonly kind: 'role'; readonly role: LifecycleRole }
  | { readonly kind: 'person'; readonly id: string; readonly name: string }
  | { readonly kind: 'right'; readonly right: Right }
  | { readonly kind: 'sender' };

export interface SignatureAsk {
  /** How many different people sign, at least 1. */
  readonly count: number;
  /** Who may sign; one after another in this order where `isInOrder`. */
  readonly of: readonly StepBy[];
  readonly isInOrder: boolean;
}

/** What a step brings about besides the new state. */
export type Consequence =
  /** Revisions of the item that stand in a state that counts as released go to another. */
  | { readonly kind: 'supersede'; readonly to: string }
  | { readonly kind: 'tell'; readonly who: readonly StepBy[] }
  /** Issued files are made of what is released. */
  | { readonly kind: 'issue' }
  /** The next revision is opened, beginning with what is locked now. */
  | { readonly kind: 'revise' }
  | SetConsequence
  /** A program that is told of steps is told of this one, whichever kinds it is told of else. */
  | { readonly kind: 'webhook'; readonly name: string };

/** What a property can be set to. `text`: words that are always the same. */
export const SET_TO = ['text', 'person', 'day', 'reason'] as const;

/** A property of the revision is set; its versions stay as they are. */
export interface SetConsequence {
  readonly kind: 'set';
  readonly property: string;
  readonly to: (typeof SET_TO)[number];
  /** Empty where it is not a text that is set. */
  readonly text: string;
}

export interface DiagramStep {
  readonly name: string;
  /** What somebody did who took it, with `…` where the item is named: `sent … for checking`. */
  readonly done: string;
  readonly from: readonly string[];
  readonly to: string;
  /** Any of these may take it; those who sign take it by that. */
  readonly who: readonly StepBy[];
  /** Whether nobody takes or signs it who made a version of the revision. */
  readonly notByAuthors: boolean;
  readonly asksReason: boolean;
  /** In how many days it is to be decided what this hands on to a check, and who is told where that is late. */
  readonly due?: { readonly days: number; readonly lead: readonly StepBy[] };
  readonly signatures?: SignatureAsk;
  /** Whether it may lead to a state that counts as released though something below the item is not. */
  readonly isOverUnreleased: boolean;
  readonly then: readonly Consequence[];
}

export interface Diagram {
  readonly name: string;
  readonly states: readonly DiagramState[];
  /** Where a revision begins. */
  readonly first: string;
  /** How revisions are called that are opened under it; as the store says where absent. */
  readonly revisions?: RevisionScheme;
  readonly steps: readonly DiagramStep[];
}

/** Every state of a store by its name. A name means the same in every lifecycle. */
export type StateBook = ReadonlyMap<string, DiagramState>;

export function bookOf(states: readonly DiagramState[]): StateBook {
  return new Map(states.map((state) => [state.name, state]));
}

export function stateNamed({ states }: Diagram, name: string): DiagramState | undefined {
  return states.find((state) => state.name === name);
}

export function stepNamed({ steps }: Diagram, name: string): DiagramStep | undefined {
  return steps.find((step) => step.name === name);
}

/** What a step sets of the revisions that take it. @param day as ISO 8601 writes it */
export function valuesSet(
  { then }: DiagramStep,
  { person, day, reason }: { readonly person: string; readonly day: string; readonly reason: string },
): PropertyValue[] {
  return then.flatMap((each): PropertyValue[] => {
    if (each.kind !== 'set') return [];
    const { property: name, to, text } = each;
    if (to === 'day') return [{ name, kind: 'date', date: day }];
    return [{ name, kind: 'text', text: to === 'person' ? person : to === 'reason' ? reason : text }];
  });
}

/** Names of the programs that are told of a step. */
export function webhooksOf({ then }: DiagramStep): string[] {
  return then.flatMap((each) => (each.kind === 'webhook' ? each.name : []));
}

/** States to which a step leads, by itself or by what it brings about. */
export function leadsTo({ to, then }: DiagramStep): readonly string[] {
  return [to, ...then.flatMap((each) => (each.kind === 'supersede' ? each.to : []))];
}
