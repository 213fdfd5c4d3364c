/** What a step brings about, kind by kind. */
import type { Consequence, DiagramStep } from '@stem-trace/core';

type Of<K extends Consequence['kind']> = Extract<Consequence, { readonly kind: K }>;

export function consequences<K extends Consequence['kind']>(step: DiagramStep, kind: K): Of<K>[] {
  return step.then.filter((each): each is Of<K> => each.kind === kind);
}

/** The step with these of a kind in place of those that it has. */
export function withThen<K extends Consequence['kind']>(
  step: DiagramStep,
  kind: K,
  next: readonly Of<K>[],
): DiagramStep {
  return { ...step, then: [...step.then.filter((each) => each.kind !== kind), ...next] };
}
