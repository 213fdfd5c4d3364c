/** A lifecycle while it is changed: its picture, what is wrong with it, its states and its steps. */
import type { LifecycleDraft } from '@stem-trace/contract';
import { REVISION_SCHEMES, revisionCode, type Diagram, type DiagramStep } from '@stem-trace/core';
import { FileUp, Plus } from 'lucide-react';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { Button, Field, PrimaryButton, QuietButton, Select, Soft, Trouble } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { DiagramPicture } from './diagram-picture.js';
import { ScopeRows } from './scope-rows.js';
import { StateRows } from './state-rows.js';
import { StepSentence } from './step-sentence.js';
import { useLifecycleEdit, type LifecycleEdit } from './use-lifecycle-edit.js';

export interface LifecycleEditorProps {
  readonly first: LifecycleDraft;
  /** @param saved id of what was saved; undefined where nothing was */
  readonly onClose: (saved: string | undefined) => void;
}

export function LifecycleEditor({ first, onClose }: LifecycleEditorProps): React.JSX.Element {
  const edit = useLifecycleEdit(first, onClose);
  const [open, setOpen] = useState<number>();
  const { draft } = edit;
  const { diagram, scopes } = draft;
  const look = (name: string | undefined): void => {
    const at = diagram.steps.findIndex((step) => step.name === name);
    setOpen(at < 0 ? undefined : at);
  };
  return (
    <Page>
      <Naming edit={edit} onClose={onClose} />
      <DiagramPicture
        diagram={diagram}
        step={open === undefined ? undefined : diagram.steps[open]?.name}
        onStep={look}
      />
      <Wrong edit={edit} />
      <h3>Steps</h3>
      <List aria-label="Steps">
        {diagram.steps.map((step, at) => (
          <StepSentence
            // By its place: its name is being typed.
            key={at}
            {...{ step, diagram, isOpen: open === at }}
            onOpen={(isOpen) => setOpen(isOpen ? at : undefined)}
            onChange={(next) => edit.setStep(at, next)}
            onRemove={() => {
              setOpen(undefined);
              edit.setDiagram({ steps: diagram.steps.filter((_, other) => other !== at) });
            }}
          />
        ))}
      </List>
      <QuietButton
        onPress={() => {
          edit.setDiagram({ steps: [...diagram.steps, newStep(diagram)] });
          setOpen(diagram.steps.length);
        }}
      >
        <Plus size={14} aria-hidden /> Another step
      </QuietButton>
      <h3>States</h3>
      <StateRows edit={edit} />
      <h3>Revisions</h3>
      <RevisionsOf edit={edit} />
      <h3>Meant for</h3>
      <Soft>What something is counts more than where it lies: class before kind, kind before place.</Soft>
      <ScopeRows scopes={scopes} onChange={(next) => edit.set({ scopes: next })} />
    </Page>
  );
}

/** How revisions are called that are opened under it. */
function RevisionsOf({ edit }: { readonly edit: LifecycleEdit }): React.JSX.Element {
  const { revisions: scheme, ...others } = edit.draft.diagram;
  return (
    <Select
      aria-label="Revisions are called"
      style={{ width: 'fit-content' }}
      value={scheme ?? ''}
      onChange={({ target }) => {
        const chosen = REVISION_SCHEMES.find((each) => each === target.value);
        edit.replaceDiagram(chosen === undefined ? others : { ...others, revisions: chosen });
      }}
    >
      <option value="">as set for the store</option>
      {REVISION_SCHEMES.map((each) => (
        <option key={each} value={each}>
          {each}: {[1, 2, 3, 9].map((position) => revisionCode(position, each)).join(', ')} …
        </option>
      ))}
    </Select>
  );
}

function newStep({ first, steps }: Diagram): DiagramStep {
  return {
    ...{ name: `step ${steps.length + 1}`, done: 'moved …', from: [first], to: first, who: [] },
    ...{ notByAuthors: false, asksReason: false, isOverUnreleased: false, then: [] },
  };
}

function Naming({
  edit,
  onClose,
}: Pick<LifecycleEditorProps, 'onClose'> & { readonly edit: LifecycleEdit }): React.JSX.Element {
  const { draft } = edit;
  return (
    <Bar>
      <Field
        label="Lifecycle"
        width="150px"
        value={draft.diagram.name}
        onChange={(name) => edit.setDiagram({ name })}
      />
      <Field
        label="What is changed, and why"
        width="230px"
        value={draft.comment}
        onChange={(comment) => edit.set({ comment })}
      />
      <FromFile edit={edit} />
      <Button onPress={() => onClose(undefined)}>Cancel</Button>
      <PrimaryButton
        isDisabled={
          !edit.isChecked || edit.wrong.length > 0 || edit.isSaving || (draft.id !== '' && !edit.isChanged)
        }
        onPress={edit.save}
      >
        {draft.id === '' ? 'Save it' : 'Save as the next version'}
      </PrimaryButton>
    </Bar>
  );
}

/** Takes a diagram that was saved elsewhere; the server says what is wrong with it. */
function FromFile({ edit }: { readonly edit: LifecycleEdit }): React.JSX.Element {
  const [trouble, setTrouble] = useState('');
  const take = async (file: File | undefined): Promise<void> => {
    try {
      const read: unknown = JSON.parse((await file?.text()) ?? '');
      if (!isDiagram(read)) throw new Error('it has no states and steps');
      setTrouble('');
      edit.setDiagram(read);
    } catch (error) {
      setTrouble(
        `${file?.name ?? 'The file'} is no lifecycle: ${error instanceof Error ? error.message : ''}.`,
      );
    }
  };
  return (
    <>
      <FileTrigger acceptedFileTypes={['application/json']} onSelect={(files) => void take(files?.[0])}>
        <Button>
          <FileUp size={14} aria-hidden /> From a file …
        </Button>
      </FileTrigger>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
    </>
  );
}

/** Enough of it to be shown; the rest is looked at by the server. */
function isDiagram(read: unknown): read is Diagram {
  if (typeof read !== 'object' || read === null) return false;
  const { name, first, states, steps } = read as Record<string, unknown>;
  const named = (each: unknown): boolean =>
    typeof each === 'object' && each !== null && 'name' in each && typeof each.name === 'string';
  const isStep = (each: unknown): boolean =>
    named(each) &&
    ['from', 'who', 'then'].every((part) => Array.isArray((each as Record<string, unknown>)[part]));
  return (
    typeof name === 'string' &&
    typeof first === 'string' &&
    Array.isArray(states) &&
    states.every(named) &&
    Array.isArray(steps) &&
    steps.every(isStep)
  );
}

function Wrong({ edit }: { readonly edit: LifecycleEdit }): React.JSX.Element | null {
  const all = [...edit.wrong, ...(edit.trouble === '' || edit.wrong.length > 0 ? [] : [edit.trouble])];
  if (all.length === 0) return null;
  return (
    <Trouble as="div">
      It cannot be saved yet:
      <ul>
        {all.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </Trouble>
  );
}

const Page = styled.div`
  display: grid;
  gap: 8px;
  justify-items: stretch;
  h3 {
    margin: 8px 0 0;
  }
  & > button {
    justify-self: start;
  }
`;
const Bar = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 10px;
  position: sticky;
  top: -14px;
  z-index: 2;
  padding: 10px 0;
  background: ${colour.paper};
`;
const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
`;
