import { countsAsReleased } from '@stem-trace/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { AlongRow, ItemView } from '@stem-trace/contract';
import { FolderOutput, TextCursorInput } from 'lucide-react';
import { useState } from 'react';
import { send } from '../api/client.js';
import { AskDialog } from '../ui/ask-dialog.js';
import { Hint, Mono, QuietButton, Soft } from '../ui/controls.js';
import { AttentionMark } from '../ui/glyphs.js';
import { useStates } from '../ui/states.js';
import { Tick } from '../ui/tick.js';
import { usePerson } from './person.js';
import { PlacePicker } from './place-picker.js';
import { useUndo } from './undo.js';

/** Another name, file name or place for the item under the cursor. */
export function RenameActions({ item }: { readonly item: ItemView }): React.JSX.Element | null {
  const person = usePerson();
  const [asking, setAsking] = useState<'name' | 'place'>();
  const heldByOther = item.heldBy !== null && item.heldBy.login !== person.login;
  if (person.role === 'viewer' || heldByOther) return null;
  const onClose = (): void => setAsking(undefined);
  return (
    <>
      <QuietButton onPress={() => setAsking('name')}>
        <TextCursorInput size={15} aria-hidden /> Rename …
      </QuietButton>
      <QuietButton onPress={() => setAsking('place')}>
        <FolderOutput size={15} aria-hidden /> Move …
      </QuietButton>
      {asking === 'name' ? <RenameDialog {...{ item, onClose }} /> : null}
      {asking === 'place' ? <MoveDialog items={[item.number]} from={item.place} onClose={onClose} /> : null}
    </>
  );
}

interface RenameDialogProps {
  readonly item: ItemView;
  readonly onClose: () => void;
}

function RenameDialog({ item, onClose }: RenameDialogProps): React.JSX.Element {
  const queries = useQueryClient();
  const offerUndo = useUndo();
  const isReleased = countsAsReleased(useStates(), item.state);
  const rename = async (names: Readonly<Record<string, string>>): Promise<void> => {
    await send('POST', '/api/items/rename', { item: item.number, ...names });
    await queries.invalidateQueries();
  };
  return (
    <AskDialog
      title={`Rename ${item.number}`}
      action={isReleased ? 'Rename the released item' : 'Rename'}
      says={
        <>
          {isReleased ? (
            <p>
              <AttentionMark>{item.state}</AttentionMark> What was released keeps its content. From now on it
              is shown and handed out under the new name, though prints and copies outside say the old one.
            </p>
          ) : null}
          <Hint>
            {item.usedIn > 0 ? `Used in ${item.usedIn}. ` : ''}Whoever holds or watches it or a user of it is
            told. The former name still finds it.
          </Hint>
        </>
      }
      fields={[
        { key: 'name', label: 'Name', value: item.name },
        ...(item.carrier
          ? []
          : [{ key: 'fileName', label: 'File name, for whoever fetches it', value: item.fileName }]),
      ]}
      onAnswer={async (answers) => {
        await rename(answers);
        offerUndo({
          says: `${item.number} is renamed.`,
          undo: () => rename({ name: item.name, ...(item.carrier ? {} : { fileName: item.fileName }) }),
        });
      }}
      onClose={onClose}
    />
  );
}

export interface MoveDialogProps {
  readonly items: readonly string[];
  /** Where all of them lie now, where that is one place: moving can be undone then. */
  readonly from?: string;
  readonly onClose: () => void;
}

/** Moves items, with their drawings and documents where that is wanted. */
export function MoveDialog({ items, from, onClose }: MoveDialogProps): React.JSX.Element {
  const queries = useQueryClient();
  const offerUndo = useUndo();
  const [place, setPlace] = useState(from ?? '');
  const [takesAlong, takeAlong] = useState(true);
  const papers = useQuery({
    queryKey: ['items', 'along', items, place],
    queryFn: () => send('POST', '/api/items/along', { items, place }),
    enabled: place !== '' && place !== from,
  });
  const along = papers.data ?? [];
  const what = items.length === 1 ? items[0] : `${items.length} items`;
  return (
    <AskDialog
      title={`Move ${what}`}
      action="Move"
      fields={[
        {
          key: 'place',
          label: 'Place',
          value: from ?? '',
          render: () => <PlacePicker label="Place" value={place} onChange={setPlace} width="100%" />,
        },
        {
          key: 'along',
          label: 'Along',
          value: '',
          render: () => <Along papers={along} isTaken={takesAlong} onTake={takeAlong} />,
        },
      ]}
      onAnswer={async () => {
        if (place === '') throw new Error('Choose a place first.');
        const isAlong = takesAlong && along.length > 0;
        await send('POST', '/api/items/move', { items, place, along: isAlong });
        await queries.invalidateQueries();
        if (from === undefined || (isAlong && along.some((paper) => paper.place !== from))) return;
        offerUndo({
          says: `${what} moved to ${place}.`,
          undo: () => send('POST', '/api/items/move', { items, place: from, along: isAlong }),
        });
      }}
      onClose={onClose}
    />
  );
}

interface AlongProps {
  readonly papers: readonly AlongRow[];
  readonly isTaken: boolean;
  readonly onTake: (isTaken: boolean) => void;
}

function Along({ papers, isTaken, onTake }: AlongProps): React.JSX.Element {
  if (papers.length === 0) return <Soft>Whoever holds or watches it or a user of it is told.</Soft>;
  return (
    <>
      <Tick isSelected={isTaken} onChange={onTake}>
        Take {papers.length === 1 ? 'its drawing or document' : `${papers.length} drawings and documents`}{' '}
        along
      </Tick>
      <p>
        {papers.slice(0, 5).map(({ number }) => (
          <Mono key={number}>{number} </Mono>
        ))}
        {papers.length > 5 ? <Soft>and {papers.length - 5} more</Soft> : null}
      </p>
    </>
  );
}
