/** Names by example: an edit of one copy's number or name, understood as a rule for the others. */
import type { DerivePreview } from '@stem-trace/contract';
import { applyRules, rulesByExample, withRules, type NameRule, type RuleCandidate } from '@stem-trace/core';
import { useState } from 'react';
import { renamedByHand, type DeriveDraft } from './draft.js';

export type NamedField = 'number' | 'name';

/** An edit, and how it may be meant. What is chosen of it is in force already. */
export interface Understood {
  /** Key of the line. */
  readonly number: string;
  readonly field: NamedField;
  readonly after: string;
  readonly candidates: readonly Reading[];
  /** Of the candidates. */
  readonly at: number;
  /** As the draft was before the edit. */
  readonly before: DeriveDraft;
}

export interface Naming {
  readonly understood: Understood | undefined;
  edit(number: string, field: NamedField, text: string): void;
  /** Takes another reading: -1 for one that fits more lines, 1 for one that fits fewer. */
  turn(by: -1 | 1): void;
  /** Leaves it as it is shown. */
  take(): void;
  /** Keeps the edit for its line alone. */
  onlyThisLine(): void;
}

export function useNaming(
  draft: DeriveDraft,
  preview: DerivePreview,
  change: (changes: Partial<DeriveDraft>) => void,
): Naming {
  const [understood, setUnderstood] = useState<Understood>();
  const edit = (number: string, field: NamedField, after: string): void => {
    const candidates = readingsOf({ draft, preview, number, field, after });
    const byHand = renamedByHand(draft, number, { [field]: after });
    if (candidates.length === 0) {
      setUnderstood(undefined);
      change(byHand);
      return;
    }
    const next: Understood = { number, field, after, candidates, at: 0, before: draft };
    setUnderstood(next);
    change(inForce(next));
  };
  const turn = (by: -1 | 1): void => {
    const at = (understood?.at ?? 0) + by;
    if (!understood || at < 0 || at >= understood.candidates.length) return;
    const next = { ...understood, at };
    setUnderstood(next);
    change(inForce(next));
  };
  const onlyThisLine = (): void => {
    if (!understood) return;
    const { before, number, field, after } = understood;
    change({ rules: before.rules, says: before.says, ...renamedByHand(before, number, { [field]: after }) });
    setUnderstood(undefined);
  };
  return { understood, edit, turn, take: () => setUnderstood(undefined), onlyThisLine };
}

interface Edit {
  readonly draft: DeriveDraft;
  readonly preview: DerivePreview;
  readonly number: string;
  readonly field: NamedField;
  readonly after: string;
}

/** One way to mean an edit, and the rules that there are with it. */
export interface Reading extends RuleCandidate {
  readonly all: readonly NameRule[];
}

/**
 * Readings of an edit that fit more lines than its own; none where it can only be meant for itself. It is read from the
 * number that the origin has, so that it takes the place of the rules there are, and from what these make of it, so that
 * it comes after them: what takes fewer rules comes first.
 */
export function readingsOf({ draft, preview, number, field, after }: Edit): readonly Reading[] {
  const of = field === 'number' ? 'numbers' : 'names';
  const copies = preview.lines.filter(
    // A name that only repeats the number follows it in any case.
    (line) => line.decision === 'copy' && (field === 'number' || line.name !== line.number),
  );
  const line = copies.find((copy) => copy.key === number);
  if (!line || after === '') return [];
  const originals = copies.map((copy) => (field === 'number' ? copy.number : copy.name));
  const others = withoutSubject(draft.rules, of).filter((rule) =>
    // What is left of a rule for both is kept where it does something.
    copies.some((copy) => {
      const text = rule.of === 'numbers' ? copy.number : copy.name;
      return rule.of === 'both' || applyRules(text, [rule], rule.of) !== text;
    }),
  );
  const readings = [others, draft.rules].flatMap((rules) => {
    const texts = originals.map((text) => applyRules(text, rules, of));
    const before = texts[copies.indexOf(line)] ?? '';
    return rulesByExample({ before, after, of }, texts).map((candidate) => ({
      ...candidate,
      all: withRules(rules, candidate.rules),
      made: originals.map((text) => applyRules(text, withRules(rules, candidate.rules), of)).join('\n'),
    }));
  });
  const distinct = [...new Map(readings.toReversed().map((reading) => [reading.made, reading])).values()];
  const usable = distinct
    .filter(({ clashes }) => field === 'name' || clashes === 0)
    .sort((a, b) => b.fits - a.fits || a.all.length - b.all.length);
  return usable.some(({ fits }) => fits > 1) ? usable : [];
}

/** Rules without what they do to one of the names. */
function withoutSubject(rules: readonly NameRule[], of: 'numbers' | 'names'): NameRule[] {
  const other = of === 'numbers' ? 'names' : 'numbers';
  return rules.flatMap((rule) => (rule.of === of ? [] : [{ ...rule, of: other }]));
}

function inForce({ before, candidates, at, number, field }: Understood): Partial<DeriveDraft> {
  // What was given to this line by hand before would hide what the rule makes of it.
  const byHand = Object.entries(before.renamed[number] ?? {}).filter(([name]) => name !== field);
  return {
    rules: candidates[at]?.all ?? before.rules,
    says: '',
    renamed: { ...before.renamed, [number]: Object.fromEntries(byHand) },
  };
}
