import { useEffect, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { beginSheet } from '../api/begin-sheet.js';
import { filesOfTransfer, type PickedFile } from '../api/picked-files.js';
import { Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { SingleFileDialog } from './single-file-dialog.js';

/** A file that is dropped beside every target begins an intake; the browser never opens it instead. */
export function DropAnywhere(): React.JSX.Element | null {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [single, setSingle] = useState<PickedFile>();
  const [trouble, setTrouble] = useState('');
  const place = search.get('place') ?? '';
  useEffect(() => {
    const bringIn = async (transfer: DataTransfer): Promise<void> => {
      const picked = await filesOfTransfer(transfer);
      const [first, second] = picked;
      if (first && !second && !/\.zip$/i.test(first.path)) setSingle(first);
      else if (first)
        void navigate(`/intake?sheet=${await beginSheet(picked, { place, prefix: '' }, () => undefined)}`);
    };
    const over = (event: DragEvent): void => event.preventDefault();
    const drop = (event: DragEvent): void => {
      // What a target took is its own.
      const isTaken = event.defaultPrevented;
      event.preventDefault();
      const transfer = event.dataTransfer;
      if (isTaken || !transfer || transfer.files.length === 0) return;
      bringIn(transfer).catch((error: unknown) =>
        setTrouble(error instanceof Error ? error.message : String(error)),
      );
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, [navigate, place]);
  if (trouble !== '')
    return (
      <DialogFrame title="Not brought in" widthPx={420} onClose={() => setTrouble('')}>
        <Trouble>{trouble}</Trouble>
      </DialogFrame>
    );
  return single ? (
    <SingleFileDialog picked={single} place={place} onClose={() => setSingle(undefined)} />
  ) : null;
}
