import { useMutation } from '@tanstack/react-query';
import { FolderInput } from 'lucide-react';
import { useState } from 'react';
import { DropZone, FileTrigger, type DropItem } from 'react-aria-components';
import styled from 'styled-components';
import { send, uploadArchive } from '../../api/client.js';
import { Button, Field, Hint, PrimaryButton, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { filesOfDrop, filesOfInput, topFolderOf, uploadAll, type PickedFile } from './files.js';
import { Line } from './line.js';
import { Bar } from '../../ui/progress-bar.js';
import { Unfinished } from './unfinished.js';
import { readWorkingCopy } from './working-copy.js';

/** What comes in, and where to. */
export function Choosing({ onReady }: { readonly onReady: (id: string) => void }): React.JSX.Element {
  const [place, setPlace] = useState('');
  const [prefix, setPrefix] = useState('');
  const [progress, setProgress] = useState<{ done: number; total: number }>();
  const bringIn = useMutation({
    mutationFn: async (picked: readonly PickedFile[]) => {
      const archive = picked.length === 1 && /\.zip$/i.test(picked[0]?.path ?? '') ? picked[0] : undefined;
      if (archive) {
        setProgress({ done: 0, total: 1 });
        const name = archive.path.replace(/\.zip$/i, '');
        const sheet = await uploadArchive(
          '/api/intakes/archive',
          { place: place || `/${name}`, prefix },
          archive.file,
        );
        return sheet.id;
      }
      if (picked.length === 0)
        throw new Error('There are no files in it. Choose a folder with design files.');
      const workingCopy = await readWorkingCopy(picked);
      const files = workingCopy?.changed ?? picked;
      setProgress({ done: 0, total: files.length });
      const created = await send('POST', '/api/intakes', {
        place: place || `/${topFolderOf(picked)}`,
        prefix,
        ...(workingCopy ? { manifest: workingCopy.manifest } : {}),
      });
      await uploadAll(created.id, files, (done) => setProgress({ done, total: files.length }));
      return created.id;
    },
    onSuccess: onReady,
    onSettled: () => setProgress(undefined),
  });
  const drop = async (items: readonly DropItem[]): Promise<void> => bringIn.mutate(await filesOfDrop(items));
  return (
    <>
      <h1>Bring in files</h1>
      <Line>
        <Field
          label="Place in the store (the folder’s name where empty)"
          value={place}
          onChange={setPlace}
          width="320px"
          placeholder="/Projects/Tide station"
        />
        <Field label="Put before every number" value={prefix} onChange={setPrefix} mono width="180px" />
      </Line>
      <Zone onDrop={(event) => void drop(event.items)} aria-label="Drop a folder or files here">
        <FolderInput size={34} aria-hidden />
        <p>Drop a folder here, files, or a ZIP</p>
        <FileTrigger acceptDirectory onSelect={(list) => list && bringIn.mutate(filesOfInput(list))}>
          <PrimaryButton isDisabled={bringIn.isPending}>Choose a folder</PrimaryButton>
        </FileTrigger>
        <FileTrigger allowsMultiple onSelect={(list) => list && bringIn.mutate(filesOfInput(list))}>
          <Button isDisabled={bringIn.isPending}>Choose files</Button>
        </FileTrigger>
        <Hint>
          Any kind of file comes in. STEP and DXF are read with their references, documents with their text.
          Nothing is written before you have seen what was recognised.
        </Hint>
      </Zone>
      <Unfinished onOpen={onReady} />
      {progress ? <Bar label="Reading files" {...progress} /> : null}
      {bringIn.error ? <Trouble>{bringIn.error.message}</Trouble> : null}
    </>
  );
}

const Zone = styled(DropZone)`
  flex: 0 1 340px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 10px;
  border: 2px dashed ${colour.lineStrong};
  border-radius: 8px;
  background: ${colour.surface};
  color: ${colour.inkSoft};
  text-align: center;
  &[data-drop-target] {
    border-color: ${colour.petrol};
    background: ${colour.petrolSoft};
  }
`;
