/** Where a revision stands in its lifecycle, and what becomes of it when somebody tries to take a step. */
import type { Right } from '../access/rights.js';
import {
  stateNamed,
  stepNamed,
  type Diagram,
  type DiagramStep,
  type Lane,
  type LifecycleRole,
  type StepBy,
} from './diagram.js';
import { either } from './words.js';

export interface Standing {
  readonly state: string;
  /** Given for steps out of this state that want more. */
  readonly signatures: readonly GivenSignature[];
}

export interface GivenSignature {
  readonly step: string;
  readonly personId: string;
}

export interface StepTaker {
  readonly id: string;
  readonly role: LifecycleRole;
  /** At the place of the item. */
  readonly rights: ReadonlySet<Right>;
}

/** What is known of the item apart from where it stands. */
export interface StepSubject {
  /** Who made versions of the revision. */
  readonly authors: ReadonlySet<string>;
  /** Who brought it to where it stands. */
  readonly sender?: { readonly id: string; readonly name: string } | undefined;
  /** Name of whoever holds it. */
  readonly heldBy?: string | undefined;
  /** Number of the change order that made the revision and is not done: it moves all that it makes together. */
  readonly movedBy?: string | undefined;
}

export interface Attempt {
  readonly step: string;
  readonly by: StepTaker;
  readonly reason: string;
}

export type Attempted =
  /** As the end of a sentence about the item. */
  | { readonly kind: 'refused'; readonly why: string }
  /** Signed, and more signatures are wanted. */
  | { readonly kind: 'signed'; readonly standing: Standing; readonly wanted: number }
  | { readonly kind: 'taken'; readonly standing: Standing; readonly step: DiagramStep };

/**
 * Takes a step, or signs for it where it asks for signatures; the last of them takes it. Signatures for other steps out of the
 * state are gone once one is taken.
 */
export function attempt(
  diagram: Diagram,
  standing: Standing,
  { step: name, by, reason }: Attempt,
  subject: StepSubject,
): Attempted {
  const step = stepNamed(diagram, name);
  const why = step ? refusal(step, { standing, by, reason, subject }) : `there is no step ${name}`;
  if (!step || why !== undefined) return { kind: 'refused', why: why ?? '' };
  const moved: Standing = { state: step.to, signatures: [] };
  if (!step.signatures) return { kind: 'taken', standing: moved, step };
  const signatures = [...standing.signatures, { step: name, personId: by.id }];
  const wanted = step.signatures.count - signatures.filter((each) => each.step === name).length;
  return wanted > 0
    ? { kind: 'signed', standing: { ...standing, signatures }, wanted }
    : { kind: 'taken', standing: moved, step };
}

/** Steps that one may take, or sign for, as things stand; a reason is asked for with the step itself. */
export function stepsNow(
  diagram: Diagram,
  standing: Standing,
  by: StepTaker,
  subject: StepSubject,
): readonly DiagramStep[] {
  return diagram.steps.filter(
    (step) => refusal(step, { standing, by, reason: 'given later', subject }) === undefined,
  );
}

/**
 * What somebody must be allowed at the item's place. What leads from open to open or to a check is part of changing, and so is what
 * who sent it may do; all else decides.
 */
export function rightFor(diagram: Diagram, { from, to, who }: DiagramStep): Right {
  const laneOf = (name: string): Lane | undefined => stateNamed(diagram, name)?.lane;
  const isSentOn =
    from.every((name) => laneOf(name) === 'open') && ['open', 'under check'].includes(laneOf(to) ?? '');
  return isSentOn || who.some(({ kind }) => kind === 'sender') ? 'change' : 'release';
}

interface RefusalContext extends Pick<Attempt, 'by' | 'reason'> {
  readonly standing: Standing;
  readonly subject: StepSubject;
}

function refusal(step: DiagramStep, { standing, by, reason, subject }: RefusalContext): string | undefined {
  const { name, from, signatures, notByAuthors, asksReason } = step;
  if (!from.includes(standing.state)) return `it is ${standing.state}, not ${either(from)}`;
  const given = standing.signatures.filter((each) => each.step === name);
  if (given.some(({ personId }) => personId === by.id)) return 'you have signed it already';
  const allowed = signatures ? signersNow(step, given.length) : step.who;
  if (!allowed.some((who) => isOf(who, by, subject))) return `only ${sayWho(allowed, subject)} may ${name}`;
  if (notByAuthors && subject.authors.has(by.id)) return `who made it does not ${name} it`;
  if (subject.movedBy !== undefined)
    return `${subject.movedBy} makes it, and moves all that it makes together; ${name} that instead`;
  if (subject.heldBy !== undefined) return `${subject.heldBy} holds it; it must be let go first`;
  if (asksReason && reason.trim() === '') return `a reason is needed to ${name}`;
  return undefined;
}

function signersNow({ signatures }: DiagramStep, given: number): readonly StepBy[] {
  if (!signatures) return [];
  // Where all have signed and it waits for what goes with it, any of them may go on with it.
  return signatures.isInOrder && given < signatures.count
    ? signatures.of.slice(given, given + 1)
    : signatures.of;
}

function isOf(who: StepBy, by: StepTaker, { sender }: StepSubject): boolean {
  switch (who.kind) {
    case 'role':
      return by.role === who.role;
    case 'person':
      return by.id === who.id;
    case 'right':
      return by.rights.has(who.right);
    case 'sender':
      return by.id === sender?.id;
  }
}

/** `checker or administrator` */
export function sayWho(who: readonly StepBy[], { sender }: Pick<StepSubject, 'sender'> = {}): string {
  return either(who.map((each) => sayOne(each, sender?.name))) || 'nobody';
}

function sayOne(who: StepBy, sender: string | undefined): string {
  switch (who.kind) {
    case 'role':
      return who.role;
    case 'person':
      return who.name;
    case 'right':
      return `whoever may ${who.right} there`;
    case 'sender':
      return sender === undefined ? 'who sent it there' : `${sender}, who sent it there,`;
  }
}
