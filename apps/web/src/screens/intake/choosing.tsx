import { useMutation } from '@tanstack/react-query';
import { FolderInput } from 'lucide-react';
import { useState } from 'react';
import { DropZone, FileTrigger, type DropItem } from 'react-aria-components';
import styled from 'styled-components';
import { Button, Field, Hint, PrimaryButton, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { beginSheet, type Progress } from '../../api/begin-sheet.js';
import { filesOfDrop, filesOfInput, type PickedFile } from '../../api/picked-files.js';
import { PlacePicker } from '../../frame/place-picker.js';
import { Line } from './line.js';
import { Bar } from '../../ui/progress-bar.js';
import { Unfinished } from './unfinished.js';

/** What comes in, and where to. */
export function Choosing({ onReady }: { readonly onReady: (id: string) => void }): React.JSX.Element {
  const [place, setPlace] = useState('');
  const [prefix, setPrefix] = useState('');
  const [progress, setProgress] = useState<Progress>();
  const bringIn = useMutation({
    mutationFn: (picked: readonly PickedFile[]) => beginSheet(picked, { place, prefix }, setProgress),
    onSuccess: onReady,
    onSettled: () => setProgress(undefined),
  });
  const drop = async (items: readonly DropItem[]): Promise<void> => bringIn.mutate(await filesOfDrop(items));
  return (
    <>
      <h1>Bring in files</h1>
      <Line>
        <PlacePicker
          label="Place in the store (empty: a new one named like the folder)"
          value={place}
          onChange={setPlace}
          width="380px"
          placeholder="/Projects/Tide station"
        />
        <Field label="Prefix for every number" value={prefix} onChange={setPrefix} mono width="180px" />
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
