/** Looks at the item that people kept: opened, kept anew, changed and taken away; and a note that goes with one. */
import type { KeptSceneRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { get, send } from '../../../api/client.js';
import { useChangeSearch } from '../../../frame/addresses.js';
import { AskDialog } from '../../../ui/ask-dialog.js';
import { Button, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { When } from '../../../ui/when.js';
import { lookOf, stateOf } from './look-state.js';
import type { Looking } from './use-looking.js';

const NOTHING =
  'Nothing kept yet. A scene remembers where you look from, what is hidden, sections, colours and what was measured; its address can be sent to others.';

export function ScenesPanel({ looking }: { readonly looking: Looking }): React.JSX.Element {
  const { item } = looking;
  const scenes = useQuery({
    queryKey: ['scenes', item],
    queryFn: ({ signal }) => get('/api/scenes', { item }, signal),
  });
  const [search] = useSearchParams();
  const changeSearch = useChangeSearch();
  const [isKeeping, keep] = useState(false);
  const [trouble, setTrouble] = useState('');
  const open = search.get('scene') ?? '';
  const rows = scenes.data?.rows ?? [];
  const shown = rows.find(({ id }) => id === open);
  const attempt = async (work: () => Promise<unknown>): Promise<void> => {
    setTrouble('');
    await work().catch((error: unknown) =>
      setTrouble(error instanceof Error ? error.message : String(error)),
    );
  };
  return (
    <Panel aria-label="Scenes">
      <Line>
        <Button onPress={() => keep(true)}>Keep this view …</Button>
        {shown?.isMine ? (
          <Button
            onPress={() =>
              void attempt(() =>
                send('PUT', '/api/scenes', {
                  id: shown.id,
                  name: shown.name,
                  look: keptLook(looking, shown.note),
                }),
              )
            }
          >
            Change “{shown.name}” to it
          </Button>
        ) : null}
      </Line>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      {rows.length === 0 ? <Soft>{NOTHING}</Soft> : null}
      <ul>
        {rows.map((row) => (
          <SceneRow
            key={row.id}
            row={row}
            isOpen={row.id === open}
            onOpen={() => changeSearch({ scene: row.id })}
            onRemove={() => void attempt(() => send('POST', '/api/scenes/remove', { id: row.id }))}
          />
        ))}
      </ul>
      {isKeeping ? <KeepDialog looking={looking} onClose={() => keep(false)} /> : null}
    </Panel>
  );
}

function KeepDialog({
  looking,
  onClose,
}: {
  readonly looking: Looking;
  readonly onClose: () => void;
}): React.JSX.Element {
  const changeSearch = useChangeSearch();
  const { item, state } = looking;
  return (
    <AskDialog
      title="Keep this view"
      action="Keep it"
      fields={[
        { key: 'name', label: 'Name', value: '' },
        { key: 'note', label: 'What is to be seen (may be empty)', value: state.note },
      ]}
      onAnswer={async ({ name = '', note = '' }) => {
        const { id } = await send('POST', '/api/scenes', { item, name, look: keptLook(looking, note) });
        changeSearch({ scene: id });
      }}
      onClose={onClose}
    />
  );
}

function keptLook({ state, scene, lens, stage }: Looking, note: string) {
  if (!stage) throw new Error('There is no picture yet.');
  return lookOf({ ...state, note }, { nodes: scene.nodes, lens, camera: stage.camera() });
}

interface SceneRowProps {
  readonly row: KeptSceneRow;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
  readonly onRemove: () => void;
}

function SceneRow({ row, isOpen, onOpen, onRemove }: SceneRowProps): React.JSX.Element {
  return (
    <li data-open={isOpen || undefined}>
      <QuietButton onPress={onOpen} aria-current={isOpen || undefined}>
        {row.name}
      </QuietButton>
      {row.note === '' ? null : <p>{row.note}</p>}
      <Soft>
        {row.by}, {row.version}, <When at={row.at} />
      </Soft>
      {row.isMine ? <QuietButton onPress={onRemove}>Take away</QuietButton> : null}
    </li>
  );
}

/** Shows the scene that the address names, once there is a picture. */
export function useKeptScene({ stage, scene, change }: Looking): string {
  const [search] = useSearchParams();
  const changeSearch = useChangeSearch();
  const id = search.get('scene') ?? '';
  const lens = search.get('lens') ?? 'recorded';
  const kept = useQuery({
    queryKey: ['scenes', 'one', id],
    queryFn: ({ signal }) => get('/api/scenes/one', { id }, signal),
    enabled: id !== '',
  });
  const done = useRef('');
  useEffect(() => {
    const look = kept.data?.look;
    if (!stage || !look || done.current === id) return;
    if (look.lens !== lens) {
      changeSearch({ lens: look.lens === 'recorded' ? '' : look.lens });
      return;
    }
    done.current = id;
    change(stateOf(look, scene.nodes));
    stage.lookFrom(look.camera);
  }, [stage, scene, kept.data, id, lens, change, changeSearch]);
  return kept.error?.message ?? '';
}

const Panel = styled.section`
  display: flex;
  flex-direction: column;
  gap: 6px;
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    padding: 4px 6px;
    border-left: 3px solid transparent;
  }
  li[data-open] {
    border-left-color: ${colour.petrol};
    background: ${colour.petrolSoft};
  }
  p {
    margin: 0;
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
`;
