import {
  PLAIN_DERIVATION,
  type AddChoice,
  type DerivePreview,
  type DeriveProposal,
  type DeriveRequest,
  type TitleBlockChoice,
  type UseChoice,
  type ValueChoice,
} from '@stem-trace/contract';
import { decideLines, type Decision, type NameRule, type PlanRow } from '@stem-trace/core';

interface Names {
  readonly number?: string;
  readonly name?: string;
}

/** What a person has decided so far; the plan is worked out from it by the server. */
export interface DeriveDraft {
  readonly copyAll: boolean;
  readonly decisions: Readonly<Record<string, Decision>>;
  /** What takes the place of items that are swapped. */
  readonly swaps: Readonly<Record<string, string>>;
  /** Decisions about single spots of the tree. */
  readonly uses: readonly UseChoice[];
  readonly added: readonly AddChoice[];
  /** Properties that copies get. */
  readonly values: readonly ValueChoice[];
  /** What title blocks of the copied drawings say, as a recipe wants it. */
  readonly titleBlocks: readonly TitleBlockChoice[];
  /** Only what belongs to it goes into the variant; everything where empty. */
  readonly configuration: string;
  /** Id of the baseline whose versions are meant; empty for those that were recorded. */
  readonly baseline: string;
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
  swaps: {},
  uses: [],
  added: [],
  values: [],
  titleBlocks: [],
  configuration: '',
  baseline: '',
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

/** A plan for which nobody has decided anything. */
export const UNDECIDED = { decisions: {}, swaps: {}, uses: [], added: [], values: [], titleBlocks: [] };

/** What was decided for another variant of the stem, as far as it is about lines of this plan. */
export function decisionsLike(request: DeriveRequest, { lines }: DerivePreview): Partial<DeriveDraft> {
  const inPlan = new Set(lines.map(({ number }) => number.toLowerCase()));
  const isIn = (number: string): boolean => inPlan.has(number.toLowerCase());
  const { copyAll, decisions, swaps, uses, added, configuration } = draftFrom({
    ...request,
    alsoCopy: request.alsoCopy.filter(isIn),
    share: request.share.filter(isIn),
    omit: request.omit.filter(isIn),
    swap: request.swap.filter(({ from }) => isIn(from)),
    uses: request.uses.filter(({ chain }) => chain.every(isIn)),
    added: request.added.filter(({ in: chain, like }) => chain.every(isIn) && (like === '' || isIn(like))),
  });
  return { copyAll, decisions, swaps, uses, added, configuration };
}

/** Numbers of all that stands at some levels of the tree; undefined where the words are not about levels, as `level > 2` is. */
export function atLevel(words: string, tree: readonly PlanRow[]): ReadonlySet<string> | undefined {
  const [, sign = '', level = ''] = /^level\s*(=|<=|>=|<|>)\s*(\d{1,4})$/i.exec(words.trim()) ?? [];
  const is = LEVEL_SIGNS[sign];
  if (!is) return undefined;
  return new Set(tree.flatMap((row) => (row.level > 0 && is(row.level, Number(level)) ? row.number : [])));
}

const LEVEL_SIGNS: Readonly<Record<string, (level: number, said: number) => boolean>> = {
  '=': (level, said) => level === said,
  '<': (level, said) => level < said,
  '<=': (level, said) => level <= said,
  '>': (level, said) => level > said,
  '>=': (level, said) => level >= said,
};

/** A draft that begins with the names that were proposed. */
export function draftOf({ rules, scheme, says }: DeriveProposal): DeriveDraft {
  return { ...EMPTY_DRAFT, key: crypto.randomUUID(), rules, scheme, says };
}

/** A draft that asks for what a program or a recipe asked for. */
export function draftFrom(request: DeriveRequest): DeriveDraft {
  const decided = (numbers: readonly string[], decision: Decision): (readonly [string, Decision])[] =>
    numbers.map((number) => [number, decision] as const);
  const { alsoCopy, share, omit, swap, uses, added, values, titleBlocks } = request;
  const { configuration, baseline, rules, scheme, renamed, place } = request;
  return {
    ...EMPTY_DRAFT,
    copyAll: request.copy === 'all',
    decisions: Object.fromEntries([
      ...decided(alsoCopy, 'copy'),
      ...decided(share, 'share'),
      ...decided(omit, 'omit'),
      ...decided(
        swap.map(({ from }) => from),
        'swap',
      ),
    ]),
    swaps: Object.fromEntries(swap.map(({ from, to }) => [from, to])),
    ...{ uses, added, values, titleBlocks, configuration, baseline, rules, scheme, renamed, place },
    key: crypto.randomUUID(),
  };
}

export function requestOf(item: string, draft: DeriveDraft): DeriveRequest {
  const decided = Object.entries(draft.decisions);
  const numbersOf = (wanted: Decision): string[] =>
    decided.flatMap(([number, decision]) => (decision === wanted ? [number] : []));
  return {
    ...PLAIN_DERIVATION,
    item,
    copy: draft.copyAll ? 'all' : 'proposed',
    alsoCopy: numbersOf('copy'),
    share: numbersOf('share'),
    omit: numbersOf('omit'),
    swap: numbersOf('swap').map((from) => ({ from, to: draft.swaps[from] ?? '' })),
    uses: draft.uses,
    added: draft.added,
    values: draft.values,
    titleBlocks: draft.titleBlocks,
    configuration: draft.configuration,
    baseline: draft.baseline,
    rules: draft.rules,
    scheme: draft.scheme,
    renamed: draft.renamed,
    place: draft.place,
    key: draft.key,
  };
}

/** What is carried out is what was seen, whatever numbers a scheme would give by now. */
export function requestAsSeen(item: string, draft: DeriveDraft, { lines }: DerivePreview): DeriveRequest {
  const seen = lines.flatMap(({ key, newNumber, newName }) =>
    newNumber === null ? [] : [[key, { number: newNumber, name: newName ?? newNumber }] as const],
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
  to = '',
): { readonly changes: Partial<DeriveDraft>; readonly says: string } {
  const free = lines.flatMap(({ key, number, forced, reason }) =>
    (!forced || isUndone(draft, number, reason)) && key === number && numbers.has(number) ? [number] : [],
  );
  const { decisions, takenBack } = decideLines(tree, new Map(Object.entries(draft.decisions)), {
    numbers: new Set(free),
    decision,
  });
  const what = free.length === 1 ? free[0] : `${free.length} lines`;
  const done = free.length === 1 ? '' : `${what} ${DONE[decision]}. `;
  const others = takenBack.slice(0, 5).join(', ') + (takenBack.length > 5 ? ' and others' : '');
  const says =
    takenBack.length === 0
      ? done.trimEnd()
      : decision !== 'share'
        ? `${done}${others} contain${takenBack.length === 1 ? 's' : ''} ${what}: no longer shared.`
        : `${done}${others} belong${takenBack.length === 1 ? 's' : ''} to ${what}: no longer copied by decision.`;
  const swaps =
    decision === 'swap'
      ? { ...draft.swaps, ...Object.fromEntries(free.map((number) => [number, to])) }
      : draft.swaps;
  return { changes: { decisions: Object.fromEntries(decisions), swaps }, says };
}

const DONE: Readonly<Record<Decision, string>> = {
  share: 'shared',
  copy: 'copied',
  swap: 'swapped',
  omit: 'left out',
};

/** What fell away by a decision can be decided about anew. */
function isUndone({ decisions }: DeriveDraft, number: string, reason: string): boolean {
  return decisions[number] !== undefined || reason === 'nothing of the variant uses it';
}

/** A decision about one spot, in the place of what was decided about it before. */
export function decideSpot(draft: DeriveDraft, choice: UseChoice): Partial<DeriveDraft> {
  const { occurrences = [] } = choice;
  const others = draft.uses.filter(
    (use) =>
      !isSame(use.chain, choice.chain) ||
      (occurrences.length > 0 && !isSame((use.occurrences ?? []).map(String), occurrences.map(String))),
  );
  return { uses: [...others, choice] };
}

/** Lets a spot become what is decided about its item everywhere. */
export function asEverywhere(draft: DeriveDraft, chain: readonly string[]): Partial<DeriveDraft> {
  return { uses: draft.uses.filter((use) => !isSame(use.chain, chain)) };
}

function isSame(one: readonly string[], two: readonly string[]): boolean {
  return one.length === two.length && one.every((text, at) => text === two[at]);
}

/** Numbers down to a row of the tree. */
export function chainTo(tree: readonly PlanRow[], at: number): string[] {
  const chain: string[] = [];
  let level = Infinity;
  for (let index = at; index >= 0 && level > 0; index--) {
    const row = tree[index];
    if (!row || row.level >= level) continue;
    chain.unshift(row.number);
    ({ level } = row);
  }
  return chain;
}

/** New numbers, and names, from a block of cells: `old number → new number → new name` in each row. */
export function namesPasted(
  block: string,
  { lines }: DerivePreview,
): { readonly renamed: DeriveDraft['renamed']; readonly unknown: readonly string[] } {
  const byNumber = new Map(lines.map((line) => [line.key.toLowerCase(), line]));
  const renamed: Record<string, Names> = {};
  const unknown: string[] = [];
  for (const row of block.split(/\r?\n/)) {
    const [old = '', number = '', name = ''] = row
      .split(row.includes('\t') ? '\t' : /[;,]/)
      .map((cell) => cell.trim());
    if (old === '') continue;
    const line = byNumber.get(old.toLowerCase());
    if (!line) unknown.push(old);
    else if (number !== '' || name !== '')
      renamed[line.key] = { ...(number === '' ? {} : { number }), ...(name === '' ? {} : { name }) };
  }
  return { renamed, unknown };
}

/** @param key of the line */
export function renamedByHand(draft: DeriveDraft, key: string, names: Names): Partial<DeriveDraft> {
  return { renamed: { ...draft.renamed, [key]: { ...draft.renamed[key], ...names } } };
}
