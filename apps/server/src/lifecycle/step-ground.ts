/** What a step of many items is judged by, and the judgement. */
import {
  attempt,
  countsAsReleased,
  missingProperties,
  rightFor,
  type Attempted,
  type DiagramStep,
  type ItemClass,
  type StateBook,
  type StepTaker,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { Content } from '../signatures/signatures.service.js';
import { releasedBelow, type Missing, type ReleasedBelow } from '../store/baseline.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { propertiesOf } from '../store/facts.js';
import { sayItem } from '../store/names.js';
import type { RevisionStanding } from '../store/standings.js';

/** One of the items that are to take a step. */
export interface StepTarget {
  readonly item: DescribedVersion;
  readonly at: RevisionStanding;
  /** Undefined where its lifecycle has none of that name. */
  readonly step: DiagramStep | undefined;
  readonly by: StepTaker;
  /** Id of the change order that it goes along with. */
  readonly with?: string;
}

export interface Refused {
  readonly kind: 'refused';
  readonly target: StepTarget;
  readonly why: string;
  /** Whether nothing but what it goes with stands in the way. */
  readonly isAlong?: true;
}

export interface Going {
  /** `waits`: it could be taken, and is not, for something that must go with it wants more signatures. */
  readonly kind: 'signed' | 'taken' | 'waits';
  readonly target: StepTarget;
  readonly step: DiagramStep;
  /** Signatures that are wanted besides. */
  readonly wanted: number;
}

export type Judged = Refused | Going;

export interface StepGround {
  readonly book: StateBook;
  readonly classes: ReadonlyMap<string, ItemClass>;
  readonly rights: Rights;
  readonly name: string;
  readonly reason: string;
  /** What overlaps in time or leaves a hole, by version id. */
  readonly inTime: ReadonlyMap<string, readonly string[]>;
  /** What is signed, by version id. */
  readonly contents: ReadonlyMap<string, Content>;
}

export function releases({ to }: DiagramStep, book: StateBook): boolean {
  return countsAsReleased(book, to);
}

/** Judges each by itself; what each of them stands on below is judged by `overWhat`. */
export function judge(
  target: StepTarget,
  { book, classes, rights, name, reason, contents, inTime }: StepGround,
): Judged {
  const { item, at, step, by } = target;
  const no = (why: string): Judged => ({ kind: 'refused', target, why: `${sayItem(rights, item)}: ${why}` });
  if (!step) return no(`its lifecycle, ${at.diagram.name}, has no step ${name}`);
  const right = rightFor(at.diagram, step);
  if (!rights.may(right, item.placeId))
    return no(`your access at its place does not allow you to ${right} it`);
  const missing = wantsComplete(step, book) ? lacking(item, classes.get(item.itemId)) : undefined;
  if (missing !== undefined) return no(missing);
  const [fault] = wantsComplete(step, book) || releases(step, book) ? (inTime.get(item.id) ?? []) : [];
  if (fault !== undefined) return no(fault);
  // Who signed something else than what is there now has not signed this.
  const content = contents.get(item.id)?.digest;
  const signatures = at.given.filter((each) => each.content === content);
  const done: Attempted = attempt(
    at.diagram,
    { ...at.standing, signatures },
    { step: step.name, by, reason },
    at.subject,
  );
  return done.kind === 'refused'
    ? no(done.why)
    : { kind: done.kind, target, step, wanted: done.kind === 'signed' ? done.wanted : 0 };
}

/** Whether what is sent on must have all that its class requires. */
function wantsComplete({ from, to }: DiagramStep, book: StateBook): boolean {
  const lane = book.get(to)?.lane;
  return (
    (lane === 'under check' || lane === 'locked') && from.every((state) => book.get(state)?.lane === 'open')
  );
}

/** What an item's class requires of it and is not there, as the end of a sentence. */
function lacking(item: DescribedVersion, of: ItemClass | undefined): string | undefined {
  const missing = of ? missingProperties(of, propertiesOf(item)) : [];
  return missing.length === 0
    ? undefined
    : `as a ${of?.name} it needs ${missing.join(', ')}; check it out and enter that first`;
}

/** What stands below all that would be released, if all of it were. */
export async function belowOf(
  manager: EntityManager,
  targets: readonly StepTarget[],
  book: StateBook,
): Promise<ReleasedBelow> {
  const going = targets.filter(({ step }) => step !== undefined && releases(step, book));
  return releasedBelow(
    manager,
    going.map(({ item }) => item.id),
    new Map(going.map(({ item }) => [item.itemId, item.id])),
  );
}

/**
 * Refuses what would be released over something that is not, unless its lifecycle allows it.
 *
 * @param below what stands below, where only what goes on is released
 */
export function overWhat(
  judged: Judged,
  below: ReleasedBelow,
  { book, rights }: Pick<StepGround, 'book' | 'rights'>,
): Judged {
  if (judged.kind === 'refused' || judged.step.isOverUnreleased || !releases(judged.step, book))
    return judged;
  const { target } = judged;
  const missing = sayMissing(below.missing(target.item.id), rights);
  const [first] = missing;
  if (first === undefined) return judged;
  const more = missing.length > 1 ? `, and ${missing.length - 1} more` : '';
  return { kind: 'refused', target, why: `${sayItem(rights, target.item)}: ${first}${more}` };
}

/**
 * What goes with a change order goes together or not at all: where one of them may not go, none does, and where one wants more
 * signatures, the others wait, with what was signed for them kept.
 */
export function together(judged: readonly Judged[], rights: Rights): Judged[] {
  const groups = new Map<string, Judged[]>();
  for (const each of judged) {
    const { item, with: order } = each.target;
    const group = order ?? (item.kind === 'order' ? item.itemId : undefined);
    if (group !== undefined) groups.set(group, [...(groups.get(group) ?? []), each]);
  }
  const becomes = new Map<Judged, Judged>();
  for (const group of groups.values()) {
    const wrong = group.find(({ kind }) => kind === 'refused');
    const wants = group.some(({ kind }) => kind === 'signed');
    for (const each of group) {
      if (each.kind === 'refused') continue;
      if (wrong)
        becomes.set(each, {
          ...{ kind: 'refused', target: each.target, isAlong: true },
          why: `${sayItem(rights, each.target.item)} goes with ${sayItem(rights, wrong.target.item)}, which cannot`,
        });
      else if (wants && each.kind === 'taken') becomes.set(each, { ...each, kind: 'waits' });
    }
  }
  return judged.map((each) => becomes.get(each) ?? each);
}

/** Why they are refused, without those that only go with one that is. */
export function causes(refused: readonly Refused[]): string[] {
  return refused.flatMap(({ why, isAlong }) => (isAlong ? [] : why));
}

/** Each as the end of a sentence; what may not be seen is not named. */
export function sayMissing(missing: readonly Missing[], rights: Rights): string[] {
  const says = missing.map(({ user, userPlaceId, what, placeId }) => {
    if (!rights.may('see', userPlaceId) || (placeId !== null && !rights.may('see', placeId)))
      return 'something below it that you may not see is not released';
    return placeId === null
      ? `${user} refers to ${what}, which is not in the store`
      : `${user} uses ${what}, which is not released`;
  });
  return [...new Set(says)];
}
