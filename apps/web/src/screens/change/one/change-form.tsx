/** What a change says, to read and to write: nothing is saved before Save, and what was typed outlives the page. */
import type { ChangeInput, ChangeView } from '@stem-trace/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import styled from 'styled-components';
import { contentsOf } from '../../../api/changes.js';
import { send } from '../../../api/client.js';
import { Button, Field, PrimaryButton, Soft, Trouble } from '../../../ui/controls.js';
import { Restored, useDraft } from '../../../ui/draft.js';
import { LongField } from '../../../ui/long-field.js';
import { colour } from '../../../ui/theme.js';
import { Costs } from './costs.js';
import { EvidenceList } from './evidence-list.js';
import { Frame as FrameFields } from './frame-fields.js';
import { LineGroups } from './line-groups.js';
import { Makes } from './makes.js';
import { Tasks } from './tasks.js';

export interface ChangeDraft {
  readonly name: string;
  readonly contents: ChangeInput;
}

/** Where a part of the form shows and changes the draft. */
export interface PartProps {
  readonly view: ChangeView;
  readonly contents: ChangeInput;
  readonly isLocked: boolean;
  readonly set: (changes: Partial<ChangeInput>) => void;
}

export function ChangeForm({ view }: { readonly view: ChangeView }): React.JSX.Element {
  const first = useMemo((): ChangeDraft => ({ name: view.name, contents: contentsOf(view) }), [view]);
  const draft = useDraft(`change ${view.number} ${view.version}`, isDraft, first);
  const { name, contents } = draft.value;
  const isLocked = view.locked !== null;
  const isChanged = JSON.stringify(draft.value) !== JSON.stringify(first);
  const part: PartProps = {
    ...{ view, contents, isLocked },
    set: (changes) => draft.set({ name, contents: { ...contents, ...changes } }),
  };
  return (
    <>
      {view.locked === null ? null : <Soft>It cannot be changed now: {view.locked}.</Soft>}
      {isChanged ? <SaveLine view={view} draft={draft} /> : null}
      <Halves>
        <div>
          {isLocked ? null : (
            <Field
              label="In a few words"
              value={name}
              onChange={(next) => draft.set({ name: next, contents })}
            />
          )}
          <LongField
            label="What is wrong or wanted"
            value={contents.why}
            onChange={(why) => part.set({ why })}
            rows={Math.min(12, 2 + contents.why.split('\n').length)}
            isReadOnly={isLocked}
          />
          <LineGroups {...part} />
          <EvidenceList {...part} />
        </div>
        <div>
          <FrameFields {...part} />
          {view.kind === 'order' ? (
            <>
              <Makes view={view} />
              <Tasks {...part} />
            </>
          ) : null}
          <Costs {...part} />
        </div>
      </Halves>
    </>
  );
}

function SaveLine({
  view: { number, version },
  draft,
}: {
  readonly view: ChangeView;
  readonly draft: ReturnType<typeof useDraft<ChangeDraft>>;
}): React.JSX.Element {
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () => send('PUT', '/api/change', { change: number, version, ...draft.value }),
    onSuccess: async () => {
      draft.forget();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
    },
  });
  return (
    <Saving role="status">
      <Restored draft={draft} />
      <span>Not saved yet.</span>
      <PrimaryButton isDisabled={save.isPending} onPress={() => save.mutate()}>
        Save
      </PrimaryButton>
      <Button onPress={draft.forget}>Undo all</Button>
      {save.error ? <Trouble>{save.error.message}</Trouble> : null}
    </Saving>
  );
}

function isDraft(value: unknown): value is ChangeDraft {
  return (
    typeof value === 'object' &&
    value !== null &&
    'name' in value &&
    'contents' in value &&
    typeof value.contents === 'object' &&
    value.contents !== null &&
    'lines' in value.contents &&
    'tasks' in value.contents
  );
}

const Halves = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(250px, 1fr);
  gap: 16px;
  align-items: start;
  @media (max-width: 1000px) {
    grid-template-columns: minmax(0, 1fr);
  }
  > div {
    display: grid;
    gap: 12px;
    min-width: 0;
  }
`;
const Saving = styled.div`
  position: sticky;
  top: 0;
  z-index: 2;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 6px 10px;
  background: ${colour.copperSoft};
  border-left: 3px solid ${colour.copper};
  border-radius: 2px;
`;
