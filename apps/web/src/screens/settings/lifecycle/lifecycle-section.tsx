/** The lifecycles of the store: looked at by everybody, changed by an administrator. */
import type { LifecycleDraft, LifecycleRow } from '@stem-trace/contract';
import { SHIPPED, type Diagram } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { lifecyclesQuery } from '../../../api/queries.js';
import { usePerson } from '../../../frame/person.js';
import { Button, Choice, Hint, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { When } from '../../../ui/when.js';
import { DiagramPicture } from './diagram-picture.js';
import { LifecycleEditor } from './lifecycle-editor.js';
import { LifecycleHistory } from './lifecycle-history.js';
import { MoveOnDialog } from './move-on-dialog.js';
import { sayScope } from './scope-rows.js';
import { StepSentence } from './step-sentence.js';
import { draftOf } from './use-lifecycle-edit.js';

export function LifecycleSection(): React.JSX.Element {
  const { data, error } = useQuery(lifecyclesQuery);
  const [chosen, choose] = useState('');
  const [editing, edit] = useState<LifecycleDraft>();
  const isAdministrator = usePerson().role === 'administrator';
  if (error && !data) return <Trouble>{error.message}</Trouble>;
  if (!data) return <Hint role="status">Reading the lifecycles …</Hint>;
  const shown = data.lifecycles.find(({ id }) => id === chosen) ?? data.lifecycles[0];
  if (editing)
    return (
      <LifecycleEditor
        first={editing}
        onClose={(saved) => {
          if (saved !== undefined) choose(saved);
          edit(undefined);
        }}
      />
    );
  return (
    <>
      <Head>
        <Choice
          label="Lifecycle"
          options={data.lifecycles.map(({ id, diagram }) => ({ key: id, text: diagram.name }))}
          value={shown?.id ?? ''}
          onChange={choose}
        />
        {isAdministrator && shown ? (
          <>
            <Button onPress={() => edit(draftOf(shown))}>Change it …</Button>
            <QuietButton onPress={() => edit(another(shown.diagram))}>Another like it …</QuietButton>
          </>
        ) : null}
      </Head>
      {shown ? <Reading key={`${shown.id} ${shown.version}`} lifecycle={shown} /> : null}
    </>
  );
}

/** Begun from one that there is. */
function another(diagram: Diagram): LifecycleDraft {
  return {
    ...{ id: '', scopes: [], comment: '' },
    diagram: { ...diagram, name: diagram.name === SHIPPED.name ? 'Documents' : `${diagram.name} 2` },
  };
}

function Reading({ lifecycle }: { readonly lifecycle: LifecycleRow }): React.JSX.Element {
  const { diagram, scopes, standing, version, changedAt, changedBy } = lifecycle;
  const [step, lookAt] = useState<string>();
  const [isMoving, move] = useState(false);
  const isAdministrator = usePerson().role === 'administrator';
  const older = standing.reduce((sum, row) => sum + (row.version < version ? row.count : 0), 0);
  return (
    <>
      <Soft>
        Meant for {scopes.length === 0 ? 'nothing yet' : scopes.map(sayScope).join(', ')}. Version {version},{' '}
        {changedBy === null ? 'as it ships' : <>changed by {changedBy}</>}, <When at={changedAt} />.
      </Soft>
      {older > 0 ? (
        <p>
          {older} {older === 1 ? 'revision goes' : 'revisions go'} by an older version.{' '}
          {isAdministrator ? <Button onPress={() => move(true)}>Move them on …</Button> : null}
        </p>
      ) : null}
      <DiagramPicture diagram={diagram} step={step} onStep={lookAt} />
      <h3>Steps</h3>
      <Steps aria-label="Steps">
        {diagram.steps.map((each) =>
          step === undefined || each.name === step ? (
            <StepSentence
              key={each.name}
              {...{ step: each, diagram, isOpen: false }}
              onChange={() => undefined}
              onRemove={() => undefined}
            />
          ) : null,
        )}
      </Steps>
      <LifecycleHistory lifecycle={lifecycle} />
      {isMoving ? <MoveOnDialog lifecycle={lifecycle} onClose={() => move(false)} /> : null}
    </>
  );
}

const Steps = styled.ul`
  list-style: none;
  margin: 4px 0;
  padding: 0;
`;
const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin: 10px 0 8px;
`;
