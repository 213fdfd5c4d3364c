import type { DerivePreview, DeriveProposal, DeriveRequest } from '@stem-trace/contract';
import { decideLines, type Decision, type NameRule } from '@stem-trace/core';

interface Names {
  readonly number?: string;
  readonly name?: string;
}

/** What a person has decided so far; the plan is worked out from it by the server. */
export interface DeriveDraft {
  readonly copyAll: boolean;
  readonly decisions: Readonly<Record<string, Decision>>;
  readonly rules: readonly NameRule[];
  /** Number scheme for copies that no rule gives another number; empty for none. */
  readonly scheme: string;
  /** Where rules and scheme come from, as long as nobody has changed them. */
  readonly says: string;
  /** Names given by hand, by the origin's number. */
  readonly renamed: Readonly<Record<string, Names>>;
  readonly place: string;
  /** Of this attempt, so that pressing twice makes one variant. */
  readonly key: string;
}

export const EMPTY_DRAFT: DeriveDraft = {
  copyAll: false,
  decisions: {},
  rules: [],
  scheme: '',
  says: '',
  renamed: {},
  place: '',
  key: '',
};

export function isDraft(value: unknown): value is DeriveDraft {
  return (
    typeof value === 'object' &&
    value !== null &&
    Object.entries(EMPTY_DRAFT).every(
      ([name, like]) =>
        name in value &&
        typeof (value as Record<string, unknown>)[name] === typeof like &&
        Array.isArray((value as Record<string, unknown>)[name]) === Array.isArray(like),
    )
  );
}

/** A draft that begins with the names that were proposed. */
export function draftOf({ rules, scheme, says }: DeriveProposal): DeriveDraft {
  return { ...EMPTY_DRAFT, key: crypto.randomUUID(), rules, scheme, says };
}

export function requestOf(item: string, draft: DeriveDraft): DeriveRequest {
  const decided = Object.entries(draft.decisions);
  return {
    item,
    copy: draft.copyAll ? 'all' : 'proposed',
    alsoCopy: decided.filter(([, decision]) => decision === 'copy').map(([number]) => number),
    share: decided.filter(([, decision]) => decision === 'share').map(([number]) => number),
    replace: [],
    prefix: '',
    rules: draft.rules,
    scheme: draft.scheme,
    renamed: draft.renamed,
    place: draft.place,
    key: draft.key,
  };
}

/** What is carried out is what was seen, whatever numbers a scheme would give by now. */
export function requestAsSeen(item: string, draft: DeriveDraft, { lines }: DerivePreview): DeriveRequest {
  const seen = lines.flatMap(({ number, newNumber, newName }) =>
    newNumber === null ? [] : [[number, { number: newNumber, name: newName ?? newNumber }] as const],
  );
  return { ...requestOf(item, draft), renamed: Object.fromEntries(seen) };
}

/**
 * @param numbers lines that may be decided about are taken, others left out
 * @returns what changes, and in words what had been decided before and cannot be kept beside it
 */
export function decide(
  draft: DeriveDraft,
  { tree, lines }: DerivePreview,
  numbers: ReadonlySet<string>,
  decision: Decision,
): { readonly changes: Partial<DeriveDraft>; readonly says: string } {
  const free = lines.flatMap(({ number, forced }) => (!forced && numbers.has(number) ? [number] : []));
  const { decisions, takenBack } = decideLines(tree, new Map(Object.entries(draft.decisions)), {
    numbers: new Set(free),
    decision,
  });
  const what = free.length === 1 ? free[0] : `${free.length} lines`;
  const done = free.length === 1 ? '' : `${what} ${decision === 'copy' ? 'copied' : 'shared'}. `;
  const others = takenBack.slice(0, 5).join(', ') + (takenBack.length > 5 ? ' and others' : '');
  const says =
    takenBack.length === 0
      ? done.trimEnd()
      : decision === 'copy'
        ? `${done}${others} contain${takenBack.length === 1 ? 's' : ''} ${what}: no longer shared.`
        : `${done}${others} belong${takenBack.length === 1 ? 's' : ''} to ${what}: no longer copied by decision.`;
  return { changes: { decisions: Object.fromEntries(decisions) }, says };
}

export function renamedByHand(draft: DeriveDraft, number: string, names: Names): Partial<DeriveDraft> {
  return { renamed: { ...draft.renamed, [number]: { ...draft.renamed[number], ...names } } };
}
