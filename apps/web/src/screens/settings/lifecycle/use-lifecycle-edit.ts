/** One lifecycle while it is changed: what was typed, what is wrong with it, and saving it. */
import type { LifecycleDraft, LifecycleRow } from '@stem-trace/contract';
import type { Diagram, DiagramState, DiagramStep } from '@stem-trace/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../../../api/client.js';

export interface LifecycleEdit {
  readonly draft: LifecycleDraft;
  readonly isChanged: boolean;
  readonly wrong: readonly string[];
  /** Whether it is known yet what is wrong with what was typed last. */
  readonly isChecked: boolean;
  readonly trouble: string;
  readonly isSaving: boolean;
  set(more: Partial<LifecycleDraft>): void;
  setDiagram(more: Partial<Diagram>): void;
  /** Another one, also without what it need not have. */
  replaceDiagram(diagram: Diagram): void;
  /** Steps follow a state that gets another name. */
  setState(at: number, state: DiagramState): void;
  setStep(at: number, step: DiagramStep): void;
  save(): void;
}

export function draftOf({ id, diagram, scopes }: LifecycleRow): LifecycleDraft {
  return { id, diagram, scopes, comment: '' };
}

export function useLifecycleEdit(first: LifecycleDraft, onSaved: (id: string) => void): LifecycleEdit {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(first);
  const isChanged = JSON.stringify({ ...draft, comment: '' }) !== JSON.stringify({ ...first, comment: '' });
  const checked = useQuery({
    queryKey: ['lifecycle check', draft.id, draft.diagram, draft.scopes],
    queryFn: () => send('POST', '/api/lifecycles/check', draft),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const saving = useMutation({
    mutationFn: () => send('POST', '/api/lifecycles', draft),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['lifecycles'] });
      onSaved(id);
    },
  });
  const setDiagram = (more: Partial<Diagram>): void =>
    setDraft((before) => ({ ...before, diagram: { ...before.diagram, ...more } }));
  return {
    draft,
    isChanged,
    wrong: checked.error ? [checked.error.message] : (checked.data?.wrong ?? []),
    isChecked: checked.isSuccess && !checked.isPlaceholderData,
    trouble: saving.error?.message ?? '',
    isSaving: saving.isPending,
    set: (more) => setDraft((before) => ({ ...before, ...more })),
    setDiagram,
    replaceDiagram: (diagram) => setDraft((before) => ({ ...before, diagram })),
    setState: (at, state) =>
      setDraft((before) => ({ ...before, diagram: withState(before.diagram, at, state) })),
    setStep: (at, step) =>
      setDiagram({ steps: draft.diagram.steps.map((each, other) => (other === at ? step : each)) }),
    save: () => saving.mutate(),
  };
}

/** A diagram in which a state is another; whatever names it follows its name. */
export function withState(diagram: Diagram, at: number, state: DiagramState): Diagram {
  const before = diagram.states[at]?.name;
  const renamed = (name: string): string => (name === before ? state.name : name);
  return {
    ...diagram,
    first: renamed(diagram.first),
    states: diagram.states.map((each, other) => (other === at ? state : each)),
    steps: diagram.steps.map((step) => ({
      ...step,
      from: step.from.map(renamed),
      to: renamed(step.to),
      then: step.then.map((each) => (each.kind === 'supersede' ? { ...each, to: renamed(each.to) } : each)),
    })),
  };
}

/** A diagram without a state, and without steps that need it. */
export function withoutState(diagram: Diagram, at: number): Diagram {
  const gone = diagram.states[at]?.name;
  return {
    ...diagram,
    states: diagram.states.filter((_, other) => other !== at),
    steps: diagram.steps.flatMap((step) => {
      const from = step.from.filter((name) => name !== gone);
      const then = step.then.filter((each) => each.kind !== 'supersede' || each.to !== gone);
      return from.length === 0 || step.to === gone ? [] : [{ ...step, from, then }];
    }),
  };
}
