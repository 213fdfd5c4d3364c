import styled from 'styled-components';
import { Button } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { colour, font } from '../ui/theme.js';
import type { KeyBinding } from './keys.js';

const ROW_KEYS = [
  ['↑ ↓', 'Move the cursor'],
  ['Enter', 'Open the row under the cursor'],
  ['Space', 'Put the row into the tray, or back'],
  ['← →', 'In Trace: along the stem; in an outline: close and open'],
  ['v', 'In Trace: the next view'],
  ['f', 'On a plate of the map: fold and unfold'],
  ['Ctrl C', 'In an outline: copy it as a table'],
  ['Backspace', 'In Trace: back to the focus before'],
] as const;

/** Every key there is, and what it does. */
export function KeysDialog({
  isOpen,
  onClose,
  bindings,
}: {
  isOpen: boolean;
  onClose: () => void;
  bindings: readonly KeyBinding[];
}): React.JSX.Element {
  return (
    <DialogFrame title="Keys" widthPx={420} isOpen={isOpen} onClose={onClose}>
      <Keys>
        {[...bindings.map(({ key, says }) => [key, says] as const), ...ROW_KEYS].map(([key, says]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{says}</dd>
          </div>
        ))}
      </Keys>
      <div>
        <Button slot="close">Close</Button>
      </div>
    </DialogFrame>
  );
}

const Keys = styled.dl`
  margin: 0;
  display: grid;
  gap: 5px;
  > div {
    display: grid;
    grid-template-columns: 100px 1fr;
  }
  dd {
    margin: 0;
  }
  kbd {
    font-family: ${font.mono};
    border: 1px solid ${colour.lineStrong};
    border-radius: 3px;
    padding: 0 6px;
  }
`;
