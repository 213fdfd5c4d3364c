import { useQueryClient } from '@tanstack/react-query';
import type { Addresses, ItemView } from '@stem-trace/contract';
import { FolderOutput, TextCursorInput } from 'lucide-react';
import { useState } from 'react';
import { send } from '../api/client.js';
import { AskDialog } from '../ui/ask-dialog.js';
import { QuietButton } from '../ui/controls.js';
import { usePerson } from './person.js';

/** Another name, file name or place for the item under the cursor. */
export function RenameActions({ item }: { readonly item: ItemView }): React.JSX.Element | null {
  const person = usePerson();
  const queries = useQueryClient();
  const [asking, setAsking] = useState<'name' | 'place'>();
  const heldByOther = item.heldBy !== null && item.heldBy.login !== person.login;
  if (person.role === 'viewer' || heldByOther) return null;
  const carryOut = async (path: Addresses<'POST'>, body: unknown): Promise<void> => {
    await send('POST', path, body);
    await queries.invalidateQueries();
  };
  return (
    <>
      <QuietButton onPress={() => setAsking('name')}>
        <TextCursorInput size={15} aria-hidden /> Rename …
      </QuietButton>
      <QuietButton onPress={() => setAsking('place')}>
        <FolderOutput size={15} aria-hidden /> Move …
      </QuietButton>
      {asking === 'name' ? (
        <AskDialog
          title={`Rename ${item.number}`}
          action="Rename"
          fields={[
            { key: 'name', label: 'Name', value: item.name },
            ...(item.carrier
              ? []
              : [{ key: 'fileName', label: 'File name, for whoever fetches it', value: item.fileName }]),
          ]}
          onAnswer={(answers) => carryOut('/api/items/rename', { item: item.number, ...answers })}
          onClose={() => setAsking(undefined)}
        />
      ) : null}
      {asking === 'place' ? (
        <AskDialog
          title={`Move ${item.number}`}
          action="Move"
          fields={[{ key: 'place', label: 'Place', value: item.place }]}
          onAnswer={({ place }) => carryOut('/api/items/move', { items: [item.number], place })}
          onClose={() => setAsking(undefined)}
        />
      ) : null}
    </>
  );
}
