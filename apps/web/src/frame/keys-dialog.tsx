import styled from 'styled-components';
import { Button } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { colour, font } from '../ui/theme.js';
import { useShownHints, type KeyBinding, type KeyHint } from './keys.js';

const TABLE_KEYS: readonly KeyHint[] = [
  { key: '↑ ↓', says: 'Move the cursor' },
  { key: 'Enter', says: 'Open the row under the cursor' },
  { key: 'Space', says: 'Put the row into the tray, or back' },
];

/** Every key there is and what it does; those of the screen that is shown come first. */
export function KeysDialog({
  isOpen,
  onClose,
  bindings,
}: {
  isOpen: boolean;
  onClose: () => void;
  bindings: readonly KeyBinding[];
}): React.JSX.Element {
  const hints = useShownHints();
  return (
    <DialogFrame title="Keys" widthPx={440} isOpen={isOpen} onClose={onClose}>
      <Scroll>
        <Keys title="On this screen" keys={hints} />
        <Keys title="In every table" keys={TABLE_KEYS} />
        <Keys title="Everywhere" keys={bindings} />
      </Scroll>
      <div>
        <Button slot="close">Close</Button>
      </div>
    </DialogFrame>
  );
}

function Keys({
  title,
  keys,
}: {
  readonly title: string;
  readonly keys: readonly KeyHint[];
}): React.JSX.Element | null {
  if (keys.length === 0) return null;
  return (
    <section aria-label={title}>
      <h3>{title}</h3>
      <List>
        {keys.map(({ key, says }) => (
          <div key={key + says}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{says}</dd>
          </div>
        ))}
      </List>
    </section>
  );
}

const Scroll = styled.div`
  overflow: auto;
  display: grid;
  gap: 12px;
  section {
    padding: 0;
  }
  h3 {
    font-size: 12px;
    color: ${colour.inkSoft};
    margin-bottom: 4px;
  }
`;
const List = styled.dl`
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
